import { QueryTypes, type Sequelize } from 'sequelize'
import type { SpentSoFar } from '@tin-harbor/core/exchange'
import { dateOfDay, dayOfDate, localDayOf, startOfLocalDay, weekdayOf, zoneIndex } from '@tin-harbor/core/time'
import { wholeNumber } from '../database/connection.js'

const SUMS = (whose: string) =>
  ['day', 'week', 'month', 'total']
    .map(
      (period) =>
        `CAST(COALESCE(SUM(IF(h.hour >= :${period}, h.${whose}, 0)), 0) AS SIGNED) AS ${period}_${whose === 'wins' ? 'impressions' : 'micros'}`
    )
    .join(', ')

/** What a line, or all lines of a campaign, spent and showed in the periods that an hour stands in, by the zone's calendar. */
export async function spentSoFar(
  sequelize: Sequelize,
  what: { line: number } | { campaign: number },
  zone: string,
  nowHour: number
): Promise<SpentSoFar> {
  const index = zoneIndex(zone)
  const day = localDayOf(index, nowHour)
  const replacements = {
    day: startOfLocalDay(index, day),
    week: startOfLocalDay(index, day - weekdayOf(day)),
    month: startOfLocalDay(index, dayOfDate(`${dateOfDay(day).slice(0, 8)}01`)),
    total: -1e6,
    id: 'line' in what ? what.line : what.campaign
  }
  const where = 'line' in what ? 'h.line_id = :id' : 'l.campaign_id = :id'
  const [row] = await sequelize.query<Record<string, number>>(
    `SELECT ${SUMS('spend_micros')}, ${SUMS('wins')} FROM line_hour h JOIN line l ON l.id = h.line_id WHERE ${where}`,
    { type: QueryTypes.SELECT, replacements }
  )
  const period = (name: string) => ({
    micros: wholeNumber(Number(row[`${name}_micros`]), `${name} spend`),
    impressions: wholeNumber(Number(row[`${name}_impressions`]), `${name} impressions`)
  })
  return { day: period('day'), week: period('week'), month: period('month'), total: period('total') }
}
