import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { OUTCOMES, SHORT_BY, type HourFacts, type Outcome } from '@tin-harbor/core/exchange'
import type { OutcomeCounts } from '@tin-harbor/core/results'
import { HOURS_PER_DAY } from '@tin-harbor/core/time'
import { insertBatch } from '../database/connection.js'
import { rowsOf, type Whose } from './roll-ups.js'

/** What became of all that a line matched over market hours [from, to). */
export async function outcomesOf(sequelize: Sequelize, line: number, from: number, to: number): Promise<OutcomeCounts> {
  const rows = await sequelize.query<{ outcome: Outcome; n: number }>(
    'SELECT outcome, CAST(SUM(n) AS SIGNED) AS n FROM outcome_hour WHERE line_id = ? AND hour >= ? AND hour < ? GROUP BY outcome',
    { type: QueryTypes.SELECT, replacements: [line, from, to] }
  )
  const known = new Map(rows.map(({ outcome, n }) => [outcome, Number(n)]))
  return Object.fromEntries(OUTCOMES.map((outcome) => [outcome, known.get(outcome) ?? 0])) as unknown as OutcomeCounts
}

/** How far its lost bids fell short, by the bins of `SHORT_BY`. */
export async function shortsOf(sequelize: Sequelize, line: number, from: number, to: number): Promise<number[]> {
  const bins = await sequelize.query<{ bin: number; n: number }>(
    'SELECT bin, CAST(SUM(n) AS SIGNED) AS n FROM short_hour WHERE line_id = ? AND hour >= ? AND hour < ? GROUP BY bin',
    { type: QueryTypes.SELECT, replacements: [line, from, to] }
  )
  return SHORT_BY.map((_, bin) => Number(bins.find((row) => row.bin === bin)?.n ?? 0))
}

/** Outcomes of some kinds by market day, of a line over [from, to); days without any are left out. */
export async function outcomesByDay(
  sequelize: Sequelize,
  line: number,
  outcomes: readonly Outcome[],
  from: number,
  to: number
): Promise<Map<number, number>> {
  const rows = await sequelize.query<{ day: number; count: number }>(
    'SELECT FLOOR(hour / :hours) AS day, CAST(SUM(n) AS SIGNED) AS count FROM outcome_hour WHERE line_id = :line AND outcome IN (:outcomes) AND hour >= :from AND hour < :to GROUP BY FLOOR(hour / :hours)',
    { type: QueryTypes.SELECT, replacements: { hours: HOURS_PER_DAY, outcomes, line, from, to } }
  )
  return new Map(rows.map(({ day, count }) => [Number(day), Number(count)]))
}

/** What lines matched in each of the hours [from, to); hours without any are left out. */
export async function matchedByHour(
  sequelize: Sequelize,
  whose: Whose,
  from: number,
  to: number
): Promise<{ by: number; matched: number }[]> {
  const { clause, own } = rowsOf(whose)
  const rows = await sequelize.query<{ by: number; matched: number }>(
    `SELECT hour AS \`by\`, CAST(SUM(n) AS SIGNED) AS matched FROM outcome_hour WHERE ${clause} AND hour >= :from AND hour < :to GROUP BY hour`,
    { type: QueryTypes.SELECT, replacements: { own, from, to } }
  )
  return rows.map(({ by, matched }) => ({ by, matched: Number(matched) }))
}

/** Keeps what became of all that was matched in an hour. */
export async function writeOutcomes({ hour, outcomes, shorts }: HourFacts, transaction: Transaction): Promise<void> {
  await insertBatch(
    transaction,
    'INSERT INTO outcome_hour (line_id, hour, outcome, n) VALUES (?, ?, ?, ?)',
    outcomes.flatMap(({ line, counts }) => counts.flatMap((n, o) => (n > 0 ? [[line, hour, OUTCOMES[o], n]] : [])))
  )
  await insertBatch(
    transaction,
    'INSERT INTO short_hour (line_id, hour, bin, n) VALUES (?, ?, ?, ?)',
    shorts.flatMap(({ line, counts }) => counts.flatMap((n, bin) => (n > 0 ? [[line, hour, bin, n]] : [])))
  )
}
