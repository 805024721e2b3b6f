import { Op } from 'sequelize'
import type { DealView, OfferedDealView } from '@tin-harbor/core/contract'
import { conflict, invalidField } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import type { OfferedDeal } from '../standins/offered-deals.js'
import { audit } from '../team/audit.js'
import type { Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'
import { dealView } from './deal-asks.js'
import { GrantedDeal, isExpired } from './deal-model.js'

type Needs = Pick<Deps, 'sequelize' | 'catalogue' | 'dealOffice'>
const kept = new WeakMap<Needs['dealOffice'], Promise<OfferedDeal[]>>()

/** What publishers' offices offer: they are asked once, since offers stay as they are. */
export function offersOf({ dealOffice }: Pick<Needs, 'dealOffice'>): Promise<OfferedDeal[]> {
  const known = kept.get(dealOffice)
  if (known) return known
  const asked = fetch(`${dealOffice.address}/offers`, { signal: AbortSignal.timeout(4000) }).then(async (response) => {
    if (response.status !== 200) throw new Error(`The deal offices answered ${response.status}.`)
    return ((await response.json()) as { offers: OfferedDeal[] }).offers
  })
  kept.set(dealOffice, asked)
  // What failed is asked again.
  asked.catch(() => kept.delete(dealOffice))
  return asked
}

/** Offers, with the deals that the organisation took them as. */
export async function offeredTo(deps: Needs, actor: Actor): Promise<OfferedDealView[]> {
  const { properties, placements, publishers } = deps.catalogue.inventory
  const { hour } = await readMarket()
  const { organisationId } = actor
  const deals = await GrantedDeal.findAll({ where: { organisationId, offer: { [Op.ne]: null } } })
  const taken = new Map(deals.filter((deal) => !isExpired(deal, hour)).map(({ offer, id }) => [offer, id]))
  return (await offersOf(deps)).map(({ publisher, placements: own, ...offer }) => ({
    ...offer,
    publisher: publishers[publisher].name,
    placements: own.length,
    properties: [...new Set(own.map((placement) => properties[placements[placement].property].name))],
    dealId: taken.get(offer.code) ?? null
  }))
}

/**
 * Takes an offer: it is a deal of the organisation's from now on.
 * @throws a field error for one that nobody makes, a conflict for one that stands already
 */
export async function takeOffer(deps: Needs, actor: Actor, code: string): Promise<DealView> {
  const offer = (await offersOf(deps)).find((one) => one.code === code)
  if (!offer) throw invalidField('offer', 'No offer is called that.')
  const { hour } = await readMarket()
  const { name, publisher, kind, priceMicros, placements, volume, leastSpendMicros, days } = offer
  return deps.sequelize.transaction(async (transaction) => {
    // Two clicks at once take it once: whoever comes second waits for the first.
    const rows = await GrantedDeal.findAll({ where: { organisationId: actor.organisationId }, transaction, lock: transaction.LOCK.UPDATE })
    const own = rows.find((row) => row.offer === code && !isExpired(row, hour))
    if (own) throw conflict(`It stands already, as deal ${own.id}.`)
    const deal = await GrantedDeal.create(
      {
        organisationId: actor.organisationId,
        name,
        publisher,
        kind,
        priceMicros,
        placements,
        volume,
        leastSpendMicros,
        untilHour: hour + 24 * days,
        offer: code
      },
      { transaction }
    )
    await audit(actor, 'take', { kind: 'deal', id: deal.id, advertiserId: null }, null, { offer: code }, transaction)
    return dealView(deal, deps, hour, [])
  })
}
