import type { OfferView } from '@tin-harbor/core/buying'
import { Offer } from '../models/index.js'
import type { Actor } from '../security/sessions.js'
import { listAdvertisers } from './campaigns.js'

/** Offers of the advertisers that a user sees, with what each pays best. */
export async function listOffers(actor: Actor): Promise<OfferView[]> {
  const advertisers = new Map((await listAdvertisers(actor)).map((advertiser) => [advertiser.id, advertiser.name]))
  const offers = await Offer.findAll({ where: { advertiserId: [...advertisers.keys()] }, order: [['id', 'ASC']] })
  return offers.flatMap(({ id, name, advertiserId, terms }) => {
    const best = terms.payouts.filter((payout) => payout.micros !== null).sort((a, b) => (b.micros ?? 0) - (a.micros ?? 0))[0]
    return best?.micros == null
      ? []
      : [{ id, name, advertiser: advertisers.get(advertiserId) ?? '', event: best.event, payoutMicros: best.micros }]
  })
}
