import type { Transaction } from 'sequelize'
import { AuditEntry } from '../models/index.js'
import { now, type Actor } from '../security/sessions.js'

/** Notes who changed what, in the same transaction as the change. */
export async function audit(
  actor: Actor, action: string, object: { kind: 'campaign' | 'line' | 'ad' | 'market' | 'list' | 'deal' | 'slip'; id: number; advertiserId: number | null },
  was: unknown, became: unknown, transaction: Transaction
): Promise<void> {
  await AuditEntry.create({ userId: actor.id, at: now(), action, object: object.kind, objectId: object.id, advertiserId: object.advertiserId, was, became }, { transaction })
}
