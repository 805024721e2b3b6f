import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import type { HourMoney } from '@tin-harbor/core/exchange'
import { hoursOfMonth, marginAt, monthOfHour, type MarginFrom } from '@tin-harbor/core/money'
import { zoneIndex } from '@tin-harbor/core/time'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { Line } from '../lines/line-model.js'
import { wholeNumber } from '../database/connection.js'
import { lockMarket, readMarket } from '../going-live/publications.js'
import { stale, unknownObject } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { Organisation } from '../team/user-model.js'
import { balance } from './ledger.js'
import { AdvertiserMargin } from './payment-model.js'

/** Margins by advertiser, in the order of the hours. */
export async function marginsOf(advertiserId: readonly number[], transaction?: Transaction): Promise<Map<number, MarginFrom[]>> {
  const rows = await AdvertiserMargin.findAll({ where: { advertiserId: [...advertiserId] }, order: [['fromHour', 'ASC']], transaction })
  const found = new Map<number, MarginFrom[]>(advertiserId.map((id) => [id, []]))
  for (const { advertiserId: id, fromHour, ppm } of rows) found.get(id)?.push({ fromHour, ppm })
  return found
}

/** Margins by line, of those whose advertisers have one. */
export async function marginsOfLines(
  lines: readonly Pick<Line, 'id' | 'campaignId'>[]
): Promise<{ line: number; history: MarginFrom[] }[]> {
  const campaigns = await Campaign.findAll({
    attributes: ['id', 'advertiserId'],
    where: { id: [...new Set(lines.map(({ campaignId }) => campaignId))] }
  })
  const advertiserOf = new Map(campaigns.map(({ id, advertiserId }) => [id, advertiserId]))
  const margins = await marginsOf([...new Set(advertiserOf.values())])
  return lines.flatMap(({ id, campaignId }) => {
    const history = margins.get(advertiserOf.get(campaignId) ?? 0) ?? []
    return history.length > 0 ? [{ line: id, history }] : []
  })
}

/** The margin on what a line bought in an hour, millionths. */
export async function marginOfLine(id: number, hour: number): Promise<number> {
  const line = await Line.findByPk(id, { attributes: ['id', 'campaignId'] })
  const [own] = line ? await marginsOfLines([line]) : []
  return own ? marginAt(own.history, hour) : 0
}

/** What advertisers spent in market hours [from, to), micros. */
export async function spentIn(
  sequelize: Sequelize,
  advertiserId: readonly number[],
  { from, to }: { from: number; to: number }
): Promise<Map<number, number>> {
  if (advertiserId.length === 0) return new Map()
  const rows = await sequelize.query<{ advertiser: number; spent: number }>(
    `SELECT advertiser_id AS advertiser, CAST(-SUM(amount_micros) AS SIGNED) AS spent FROM ledger_entry
     WHERE kind = 'spend' AND advertiser_id IN (?) AND hour >= ? AND hour < ? GROUP BY advertiser_id`,
    { type: QueryTypes.SELECT, replacements: [[...advertiserId], from, to] }
  )
  return new Map(rows.map(({ advertiser, spent }) => [advertiser, wholeNumber(Number(spent), 'spend')]))
}

/** What is left in an hour of the limits of advertisers that have one, by the calendar of their organisation. */
export async function limitsLeft(
  sequelize: Sequelize,
  advertisers: readonly Pick<Advertiser, 'id' | 'limitMicros'>[],
  zone: string,
  hour: number
): Promise<HourMoney['limits']> {
  const limited = advertisers.flatMap(({ id, limitMicros }) => (limitMicros === null ? [] : [{ id, limitMicros }]))
  const month = hoursOfMonth(zoneIndex(zone), monthOfHour(zoneIndex(zone), hour))
  const spent = await spentIn(
    sequelize,
    limited.map(({ id }) => id),
    month
  )
  return limited.map(({ id, limitMicros }) => ({ advertiser: id, leftMicros: Math.max(0, limitMicros - (spent.get(id) ?? 0)) }))
}

/** What there is to spend in an hour: the balance of whose market it is, and what is left of its advertisers' limits of the month. */
export async function moneyOfHour(sequelize: Sequelize, hour: number): Promise<HourMoney> {
  const { organisationId } = await readMarket()
  if (organisationId === null) return { balanceMicros: 0, limits: [] }
  const { zone } = await Organisation.findByPk(organisationId, { rejectOnEmpty: true })
  return {
    balanceMicros: await balance(sequelize, organisationId),
    limits: await limitsLeft(sequelize, await Advertiser.findAll({ where: { organisationId } }), zone, hour)
  }
}

/** Sets what an advertiser may spend in a month, and the margin on what it costs us; both act from the next market hour. */
export async function saveTerms(
  sequelize: Sequelize,
  actor: Actor,
  advertiserId: number,
  version: number,
  { limitMicros, marginPpm }: { limitMicros: number | null; marginPpm: number }
): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const { hour } = await lockMarket(transaction)
    const advertiser = await Advertiser.findByPk(advertiserId, { transaction, lock: transaction.LOCK.UPDATE })
    if (!advertiser) throw unknownObject('advertiser')
    const last = (await marginsOf([advertiserId], transaction)).get(advertiserId)?.at(-1)?.ppm ?? 0
    const was = { limitMicros: advertiser.limitMicros ?? null, marginPpm: last }
    if (advertiser.version !== version) throw stale('advertiser', was)
    await advertiser.update({ limitMicros, version: version + 1 }, { transaction })
    if (last !== marginPpm) await AdvertiserMargin.upsert({ advertiserId, fromHour: hour, ppm: marginPpm }, { transaction })
    const became = { limitMicros, marginPpm }
    await audit(actor, 'save', { kind: 'advertiser', id: advertiserId, advertiserId }, was, became, transaction)
  })
}
