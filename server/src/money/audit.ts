import { QueryTypes, type Sequelize } from 'sequelize'
import type { World } from '@tin-harbor/core/market'
import { wholeNumber } from '../database/connection.js'
import { sumLogAnew } from '../exchange/rebuild.js'
import { lockMarket } from '../going-live/publications.js'

/** What an audit found. All amounts in micros. */
export interface Audit {
  /** Hours of the delivery log that were summed anew. */
  hours: number
  /** Entries of the ledger. */
  entries: number
  spentMicros: number
  /** Hours and advertisers at which the log, the roll-ups and the ledger do not all say the same, with what each says. */
  differences: { hour: number; advertiser: number; logMicros: number; rollUpMicros: number; ledgerMicros: number }[]
  /** Organisations whose balance was below zero after some hour. */
  overdrawn: number[]
  /** Payments whose entries are not what became of them. */
  payments: { id: number; state: string; bookedMicros: number }[]
}

type Sums = Map<string, number>
const add = (sums: Sums, hour: number, advertiser: number, micros: number) =>
  micros !== 0 && sums.set(`${hour} ${advertiser}`, (sums.get(`${hour} ${advertiser}`) ?? 0) + micros)

/**
 * Sums what was spent by hour and advertiser three times: from the delivery log itself, from the roll-ups that results are read from, and
 * from the ledger; they agree to the micro, or it is said where not.
 */
export function auditSpend(sequelize: Sequelize, world: World, onHour: (share: number) => void = () => undefined): Promise<Audit> {
  return sequelize.transaction(async (transaction) => {
    // No hour is booked meanwhile.
    await lockMarket(transaction)
    const select = <T extends object>(sql: string) => sequelize.query<T>(sql, { type: QueryTypes.SELECT, transaction })
    const owners = await select<{ line: number; advertiser: number }>(
      'SELECT l.id AS line, c.advertiser_id AS advertiser FROM line l JOIN campaign c ON c.id = l.campaign_id'
    )
    const ownerOf = new Map(owners.map(({ line, advertiser }) => [line, advertiser]))
    const logged: Sums = new Map()
    const hours = await sumLogAnew(
      sequelize,
      world,
      transaction,
      ({ hour, hourTotals }) => {
        for (const { line, spendMicros } of hourTotals) add(logged, hour, ownerOf.get(line) ?? 0, spendMicros)
        return Promise.resolve()
      },
      onHour
    )
    const rolled: Sums = new Map()
    for (const { hour, line, spent } of await select<{ hour: number; line: number; spent: number }>(
      'SELECT hour, line_id AS line, CAST(SUM(spend_micros) AS SIGNED) AS spent FROM line_hour GROUP BY hour, line_id'
    ))
      add(rolled, hour, ownerOf.get(line) ?? 0, wholeNumber(Number(spent), 'spend'))
    const booked: Sums = new Map()
    const entries = await select<{ organisation: number; kind: string; hour: number; advertiser: number | null; amount: number }>(
      `SELECT organisation_id AS organisation, kind, hour, advertiser_id AS advertiser, amount_micros AS amount FROM ledger_entry
       ORDER BY hour, amount_micros DESC`
    )
    const balances = new Map<number, number>()
    const overdrawn = new Set<number>()
    for (const { organisation, kind, hour, advertiser, amount } of entries) {
      const micros = wholeNumber(Number(amount), 'entry')
      if (kind === 'spend') add(booked, hour, advertiser ?? 0, -micros)
      const balance = (balances.get(organisation) ?? 0) + micros
      balances.set(organisation, balance)
      if (balance < 0) overdrawn.add(organisation)
    }
    const differences = [...new Set([...logged.keys(), ...rolled.keys(), ...booked.keys()])].flatMap((key) => {
      const [logMicros, rollUpMicros, ledgerMicros] = [logged, rolled, booked].map((sums) => sums.get(key) ?? 0)
      if (logMicros === rollUpMicros && rollUpMicros === ledgerMicros) return []
      const [hour, advertiser] = key.split(' ').map(Number)
      return [{ hour, advertiser, logMicros, rollUpMicros, ledgerMicros }]
    })
    const paid = await select<{ id: number; kind: string; state: string; amount: number; booked: number; times: number }>(
      `SELECT p.id, p.kind, p.state, p.amount_micros AS amount, COUNT(e.id) AS times,
         CAST(COALESCE(SUM(e.amount_micros), 0) AS SIGNED) AS booked
       FROM payment p LEFT JOIN ledger_entry e ON e.payment_id = p.id GROUP BY p.id, p.kind, p.state, p.amount_micros`
    )
    const payments = paid.flatMap(({ id, kind, state, amount, booked: bookedMicros, times }) => {
      // A refund is booked as it is asked for, and once more when it comes back.
      const [due, entriesDue] =
        kind === 'refund'
          ? state === 'asked' || state === 'accepted'
            ? [-Number(amount), 1]
            : [0, 2]
          : state === 'accepted'
            ? [Number(amount), 1]
            : [0, 0]
      return Number(bookedMicros) === due && Number(times) === entriesDue ? [] : [{ id, state, bookedMicros: Number(bookedMicros) }]
    })
    const spentMicros = [...logged.values()].reduce((sum, micros) => sum + micros, 0)
    return { hours, entries: entries.length, spentMicros, differences, overdrawn: [...overdrawn], payments }
  })
}
