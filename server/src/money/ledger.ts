import { QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import type { HourFacts } from '@tin-harbor/core/exchange'
import type { Booked, EntryKind } from '@tin-harbor/core/money'
import { insertBatch, wholeNumber } from '../database/connection.js'

/** The balance of an organisation: the sum of its ledger entries. */
export async function balance(sequelize: Sequelize, organisationId: number, transaction?: Transaction): Promise<number> {
  return (await balances(sequelize, organisationId, transaction)).get(organisationId) ?? 0
}

/** Balances by organisation; one without an entry is not among them. @param only of one of them */
export async function balances(sequelize: Sequelize, only: number | null = null, transaction?: Transaction): Promise<Map<number, number>> {
  const rows = await sequelize.query<{ organisation: number; sum: number }>(
    'SELECT organisation_id AS organisation, CAST(SUM(amount_micros) AS SIGNED) AS sum FROM ledger_entry WHERE ? IS NULL OR organisation_id = ? GROUP BY organisation_id',
    { type: QueryTypes.SELECT, replacements: [only, only], transaction }
  )
  return new Map(rows.map(({ organisation, sum }) => [organisation, wholeNumber(Number(sum), 'balance')]))
}

/** What organisations spent in market hours [from, to), micros; one that spent nothing is not among them. @param only of one of them */
export async function spentBetween(
  sequelize: Sequelize,
  { from, to }: { from: number; to: number },
  only: number | null = null,
  transaction?: Transaction
): Promise<Map<number, number>> {
  const rows = await sequelize.query<{ organisation: number; spent: number }>(
    `SELECT organisation_id AS organisation, CAST(-SUM(amount_micros) AS SIGNED) AS spent FROM ledger_entry
     WHERE kind = 'spend' AND hour >= ? AND hour < ? AND (? IS NULL OR organisation_id = ?) GROUP BY organisation_id`,
    { type: QueryTypes.SELECT, replacements: [from, to, only, only], transaction }
  )
  return new Map(rows.map(({ organisation, spent }) => [organisation, wholeNumber(Number(spent), 'spend')]))
}

/** The balance before a market hour. */
export async function balanceBefore(sequelize: Sequelize, organisationId: number, hour: number): Promise<number> {
  const [{ sum }] = await sequelize.query<{ sum: number }>(
    'SELECT CAST(COALESCE(SUM(amount_micros), 0) AS SIGNED) AS sum FROM ledger_entry WHERE organisation_id = ? AND hour < ?',
    { type: QueryTypes.SELECT, replacements: [organisationId, hour] }
  )
  return wholeNumber(Number(sum), 'balance')
}

/** What was booked in market hours [from, to), as it was booked. */
export async function bookedIn(
  sequelize: Sequelize,
  organisationId: number,
  { from, to }: { from: number; to: number }
): Promise<Booked[]> {
  const rows = await sequelize.query<{ hour: number; kind: EntryKind; advertiser: number | null; note: string; amount: number }>(
    `SELECT hour, kind, advertiser_id AS advertiser, note, amount_micros AS amount FROM ledger_entry
     WHERE organisation_id = ? AND hour >= ? AND hour < ? ORDER BY hour, id`,
    { type: QueryTypes.SELECT, replacements: [organisationId, from, to] }
  )
  return rows.map(({ amount, ...row }) => ({ ...row, amountMicros: wholeNumber(Number(amount), 'entry') }))
}

/** First market hour with an entry; null without any. */
export async function firstBooked(sequelize: Sequelize, organisationId: number): Promise<number | null> {
  const [{ first }] = await sequelize.query<{ first: number | null }>(
    'SELECT MIN(hour) AS first FROM ledger_entry WHERE organisation_id = ?',
    { type: QueryTypes.SELECT, replacements: [organisationId] }
  )
  return first
}

/** Books what an hour spent, an entry for each advertiser. @returns organisations whose it is */
export async function bookSpend(sequelize: Sequelize, { hour, hourTotals }: HourFacts, transaction: Transaction): Promise<number[]> {
  if (hourTotals.length === 0) return []
  const owners = await sequelize.query<{ line: number; advertiser: number; organisation: number }>(
    `SELECT l.id AS line, a.id AS advertiser, a.organisation_id AS organisation FROM line l JOIN campaign c ON c.id = l.campaign_id JOIN advertiser a ON a.id = c.advertiser_id WHERE l.id IN (?)`,
    { type: QueryTypes.SELECT, replacements: [[...new Set(hourTotals.map((total) => total.line))]], transaction }
  )
  const ownerOf = new Map(owners.map((owner) => [owner.line, owner]))
  const sums = new Map<number, { organisation: number; micros: number }>()
  for (const { line, spendMicros } of hourTotals) {
    const owner = ownerOf.get(line)
    if (!owner) throw new Error(`Line ${line} spent money but has no advertiser.`)
    const sum = sums.get(owner.advertiser) ?? { organisation: owner.organisation, micros: 0 }
    sum.micros += spendMicros
    sums.set(owner.advertiser, sum)
  }
  await insertBatch(
    transaction,
    "INSERT INTO ledger_entry (organisation_id, kind, hour, advertiser_id, amount_micros, note) VALUES (?, 'spend', ?, ?, ?, '')",
    [...sums]
      .filter(([, { micros }]) => micros > 0)
      .sort(([a], [b]) => a - b)
      .map(([advertiser, { organisation, micros }]) => [organisation, hour, advertiser, -micros])
  )
  return [...new Set([...sums.values()].map(({ organisation }) => organisation))]
}
