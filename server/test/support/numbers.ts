import type { Sequelize } from 'sequelize'
import { Payment } from '../../src/money/payment-model.js'

/** Numbers of what is an organisation's as a whole: one of each that a path may name. */
export async function organisationNumbers(sequelize: Sequelize, organisationId: number): Promise<Record<'paymentId', number>> {
  return sequelize.transaction(async (transaction) => {
    const moved = { kind: 'card' as const, amountMicros: 10_000_000, state: 'accepted' as const, askedHour: 0, askedAt: 0, askedBy: null }
    const { id: paymentId } = await Payment.create(
      { organisationId, reference: `theirs-${organisationId}-0001`, ...moved },
      { transaction }
    )
    return { paymentId }
  })
}
