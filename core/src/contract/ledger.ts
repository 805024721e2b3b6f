import { ENTRY_KINDS } from '../money/statement.js'
import { list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

/** A month of an organisation's ledger, and how far its money goes. Amounts in micros; money in is positive. */
export const ledgerView = shape({
  balanceMicros: number(),
  /** Spent in the last 24 market hours. */
  lastDayMicros: number(),
  /** Market hour until which the balance lasts at that pace; null where nothing was spent. */
  lastsUntil: maybe(number()),
  /** Calendar months that can be read, the last first, such as 2026-03. */
  months: list(text()),
  month: text(),
  openingMicros: number(),
  inMicros: number(),
  outMicros: number(),
  closingMicros: number(),
  /** In the order of the days, with the balance running. */
  rows: list(
    shape({
      /** Calendar date. */
      date: text(),
      kind: oneOf(ENTRY_KINDS),
      /** Name of the advertiser that spent; null where it is nobody's alone. */
      advertiser: maybe(text()),
      note: text(),
      amountMicros: number(),
      balanceMicros: number()
    })
  )
})
export type LedgerView = TypeOf<typeof ledgerView>
