import type { Transaction } from 'sequelize'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { HistoryEntry } from '@tin-harbor/core/contract'
import { changesBetween } from '@tin-harbor/core/wording'
import { AuditEntry } from './audit-model.js'
import { User } from './user-model.js'
import { now, type Actor } from '../security/sessions.js'

/** Notes who changed what, in the same transaction as the change. */
export async function audit(
  actor: Actor,
  action: string,
  object: { kind: 'campaign' | 'line' | 'ad' | 'market' | 'list' | 'deal' | 'slip'; id: number; advertiserId: number | null },
  was: unknown,
  became: unknown,
  transaction: Transaction
): Promise<void> {
  await AuditEntry.create(
    { userId: actor.id, at: now(), action, object: object.kind, objectId: object.id, advertiserId: object.advertiserId, was, became },
    { transaction }
  )
}

/** Entries of a line that are told at once. */
const MOST_ENTRIES = 80
const isDraft = (value: unknown): value is LineDraft =>
  typeof value === 'object' && value !== null && 'targeting' in value && 'price' in value

/** Who changed what of a line, the newest first; what a save changed is told field by field. */
export async function historyOf(lineId: number): Promise<HistoryEntry[]> {
  const entries = await AuditEntry.findAll({ where: { object: 'line', objectId: lineId }, order: [['id', 'DESC']], limit: MOST_ENTRIES })
  const names = new Map(
    (await User.findAll({ where: { id: entries.flatMap(({ userId }) => userId ?? []) } })).map(({ id, name }) => [id, name])
  )
  return entries
    .map(({ id, at: when, userId, action, was, became }) => ({
      id,
      at: when,
      who: names.get(userId ?? -1) ?? 'the market',
      action,
      changes: isDraft(was) && isDraft(became) ? changesBetween(was, became) : []
    }))
    .filter(({ action, changes }) => action !== 'save' || changes.length > 0)
}
