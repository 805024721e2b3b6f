import { TALLIED, type Tally, type Tallied } from '@tin-harbor/core/exchange'
import { wholeNumber } from '../database/connection.js'

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
export const TALLY_COLUMNS = TALLIED.map((name) => COLUMN_OF[name]).join(', ')
export const TALLY_MARKS = TALLIED.map(() => '?').join(', ')
/** Sums by column, named as in a tally. */
export const TALLY_SUMS = TALLIED.map((name) => `CAST(COALESCE(SUM(${COLUMN_OF[name]}), 0) AS SIGNED) AS ${name}`).join(', ')
export const TALLY_ADDED = TALLIED.map((name) => `${COLUMN_OF[name]} = ${COLUMN_OF[name]} + VALUES(${COLUMN_OF[name]})`).join(', ')

export const tallyValues = (tally: Tally): number[] => TALLIED.map((name) => tally[name])

/** A row of sums as a tally. */
export function tallyOf(row: Readonly<Record<Tallied, number>>): Tally {
  return Object.fromEntries(TALLIED.map((name) => [name, wholeNumber(Number(row[name]), name)])) as Tally
}
