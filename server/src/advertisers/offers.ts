import type { Sequelize } from 'sequelize'
import type { Offer as OfferDraft } from '@tin-harbor/core/buying'
import type { OfferPage, OfferView } from '@tin-harbor/core/contract'
import type { CountedEvent } from '@tin-harbor/core/response'
import { Campaign } from '../campaigns/campaign-model.js'
import { conflict, stale, unknownObject } from '../http/errors.js'
import { audit } from '../team/audit.js'
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

export async function findOffer(id: number): Promise<Offer> {
  const offer = await Offer.findByPk(id)
  if (!offer) throw unknownObject('offer')
  return offer
}

/** Offers of an advertiser as their page shows them. */
export async function offersFor(advertiserId: number): Promise<OfferPage[]> {
  const offers = await Offer.findAll({ where: { advertiserId }, order: [['id', 'ASC']] })
  const campaigns = await Campaign.findAll({ where: { offerId: offers.map(({ id }) => id) }, order: [['id', 'ASC']] })
  const counted = new Set((await Tracker.findAll({ attributes: ['name'], where: { advertiserId } })).map(({ name }) => name))
  return offers.map(({ id, name, terms, version }) => ({
    id,
    advertiserId,
    name,
    ...terms,
    version,
    campaigns: campaigns.filter(({ offerId }) => offerId === id).map((campaign) => ({ id: campaign.id, name: campaign.name })),
    tracked: terms.payouts.map(({ event }) => counted.has(event))
  }))
}

export async function createOffer(sequelize: Sequelize, actor: Actor, advertiserId: number, { name, ...terms }: OfferDraft): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const offer = await Offer.create({ advertiserId, name, terms }, { transaction })
    await audit(actor, 'create', { kind: 'offer', id: offer.id, advertiserId }, null, { name, ...terms }, transaction)
  })
}

export async function saveOffer(
  sequelize: Sequelize,
  actor: Actor,
  id: number,
  version: number,
  { name, ...terms }: OfferDraft
): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const offer = await Offer.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    if (offer.version !== version) throw stale('offer', { version: offer.version, draft: { name: offer.name, ...offer.terms } })
    const was = { name: offer.name, ...offer.terms }
    await offer.update({ name, terms, version: version + 1 }, { transaction })
    await audit(actor, 'save', { kind: 'offer', id, advertiserId: offer.advertiserId }, was, { name, ...terms }, transaction)
  })
}

/** Throws away an offer that no campaign sells. */
export async function deleteOffer(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const offer = await Offer.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    const campaign = await Campaign.findOne({ where: { offerId: id }, transaction })
    if (campaign) throw conflict(`“${campaign.name}” sells it; let it sell something else first.`)
    await audit(actor, 'delete', { kind: 'offer', id, advertiserId: offer.advertiserId }, { name: offer.name }, null, transaction)
    await offer.destroy({ transaction })
  })
}
