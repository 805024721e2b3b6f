import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { TALLIED, type HourFacts, type PublicationRules, type Tallied, type Tally } from '@tin-harbor/core/exchange'
import { localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { insertBatch, wholeNumber } from '../database/connection.js'

/** Column of each counted thing, in `line_hour` and `line_day` alike. */
const COLUMN_OF: Readonly<Record<Tallied, string>> = {
  wins: 'wins',
  firsts: 'firsts',
  viewable: 'viewable',
  views: 'views',
  clicks: 'clicks',
  visits: 'visits',
  stays: 'stays',
  pages: 'pages',
  conversions: 'conversions',
  viewConversions: 'view_conversions',
  assists: 'assists',
  valueMicros: 'value_micros',
  spendMicros: 'spend_micros',
  dataMicros: 'data_micros',
  expectedViews: 'expected_views',
  expectedVisits: 'expected_visits',
  expectedStays: 'expected_stays',
  expectedConverting: 'expected_converting',
  expectedSeen: 'expected_seen',
  predicted: 'predicted'
}
const COLUMNS = TALLIED.map((name) => COLUMN_OF[name]).join(', ')
const MARKS = TALLIED.map(() => '?').join(', ')
const ADDED = TALLIED.map((name) => `${COLUMN_OF[name]} = ${COLUMN_OF[name]} + VALUES(${COLUMN_OF[name]})`).join(', ')
const values = (tally: Tally): number[] => TALLIED.map((name) => tally[name])

/** What sums are told apart by, and in which roll-up that stands. */
const BY = {
  line: { table: 'line_hour', column: 'line_id', moment: 'hour' },
  hour: { table: 'line_hour', column: 'hour', moment: 'hour' },
  ad: { table: 'line_hour', column: 'ad_id', moment: 'hour' },
  device: { table: 'line_hour', column: 'device', moment: 'hour' },
  day: { table: 'line_day', column: 'day', moment: 'day' },
  placement: { table: 'line_day', column: 'placement', moment: 'day' }
} as const

/** Lines, or those of a campaign. */
export type Whose = { lines: readonly number[] } | { campaign: number }

/** Rows of theirs in a table of facts, and the value of `:own` in that clause. */
export const rowsOf = (whose: Whose) =>
  'lines' in whose
    ? { clause: 'line_id IN (:own)', own: [0, ...whose.lines] }
    : { clause: 'line_id IN (SELECT id FROM line WHERE campaign_id = :own)', own: whose.campaign }

/** Moments [from, to): market hours, or days of each line's own calendar where sums are by day or placement. */
export interface Span {
  from?: number
  to?: number
}

/** Sums of a roll-up, a row for each value of what they are told apart by that has any; in order of that. */
export async function sumsBy<N extends Tallied>(
  sequelize: Sequelize,
  by: keyof typeof BY,
  names: readonly N[],
  whose: Whose,
  { from, to }: Span = {}
): Promise<({ by: number } & Record<N, number>)[]> {
  const { table, column, moment } = BY[by]
  const sums = names.map((name) => `CAST(COALESCE(SUM(r.${COLUMN_OF[name]}), 0) AS SIGNED) AS ${name}`).join(', ')
  const { clause, own } = rowsOf(whose)
  const rows = await sequelize.query<Record<N | 'by', number>>(
    `SELECT r.${column} AS \`by\`, ${sums} FROM ${table} r WHERE ${clause}${from === undefined ? '' : ` AND r.${moment} >= :from`}${to === undefined ? '' : ` AND r.${moment} < :to`} GROUP BY r.${column} ORDER BY r.${column}`,
    { type: QueryTypes.SELECT, replacements: { own, from, to } }
  )
  return rows.map((row) => {
    const read = { by: Number(row.by) } as { by: number } & Record<N, number>
    for (const name of names) Object.assign(read, { [name]: wholeNumber(Number(row[name]), name) })
    return read
  })
}

/** Sums of one line over each of some spans of hours, as they come; one without anything is all zeros. */
export async function sumsOfSpans<N extends Tallied>(
  sequelize: Sequelize,
  names: readonly N[],
  spans: readonly { line: number; from: number; to: number }[]
): Promise<Record<N, number>[]> {
  if (spans.length === 0) return []
  const asked = spans.map(() => 'SELECT ? AS n, ? AS line_id, ? AS first, ? AS last').join(' UNION ALL ')
  const sums = names.map((name) => `CAST(COALESCE(SUM(h.${COLUMN_OF[name]}), 0) AS SIGNED) AS ${name}`).join(', ')
  const rows = await sequelize.query<Record<N, number>>(
    `SELECT ${sums} FROM (${asked}) j LEFT JOIN line_hour h ON h.line_id = j.line_id AND h.hour >= j.first AND h.hour < j.last GROUP BY j.n ORDER BY j.n`,
    { type: QueryTypes.SELECT, replacements: spans.flatMap(({ line, from, to }, n) => [n, line, from, to]) }
  )
  return rows.map(
    (row) => Object.fromEntries(names.map((name) => [name, wholeNumber(Number(row[name]), name)])) as unknown as Record<N, number>
  )
}

/** Keeps both roll-ups of an hour. Days are of each line's own calendar. */
export async function writeRollups(
  { lines, owners = [] }: PublicationRules,
  { hour, hourTotals, placementTotals }: Pick<HourFacts, 'hour' | 'hourTotals' | 'placementTotals'>,
  transaction: Transaction
): Promise<void> {
  await insertBatch(
    transaction,
    `INSERT INTO line_hour (line_id, hour, ad_id, device, ${COLUMNS}) VALUES (?, ?, ?, ?, ${MARKS})`,
    hourTotals.map((t) => [t.line, hour, t.ad, t.device, ...values(t)])
  )
  // Of a line that is no longer in force what comes later lands on its days too.
  const zoneOf = new Map([...owners, ...lines].map((line) => [line.line, zoneIndex(line.zone)]))
  await insertBatch(
    transaction,
    `INSERT INTO line_day (line_id, day, placement, ad_id, ${COLUMNS}) VALUES (?, ?, ?, ?, ${MARKS}) ON DUPLICATE KEY UPDATE ${ADDED}`,
    placementTotals.map((t) => [t.line, localDayOf(zoneOf.get(t.line) ?? 0, hour), t.placement, t.ad, ...values(t)])
  )
}

/** Empties both. */
export async function clearRollups(sequelize: Sequelize, transaction: Transaction): Promise<void> {
  await sequelize.query('DELETE FROM line_hour', { transaction })
  await sequelize.query('DELETE FROM line_day', { transaction })
}
