import { dateOfDay, dayOfDate, localDayOf, startOfLocalDay } from '../time/index.js'

/**
 * What a ledger books: top-ups and daily charges are money in, refunds to the payer and spend are money out. A refund that could not be
 * paid out comes back as an entry of its own: nothing booked is ever changed.
 */
export const ENTRY_KINDS = ['top-up', 'charge', 'refund', 'spend'] as const
export type EntryKind = (typeof ENTRY_KINDS)[number]

/** What was booked at a market hour. Positive is money in. */
export interface Booked {
  hour: number
  kind: EntryKind
  /** Whose spend; null where it is nobody's alone. */
  advertiser: number | null
  note: string
  amountMicros: number
}

/** Booked sums of a day: what an advertiser spent, or a single entry of another kind. */
export interface StatementRow {
  /** Of the organisation's calendar, days since 2026-01-01. */
  day: number
  kind: EntryKind
  advertiser: number | null
  note: string
  amountMicros: number
  /** Of the whole ledger after it. */
  balanceMicros: number
}

/** A month of a ledger. Opening and rows add up to closing, to the micro. */
export interface Statement {
  openingMicros: number
  rows: StatementRow[]
  inMicros: number
  /** As it is booked: at most 0. */
  outMicros: number
  closingMicros: number
}

/** Market hours [from, to) of a calendar month such as 2026-03. @throws RangeError unless it is one */
export function hoursOfMonth(zone: number, month: string): { from: number; to: number } {
  const first = dayOfDate(`${month}-01`)
  // From any first day, the 32nd is in the month after.
  const next = dayOfDate(`${dateOfDay(first + 31).slice(0, 7)}-01`)
  return { from: startOfLocalDay(zone, first), to: startOfLocalDay(zone, next) }
}

/** Calendar month in which a market hour lies. */
export const monthOfHour = (zone: number, hour: number): string => dateOfDay(localDayOf(zone, hour)).slice(0, 7)

/** Calendar months from one to another, both in, the last first. */
export function monthsBetween(first: string, last: string): string[] {
  const months = [last]
  while (months[months.length - 1] > first) months.push(dateOfDay(dayOfDate(`${months[months.length - 1]}-01`) - 1).slice(0, 7))
  return months
}

/**
 * A month as a statement: spend summed by day and advertiser, all else as it was booked; money in comes first in a day, as what is spent
 * on a day was there before.
 * @param openingMicros balance before the month
 * @param booked of the month, in any order
 */
export function statementOf(zone: number, openingMicros: number, booked: readonly Booked[]): Statement {
  const rows: Omit<StatementRow, 'balanceMicros'>[] = []
  const spent = new Map<string, Omit<StatementRow, 'balanceMicros'>>()
  for (const { hour, kind, advertiser, note, amountMicros } of booked) {
    const day = localDayOf(zone, hour)
    const key = `${day} ${advertiser}`
    const known = kind === 'spend' ? spent.get(key) : undefined
    if (known) {
      known.amountMicros += amountMicros
      continue
    }
    const row = { day, kind, advertiser, note, amountMicros }
    rows.push(row)
    if (kind === 'spend') spent.set(key, row)
  }
  const isOut = ({ amountMicros }: { amountMicros: number }) => (amountMicros < 0 ? 1 : 0)
  rows.sort(
    (a, b) =>
      a.day - b.day ||
      isOut(a) - isOut(b) ||
      ENTRY_KINDS.indexOf(a.kind) - ENTRY_KINDS.indexOf(b.kind) ||
      (a.advertiser ?? 0) - (b.advertiser ?? 0)
  )
  let balanceMicros = openingMicros
  let inMicros = 0
  let outMicros = 0
  const told = rows.map((row) => {
    balanceMicros += row.amountMicros
    if (row.amountMicros > 0) inMicros += row.amountMicros
    else outMicros += row.amountMicros
    return { ...row, balanceMicros }
  })
  return { openingMicros, rows: told, inMicros, outMicros, closingMicros: balanceMicros }
}

/** Hours that a balance lasts at the pace of the last day. @returns null where nothing was spent in it; 0 where nothing is left */
export function lastsHours(balanceMicros: number, lastDayMicros: number): number | null {
  if (balanceMicros <= 0) return 0
  return lastDayMicros > 0 ? Math.floor((balanceMicros * 24) / lastDayMicros) : null
}

/** Whether money lasts for fewer days than it is to be warned of. @param lasts hours, as `lastsHours` says */
export const isLow = (balanceMicros: number, lasts: number | null, lowDays: number): boolean =>
  balanceMicros <= 0 || (lasts !== null && lasts < lowDays * 24)
