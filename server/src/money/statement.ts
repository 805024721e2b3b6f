import type { Sequelize } from 'sequelize'
import type { AdvertiserMoney, LedgerView } from '@tin-harbor/core/contract'
import { chargedMicros, hoursOfMonth, marginAt, monthOfHour, monthsBetween, statementOf, type Booked } from '@tin-harbor/core/money'
import { dateOfDay, zoneIndex } from '@tin-harbor/core/time'
import { Advertiser } from '../advertisers/advertiser-model.js'
import type { Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'
import { invalidField } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { Organisation } from '../team/user-model.js'
import { KNOWN_CARDS } from '../standins/payments.js'
import { fundsOf } from './funds.js'
import { balanceBefore, bookedIn, firstBooked } from './ledger.js'
import { lastPayments } from './payments.js'
import { marginsOf, spentIn } from './terms.js'

/** A month of the ledger as a user sees it, the last one where none is named, and how far the money goes. */
export async function ledgerOf({ sequelize, payments }: Deps, actor: Actor, asked?: string): Promise<LedgerView> {
  const { organisationId } = actor
  const organisation = await Organisation.findByPk(organisationId, { rejectOnEmpty: true })
  const zone = zoneIndex(organisation.zone)
  const { hour } = await readMarket()
  const first = Math.min(hour, (await firstBooked(sequelize, organisationId)) ?? hour)
  const months = monthsBetween(monthOfHour(zone, first), monthOfHour(zone, hour))
  const month = asked ?? months[0]
  if (!months.includes(month)) throw invalidField('month', `The ledger is from ${months[months.length - 1]} to ${months[0]}.`)
  const hours = hoursOfMonth(zone, month)
  const booked = await bookedIn(sequelize, organisationId, hours)
  // What others of the organisation spend counts in its balance, without their names.
  const seen = booked.map((one) =>
    one.advertiser !== null && !actor.advertisers.includes(one.advertiser) ? { ...one, advertiser: null } : one
  )
  const { rows, ...sums } = statementOf(zone, await balanceBefore(sequelize, organisationId, hours.from), seen)
  const advertisers = await Advertiser.findAll({ where: { id: [...actor.advertisers] }, order: [['id', 'ASC']] })
  const names = new Map(advertisers.map(({ id, name }) => [id, name]))
  const { chargeLast4: last4, chargeMostMicros: mostMicros } = organisation
  return {
    ...(await fundsOf(sequelize, organisationId)),
    lowDays: organisation.lowDays,
    charge: last4 === null || mostMicros === null ? null : { last4, mostMicros },
    serviceIsAway: payments.isAway,
    knownCards: KNOWN_CARDS.map(({ number, fares }) => ({ number, fares })),
    payments: await lastPayments(organisationId),
    advertisers: await moneyOf(sequelize, advertisers, { booked, current: hoursOfMonth(zone, monthOfHour(zone, hour)) }),
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

/** What advertisers cost us by what was booked, and what their clients are charged for it: each hour under the margin of that hour. */
async function moneyOf(
  sequelize: Sequelize,
  advertisers: readonly Advertiser[],
  { booked, current }: { booked: readonly Booked[]; current: { from: number; to: number } }
): Promise<AdvertiserMoney[]> {
  const ids = advertisers.map(({ id }) => id)
  const margins = await marginsOf(ids)
  const spent = await spentIn(sequelize, ids, current)
  return advertisers.map(({ id, name, version, limitMicros }) => {
    const own = booked.filter(({ kind, advertiser }) => kind === 'spend' && advertiser === id)
    const history = margins.get(id) ?? []
    return {
      id,
      name,
      version,
      limitMicros: limitMicros ?? null,
      marginPpm: history.at(-1)?.ppm ?? 0,
      nowMicros: spent.get(id) ?? 0,
      costMicros: own.reduce((sum, { amountMicros }) => sum - amountMicros, 0),
      chargedMicros: chargedMicros(own.map(({ hour, amountMicros }) => ({ costMicros: -amountMicros, ppm: marginAt(history, hour) })))
    }
  })
}
