import { randomUUID } from 'node:crypto'
import { QueryTypes, type Sequelize } from 'sequelize'
import { localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { wholeNumber } from '../database/connection.js'
import { lockMarket } from '../going-live/publications.js'
import { now } from '../security/sessions.js'
import { Organisation } from '../team/user-model.js'
import { Payment } from './payment-model.js'

/** Charges go in whole cents, rounded up: the rest of a cent is the organisation's on its balance. */
const CENT = 10_000

/**
 * Notes the charges that organisations agreed to: of each day that is over, what was spent on it, at most what was agreed; one a day,
 * however often the clock or this is asked. Days before it was agreed are not charged.
 * @param hour at which the market stands
 */
export async function makeCharges(sequelize: Sequelize, hour: number): Promise<void> {
  for (const { id, zone, chargeCard, chargeFromDay } of await Organisation.findAll()) {
    if (chargeCard === null || chargeFromDay === null) continue
    const today = localDayOf(zoneIndex(zone), hour)
    if (chargeFromDay >= today) continue
    await sequelize.transaction(async (transaction) => {
      await lockMarket(transaction)
      const organisation = await Organisation.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
      const { chargeCard: card, chargeFromDay: first, chargeLast4: last4, chargeMostMicros: most } = organisation
      if (card === null || first === null || most === null) return
      for (let day = first; day < today; day++) {
        const [from, to] = [day, day + 1].map((one) => startOfLocalDay(zoneIndex(zone), one))
        const [{ spent }] = await sequelize.query<{ spent: number }>(
          `SELECT CAST(COALESCE(-SUM(amount_micros), 0) AS SIGNED) AS spent FROM ledger_entry
           WHERE organisation_id = ? AND kind = 'spend' AND hour >= ? AND hour < ?`,
          { type: QueryTypes.SELECT, replacements: [id, from, to], transaction }
        )
        const amountMicros = Math.min(Math.ceil(wholeNumber(Number(spent), 'spend') / CENT) * CENT, most)
        if (amountMicros > 0)
          await Payment.create(
            {
              organisationId: id,
              reference: randomUUID(),
              kind: 'charge',
              amountMicros,
              state: 'asked',
              ofDay: day,
              last4,
              card,
              askedHour: hour,
              askedAt: now(),
              askedBy: null
            },
            { transaction }
          )
      }
      await organisation.update({ chargeFromDay: today }, { transaction })
    })
  }
}
