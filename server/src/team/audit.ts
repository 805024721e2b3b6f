import type { Transaction } from 'sequelize'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { HistoryEntry } from '@tin-harbor/core/contract'
import type { FieldChange } from '@tin-harbor/core/buying'
import { changesBetween, type TrailKind } from '@tin-harbor/core/wording'
import { MarketState } from '../exchange/market-model.js'
import { AuditEntry } from './audit-model.js'
import { User } from './user-model.js'
import { now, type Actor } from '../security/sessions.js'

/** Who did it; nobody where a change comes of what was read elsewhere. */
type Doer = Pick<Actor, 'id'> | { id: null }

/** Notes who changed what, in the same transaction as the change. */
export async function audit(
  actor: Doer,
  action: string,
  object: {
    kind: TrailKind
    id: number
    advertiserId: number | null
    /** The slip by which it is done. */
    slip?: number | null
  },
  was: unknown,
  became: unknown,
  transaction: Transaction
): Promise<void> {
  await AuditEntry.create(
    {
      userId: actor.id,
      at: now(),
      hour: await marketHour(transaction),
      action,
      object: object.kind,
      objectId: object.id,
      advertiserId: object.advertiserId,
      slipId: object.slip ?? null,
      was,
      became
    },
    { transaction }
  )
}

/** Null before there is a market. */
const marketHour = async (transaction: Transaction) => (await MarketState.findByPk(1, { attributes: ['hour'], transaction }))?.hour ?? null

/** What was done, as people say it; what a save changed stands beside it. */
function actionWords(action: string, became: unknown): string {
  const places = Array.isArray(became) ? became : ((became as { placements?: unknown[] } | null)?.placements ?? [])
  const placements = `${places.length} ${places.length === 1 ? 'placement' : 'placements'}`
  const words: Readonly<Record<string, string>> = {
    create: 'made it',
    save: 'changed its draft',
    copy: 'copied it from another line',
    move: 'moved it to another campaign',
    label: 'changed its tags',
    follow: 'changed the list that it follows',
    release: 'released it',
    pause: 'paused it',
    resume: 'resumed it',
    end: 'ended it',
    'leave out': `left ${placements} out`,
    'take in': `took ${placements} in again`,
    'own price': `gave ${placements} a price of its own`
  }
  return words[action] ?? action
}

/** Entries of a line that are told at once. */
const MOST_ENTRIES = 80
const isDraft = (value: unknown): value is LineDraft =>
  typeof value === 'object' && value !== null && 'targeting' in value && 'price' in value

const changesOf = (was: unknown, became: unknown) => draftChanges(was, became) ?? []

/** What differs between two drafts of a line; null where one of them is none. */
export const draftChanges = (was: unknown, became: unknown): FieldChange[] | null =>
  isDraft(was) && isDraft(became) ? changesBetween(was, became) : null

/** Who changed what of a line, the newest first; what a save changed is told field by field. */
export async function historyOf(lineId: number): Promise<HistoryEntry[]> {
  const entries = await AuditEntry.findAll({ where: { object: 'line', objectId: lineId }, order: [['id', 'DESC']], limit: MOST_ENTRIES })
  const names = new Map(
    (await User.findAll({ where: { id: entries.flatMap(({ userId }) => userId ?? []) } })).map(({ id, name }) => [id, name])
  )
  return entries
    .filter(({ action, was, became }) => action !== 'save' || changesOf(was, became).length > 0)
    .map(({ id, at: when, hour, userId, action, was, became }) => ({
      id,
      at: when,
      hour,
      who: names.get(userId ?? -1) ?? 'the market',
      action: actionWords(action, became),
      changes: changesOf(was, became)
    }))
}
