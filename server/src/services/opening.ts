import { QueryTypes, type Sequelize } from 'sequelize'
import type { PublicationRules, Spent } from '@tin-harbor/core/exchange'
import { localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { wholeNumber } from '../database/connection.js'
import type { StoredLog, StoredOpening } from '../jobs/messages.js'

/** Hours of the log that caps may look back on. */
const LOOK_BACK_HOURS = 30 * 24

interface SpentRow {
  id: number
  today: number
  total: number
}

async function spentBy(sequelize: Sequelize, sql: string, id: number, since: number): Promise<Spent> {
  const [row] = await sequelize.query<SpentRow>(sql, { type: QueryTypes.SELECT, replacements: { id, since } })
  return { today: wholeNumber(Number(row.today), 'spend today'), total: wholeNumber(Number(row.total), 'spend') }
}

const SUMS = 'CAST(COALESCE(SUM(IF(h.hour >= :since, h.spend_micros, 0)), 0) AS SIGNED) AS today, CAST(COALESCE(SUM(h.spend_micros), 0) AS SIGNED) AS total'

/** The balance: the sum of all ledger entries. */
export async function balance(sequelize: Sequelize): Promise<number> {
  const [row] = await sequelize.query<{ sum: number }>('SELECT CAST(COALESCE(SUM(amount_micros), 0) AS SIGNED) AS sum FROM ledger_entry', { type: QueryTypes.SELECT })
  return wholeNumber(Number(row.sum), 'balance')
}

/** The state at an hour's start, from stored facts alone: the log of the last 30 days and a small row a line. */
export async function loadOpening(sequelize: Sequelize, rules: PublicationRules, hour: number): Promise<StoredOpening> {
  const dayStart = (zone: string) => startOfLocalDay(zoneIndex(zone), localDayOf(zoneIndex(zone), hour))
  const supplies = await sequelize.query<{ line: number; supply: number }>('SELECT line_id AS line, supply_micros AS supply FROM line_state', { type: QueryTypes.SELECT })
  const supplyOf = new Map(supplies.map(({ line, supply }) => [line, wholeNumber(supply, 'supply')]))
  const lines: StoredOpening['lines'] = []
  for (const { line, zone } of rules.lines) {
    const spent = await spentBy(sequelize, `SELECT ${SUMS} FROM line_hour h WHERE h.line_id = :id`, line, dayStart(zone))
    lines.push([line, { ...spent, supply: supplyOf.get(line) ?? 0 }])
  }
  const campaigns: StoredOpening['campaigns'] = []
  for (const { campaign, zone } of rules.campaigns) {
    campaigns.push([campaign, await spentBy(sequelize, `SELECT ${SUMS} FROM line_hour h JOIN line l ON l.id = h.line_id WHERE l.campaign_id = :id`, campaign, dayStart(zone))])
  }
  const logs = await sequelize.query<{ hour: number; n: number; crc: number; data: Buffer }>(
    'SELECT hour, n, crc32 AS crc, data FROM delivery_hour WHERE hour >= ? AND hour < ? ORDER BY hour', { type: QueryTypes.SELECT, replacements: [hour - LOOK_BACK_HOURS, hour] })
  return {
    hour, lines, campaigns, balanceMicros: await balance(sequelize),
    logs: logs.map(({ hour, n, crc, data }): StoredLog => ({ hour, n, crc, data: new Uint8Array(data) }))
  }
}
