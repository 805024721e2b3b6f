import type { OfferView } from '@tin-harbor/core/contract'
import type { CountedEvent } from '@tin-harbor/core/response'
import { unknownObject } from '../http/errors.js'
import { Offer } from './offer-model.js'
import { Tracker } from './tracker-model.js'
import type { Actor } from '../security/sessions.js'
import { listAdvertisers } from '../campaigns/campaigns.js'

const bestPaid = ({ terms }: Offer) =>
  terms.payouts.filter((payout) => payout.micros !== null).sort((a, b) => (b.micros ?? 0) - (a.micros ?? 0))[0]

/** What the best paid event of an offer is counted by; undefined where the user sees no such offer, or it has no tracker. */
export async function countedOf(actor: Actor, offerId: number): Promise<CountedEvent[] | undefined> {
  const advertisers = (await listAdvertisers(actor)).map((advertiser) => advertiser.id)
  const offer = await Offer.findOne({ where: { id: offerId, advertiserId: advertisers } })
  if (!offer) throw unknownObject('offer')
  const event = bestPaid(offer)?.event
  const trackers = await Tracker.findAll({ where: { advertiserId: offer.advertiserId }, order: [['id', 'ASC']] })
  const own = trackers.filter((tracker) => tracker.name === event)
  return own.length > 0 ? own.map(({ kind, clickHours, viewHours }) => ({ kind, clickHours, viewHours })) : undefined
}

/** Offers of the advertisers that a user sees, with what each pays best. */
export async function listOffers(actor: Actor): Promise<OfferView[]> {
  const advertisers = new Map((await listAdvertisers(actor)).map((advertiser) => [advertiser.id, advertiser.name]))
  const offers = await Offer.findAll({ where: { advertiserId: [...advertisers.keys()] }, order: [['id', 'ASC']] })
  return offers.flatMap((offer) => {
    const { id, name, advertiserId } = offer
    const best = bestPaid(offer)
    return best?.micros == null
      ? []
      : [{ id, name, advertiser: advertisers.get(advertiserId) ?? '', event: best.event, payoutMicros: best.micros }]
  })
}
