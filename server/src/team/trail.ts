import { Op, type WhereOptions } from 'sequelize'
import type { TrailEntry, TrailView } from '@tin-harbor/core/contract'
import { dayOfDate, instantOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { didWords, plainChanges } from '@tin-harbor/core/wording'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Offer } from '../advertisers/offer-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { Feed } from '../feeds/feed-model.js'
import { cursorOf, readCursor } from '../http/cursor.js'
import { Line } from '../lines/line-model.js'
import { SavedList } from '../lists/list-model.js'
import { Payment } from '../money/payment-model.js'
import type { Actor } from '../security/sessions.js'
import { Slip } from '../slips/slip-model.js'
import { draftChanges } from './audit.js'
import { AuditEntry } from './audit-model.js'
import { AccessToken, Invitation } from './team-models.js'
import { Organisation, User } from './user-model.js'

const PAGE = 50
const MOST_PAGE = 500

export interface TrailAsked {
  who?: number
  kind?: string
  advertiser?: number
  /** Dates of the organisation's calendar, in real time, both in. */
  from?: string
  to?: string
  after?: string
  limit?: number
}

/** What everybody of an organisation did, of the advertisers that the user sees, the newest first, a page of it. */
export async function trailOf(actor: Actor, asked: TrailAsked): Promise<TrailView> {
  const organisation = await Organisation.findByPk(actor.organisationId, { rejectOnEmpty: true })
  const zone = zoneIndex(organisation.zone)
  const people = await User.findAll({ where: { organisationId: organisation.id }, order: [['id', 'ASC']] })
  const after = readCursor(asked.after)
  const instant = (date: string, days: number) => instantOf(startOfLocalDay(zone, dayOfDate(date) + days)).getTime() / 1000
  const seen = [...actor.advertisers]
  const mine: WhereOptions[] = [
    { [Op.or]: [{ advertiserId: seen }, { advertiserId: null, userId: people.map(({ id }) => id) }] },
    ...(asked.who === undefined ? [] : [{ userId: asked.who }]),
    ...(asked.kind === undefined ? [] : [{ object: asked.kind }]),
    ...(asked.advertiser === undefined ? [] : [{ advertiserId: asked.advertiser }]),
    ...(asked.from === undefined ? [] : [{ at: { [Op.gte]: instant(asked.from, 0) } }]),
    ...(asked.to === undefined ? [] : [{ at: { [Op.lt]: instant(asked.to, 1) } }]),
    ...(after === null ? [] : [{ id: { [Op.lt]: after } }])
  ]
  const limit = Math.min(asked.limit ?? PAGE, MOST_PAGE)
  const rows = await AuditEntry.findAll({ where: { [Op.and]: mine }, order: [['id', 'DESC']], limit: limit + 1 })
  const entries = rows.slice(0, limit)
  const names = await namesOf(entries)
  const who = new Map(people.map(({ id, name }) => [id, name]))
  const advertisers = new Map((await Advertiser.findAll({ where: { id: seen } })).map(({ id, name }) => [id, name]))
  const told = (note: unknown) => withNames(note, advertisers)
  return {
    entries: entries.map((entry): TrailEntry => {
      const { id, at: when, hour, userId, action, object: kind, objectId, advertiserId, slipId, was, became } = entry
      return {
        id,
        at: when,
        hour: hour ?? null,
        who: userId === null ? 'the market' : (who.get(userId) ?? 'somebody who left'),
        did: didWords(action, kind),
        kind,
        object: objectId,
        name: names.get(`${kind} ${objectId}`) ?? nameIn(became) ?? nameIn(was) ?? `number ${objectId}`,
        advertiser: advertiserId === null ? null : (advertisers.get(advertiserId) ?? null),
        slip: slipId == null ? null : (names.get(`slip ${slipId}`) ?? `number ${slipId}`),
        isDraft: draftChanges(was, became) !== null,
        changes: draftChanges(was, became) ?? plainChanges(told(was), told(became))
      }
    }),
    next: rows.length > limit ? cursorOf(entries[entries.length - 1].id) : null,
    people: people.map(({ id, name }) => ({ id, name }))
  }
}

/** A note of what somebody may see, with advertisers by their names. */
function withNames(note: unknown, names: ReadonlyMap<number, string>): unknown {
  const { advertisers } = ((typeof note === 'object' ? note : null) as { advertisers?: unknown } | null) ?? {}
  if (!Array.isArray(advertisers)) return note
  return { ...(note as object), advertisers: advertisers.map((id: number) => names.get(id) ?? 'one that you do not see') }
}

/** The name that a note of an object holds. */
function nameIn(note: unknown): string | null {
  const { name } = ((typeof note === 'object' ? note : null) as { name?: unknown } | null) ?? {}
  return typeof name === 'string' ? name : null
}

/** Names of what entries are of, by kind and number; what is gone has none. */
async function namesOf(entries: readonly AuditEntry[]): Promise<Map<string, string>> {
  const found = new Map<string, string>()
  const named = (one: { id: number; name?: string }) => one.name ?? ''
  const read = async <T extends { id: number }>(kind: string, find: (id: number[]) => Promise<T[]>, name: (one: T) => string) => {
    const own = entries.filter(({ object }) => object === kind).map(({ objectId }) => objectId)
    const slips = kind === 'slip' ? entries.flatMap(({ slipId }) => slipId ?? []) : []
    const id = [...new Set([...own, ...slips])]
    if (id.length > 0) for (const one of await find(id)) found.set(`${kind} ${one.id}`, name(one))
  }
  await read(
    'line',
    (id) => Line.findAll({ where: { id } }),
    ({ draft }) => draft.name
  )
  await read('campaign', (id) => Campaign.findAll({ where: { id } }), named)
  await read('advertiser', (id) => Advertiser.findAll({ where: { id } }), named)
  await read('offer', (id) => Offer.findAll({ where: { id } }), named)
  await read('tracker', (id) => Tracker.findAll({ where: { id } }), named)
  await read('deal', (id) => GrantedDeal.findAll({ where: { id } }), named)
  await read(
    'feed',
    (id) => Feed.findAll({ where: { id } }),
    ({ draft }) => draft.name
  )
  await read('list', (id) => SavedList.findAll({ where: { id } }), named)
  await read('slip', (id) => Slip.findAll({ where: { id } }), named)
  await read(
    'payment',
    (id) => Payment.findAll({ where: { id } }),
    ({ amountMicros, kind }) => `${(amountMicros / 1e6).toFixed(2)}, ${kind}`
  )
  await read('organisation', (id) => Organisation.findAll({ where: { id } }), named)
  await read('user', (id) => User.findAll({ where: { id } }), named)
  await read(
    'invitation',
    (id) => Invitation.findAll({ where: { id } }),
    ({ email }) => email
  )
  await read('token', (id) => AccessToken.findAll({ where: { id } }), named)
  return found
}
