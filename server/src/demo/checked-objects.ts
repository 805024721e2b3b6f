import type { Transaction } from 'sequelize'
import { dealSchema, listSchema, offerSchema, parseInput, shopSchema, trackerSchema } from '@tin-harbor/core/buying'
import { creativeSchema } from '@tin-harbor/core/creative'
import { invalidField } from '../http/errors.js'
import { Offer } from '../advertisers/offer-model.js'
import { Shop } from '../advertisers/shop-model.js'
import type { Tracker } from '../advertisers/tracker-model.js'
import { makeTracker } from '../advertisers/trackers.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { SavedList } from '../lists/list-model.js'
import type { Catalogue } from '../market/catalogue.js'

/**
 * What lines are made of besides themselves: each is checked by its schema before it becomes a row.
 * All throw `InputError` naming the field.
 */
export async function createOffer(advertiserId: number, input: unknown, transaction: Transaction): Promise<Offer> {
  const { name, ...terms } = parseInput(offerSchema, input)
  return Offer.create({ advertiserId, name, terms }, { transaction })
}

export async function createTracker(advertiserId: number, input: unknown, transaction: Transaction): Promise<Tracker> {
  return makeTracker(advertiserId, parseInput(trackerSchema, input), transaction)
}

export async function createShop(advertiserId: number, input: unknown, transaction: Transaction): Promise<Shop> {
  return Shop.create({ advertiserId, ...parseInput(shopSchema, input) }, { transaction })
}

export async function createList(
  organisationId: number,
  advertiserId: number | null,
  input: unknown,
  transaction: Transaction
): Promise<SavedList> {
  const { name, kind, values, group } = parseInput(listSchema, input)
  return SavedList.create({ organisationId, advertiserId, name, kind, contents: { values, group } }, { transaction })
}

/** A deal is of one publisher's own placements. */
export async function createDeal(
  { inventory }: Catalogue,
  organisationId: number,
  input: unknown,
  transaction: Transaction
): Promise<GrantedDeal> {
  const { volume, leastSpendMicros, ...terms } = parseInput(dealSchema, input)
  const foreign = terms.placements.filter(
    (placement) => inventory.properties[inventory.placements[placement]?.property]?.publisher !== terms.publisher
  )
  if (foreign.length > 0) throw invalidField('placements', `Not placements of this publisher: ${foreign.slice(0, 5).join(', ')}.`)
  return GrantedDeal.create(
    { organisationId, ...terms, volume: volume ?? null, leastSpendMicros: leastSpendMicros ?? null },
    { transaction }
  )
}

export async function createCreative(advertiserId: number, input: unknown, transaction: Transaction): Promise<MadeCreative> {
  return MadeCreative.create({ advertiserId, ...parseInput(creativeSchema, input) }, { transaction })
}
