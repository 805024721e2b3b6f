import { createHmac, randomBytes } from 'node:crypto'
import type { Sequelize, Transaction } from 'sequelize'
import { CALLED, type TrackerDraft } from '@tin-harbor/core/buying'
import type { TrackerView } from '@tin-harbor/core/contract'
import type { MarketState } from '../exchange/market-model.js'
import { lockMarket, publish } from '../going-live/publications.js'
import { invalidField, stale, unknownObject } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { Tracker } from './tracker-model.js'

/** Makes a tracker with an address and a secret of its own. */
export const makeTracker = (advertiserId: number, draft: TrackerDraft, transaction: Transaction): Promise<Tracker> =>
  Tracker.create(
    {
      advertiserId,
      ...draft,
      pages: draft.pages ?? null,
      pathKey: randomBytes(9).toString('hex'),
      secret: randomBytes(32).toString('hex')
    },
    { transaction }
  )

export const trackerView = (
  { id, advertiserId, name, kind, subject, reports, clickHours, viewHours, valueMicros, pages, pathKey, version }: Tracker,
  counts: { today: number; all: number; lastAt: number | null }
): TrackerView => ({
  id,
  advertiserId,
  name,
  kind,
  subject,
  reports,
  clickHours,
  viewHours,
  valueMicros,
  pages: pages ?? CALLED,
  key: pathKey,
  version,
  ...counts
})

export async function findTracker(id: number): Promise<Tracker> {
  const tracker = await Tracker.findByPk(id)
  if (!tracker) throw unknownObject('tracker')
  return tracker
}

const told = ({ name, kind, subject, reports, clickHours, viewHours, valueMicros, pages }: Tracker) => ({
  name,
  kind,
  subject,
  reports,
  clickHours,
  viewHours,
  valueMicros,
  pages
})

/** Payouts and pages name a tracker: no two of an advertiser have one name. */
async function requireOwnName(advertiserId: number, id: number | null, { name }: TrackerDraft, transaction: Transaction): Promise<void> {
  const other = await Tracker.findOne({ where: { advertiserId, name }, transaction })
  if (other && other.id !== id) throw invalidField('name', `A tracker is called “${name}” already.`)
}

/** What counts is read with what is in force: a market that runs takes it up with its next hour. */
async function takeUp(state: MarketState, { id, organisationId }: Actor, transaction: Transaction): Promise<void> {
  if (state.organisationId === organisationId) await publish(state, { madeBy: id }, transaction)
}

export async function createTracker(sequelize: Sequelize, actor: Actor, advertiserId: number, draft: TrackerDraft): Promise<Tracker> {
  return sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    await requireOwnName(advertiserId, null, draft, transaction)
    const tracker = await makeTracker(advertiserId, draft, transaction)
    await takeUp(state, actor, transaction)
    await audit(actor, 'create', { kind: 'tracker', id: tracker.id, advertiserId }, null, draft, transaction)
    return tracker
  })
}

/** Saves a tracker. Its windows count for what comes from now on. */
export async function saveTracker(sequelize: Sequelize, actor: Actor, id: number, version: number, draft: TrackerDraft): Promise<Tracker> {
  return sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    const tracker = await Tracker.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    if (tracker.version !== version) throw stale('tracker', { version: tracker.version, draft: told(tracker) })
    await requireOwnName(tracker.advertiserId, id, draft, transaction)
    const was = told(tracker)
    await tracker.update({ ...draft, pages: draft.pages ?? null, version: version + 1 }, { transaction })
    await takeUp(state, actor, transaction)
    await audit(actor, 'save', { kind: 'tracker', id, advertiserId: tracker.advertiserId }, was, draft, transaction)
    return tracker
  })
}

/** What a postback is signed over: what it says, a line each. */
export const SIGNED_FIELDS = ['click', 'transaction', 'value', 'currency', 'at'] as const
export type SignedFields = Record<(typeof SIGNED_FIELDS)[number], string>

/** The signature of a postback: HMAC-SHA256 (RFC 2104) over its fields, as hexadecimal digits. */
export const postbackSignature = (secret: string, fields: SignedFields): string =>
  createHmac('sha256', Buffer.from(secret, 'hex'))
    .update(SIGNED_FIELDS.map((name) => fields[name]).join('\n'))
    .digest('hex')
