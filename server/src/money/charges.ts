import { randomUUID } from 'node:crypto'
import type { Sequelize } from 'sequelize'
import { CENT } from '@tin-harbor/core/money'
import { localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { lockMarket } from '../going-live/publications.js'
import { now } from '../security/sessions.js'
import { Organisation } from '../team/user-model.js'
import { spentBetween } from './ledger.js'
import { Payment } from './payment-model.js'

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
        const spent = (await spentBetween(sequelize, { from, to }, id, transaction)).get(id) ?? 0
        // In whole cents, rounded up: the rest of a cent is the organisation's on its balance.
        const amountMicros = Math.min(Math.ceil(spent / CENT) * CENT, most)
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
