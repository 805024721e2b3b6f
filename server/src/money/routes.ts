import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import { hoursOfMonth, lastsHours, monthOfHour, monthsBetween, statementOf } from '@tin-harbor/core/money'
import { dateOfDay, zoneIndex } from '@tin-harbor/core/time'
import { Advertiser } from '../advertisers/advertiser-model.js'
import type { Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'
import { invalidField } from '../http/errors.js'
import { route, type Route } from '../http/registry.js'
import { Organisation } from '../team/user-model.js'
import { balance, balanceBefore, bookedIn, firstBooked } from './ledger.js'

const monthSchema = yup.object({ month: yup.string().matches(/^20\d{2}-(0[1-9]|1[0-2])$/, 'A month is written as 2026-03.') }).noUnknown()

/** Money of an organisation: a month of its ledger, and how long it lasts. */
export function moneyRoutes({ sequelize }: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/ledger',
      right: 'money',
      scope: 'seen',
      query: monthSchema,
      answers: told.ledgerView,
      handle: async ({ actor, query }) => {
        const { organisationId } = actor
        const zone = zoneIndex((await Organisation.findByPk(organisationId, { rejectOnEmpty: true })).zone)
        const { hour } = await readMarket()
        const months = monthsBetween(
          monthOfHour(zone, Math.min(hour, (await firstBooked(sequelize, organisationId)) ?? hour)),
          monthOfHour(zone, hour)
        )
        const month = query.month ?? months[0]
        if (!months.includes(month)) throw invalidField('month', `The ledger is from ${months[months.length - 1]} to ${months[0]}.`)
        const hours = hoursOfMonth(zone, month)
        const openingMicros = await balanceBefore(sequelize, organisationId, hours.from)
        const booked = await bookedIn(sequelize, organisationId, hours)
        // What others of the organisation spend counts in its balance, without their names.
        const seen = booked.map((one) =>
          one.advertiser !== null && !actor.advertisers.includes(one.advertiser) ? { ...one, advertiser: null } : one
        )
        const { rows, ...sums } = statementOf(zone, openingMicros, seen)
        const names = new Map((await Advertiser.findAll({ where: { id: [...actor.advertisers] } })).map(({ id, name }) => [id, name]))
        const lastDay = await bookedIn(sequelize, organisationId, { from: hour - 24, to: hour })
        const lastDayMicros = lastDay.reduce((sum, { kind, amountMicros }) => (kind === 'spend' ? sum - amountMicros : sum), 0)
        const balanceMicros = await balance(sequelize, organisationId)
        const lasts = lastsHours(balanceMicros, lastDayMicros)
        return {
          balanceMicros,
          lastDayMicros,
          lastsUntil: lasts === null ? null : hour + lasts,
          months,
          month,
          ...sums,
          rows: rows.map(({ day, advertiser, ...row }) => ({
            ...row,
            date: dateOfDay(day),
            advertiser: advertiser === null ? null : (names.get(advertiser) ?? null)
          }))
        }
      }
    })
  ]
}
