import type { AdsTxt } from './ads-txt.js'
import type { SellersJson } from './sellers-json.js'

/** How a system says that it sells a property: its account there, and whether the account is the publisher's own. */
export interface Offer {
  system: string
  seller: string
  relation: 'DIRECT' | 'RESELLER'
}

export type ChainVerdict = { ok: true; line: number } | { ok: false; problem: string }

/**
 * Whether an offer is authorised and its chain closes: the publisher's ads.txt names the account with that relation, and the
 * system's sellers.json knows the account as what the relation says.
 * @param owner domain of the publisher
 */
export function checkChain(offer: Offer, adsTxt: AdsTxt | null, sellers: SellersJson | null, owner: string): ChainVerdict {
  const no = (problem: string): ChainVerdict => ({ ok: false, problem })
  if (!adsTxt) return no('The publisher has no ads.txt: nobody can say who sells for it.')
  const named = adsTxt.records.filter((record) => record.system === offer.system && record.seller === offer.seller)
  if (named.length === 0) {
    const others = adsTxt.records.some((record) => record.system === offer.system)
    return no(others ? `ads.txt names ${offer.system}, but not the account ${offer.seller}.` : `ads.txt does not name ${offer.system}.`)
  }
  const record = named.find((one) => one.relation === offer.relation)
  if (!record) return no(`ads.txt calls the account ${named[0].relation}, the offer ${offer.relation}.`)
  if (!sellers) return no(`${offer.system} has no sellers.json that can be read.`)
  const seller = sellers.sellers.get(offer.seller)
  if (!seller) return no(`The sellers.json of ${offer.system} does not know ${offer.seller}: the chain does not close.`)
  if (offer.relation === 'DIRECT' && seller.type === 'INTERMEDIARY')
    return no(`The account is said to be the publisher’s own, but ${offer.system} knows it as an intermediary.`)
  if (
    offer.relation === 'DIRECT' &&
    seller.domain !== null &&
    seller.domain !== owner &&
    !(adsTxt.variables.OWNERDOMAIN ?? []).includes(seller.domain)
  )
    return no(`The account belongs to ${seller.domain}, not to ${owner}.`)
  if (offer.relation === 'RESELLER' && seller.type === 'PUBLISHER')
    return no(`The account resells, but ${offer.system} knows it as a publisher.`)
  return { ok: true, line: record.line }
}
