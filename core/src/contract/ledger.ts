import { PAYMENT_KINDS, PAYMENT_STATES } from '../money/payment.js'
import { ENTRY_KINDS } from '../money/statement.js'
import { flag, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

/** Money that was asked to move. Hours are market hours. */
export const paymentView = shape({
  id: number(),
  kind: oneOf(PAYMENT_KINDS),
  amountMicros: number(),
  state: oneOf(PAYMENT_STATES),
  /** What the payment service said of it. */
  says: text(),
  /** Last digits of the card; null without one. */
  last4: maybe(text()),
  askedHour: number(),
  settledHour: maybe(number()),
  /** Who asked; null where it was agreed on beforehand. */
  askedBy: maybe(text()),
  /** Of a refund: the payment that goes back. */
  refundOf: maybe(number()),
  /** What of it can still go back to its payer. */
  canGoBackMicros: number()
})
export type PaymentView = TypeOf<typeof paymentView>

/** An advertiser's money in a month: what we paid, and what its client is charged for it. Amounts in micros. */
export const advertiserMoney = shape({
  id: number(),
  name: text(),
  version: number(),
  /** What it may spend in a calendar month; null for no limit. */
  limitMicros: maybe(number()),
  /** Millionths of our cost that are added for the client, as they are now. */
  marginPpm: number(),
  /** Spent in the month that the clock stands in: what the limit is held against. */
  nowMicros: number(),
  costMicros: number(),
  chargedMicros: number()
})
export type AdvertiserMoney = TypeOf<typeof advertiserMoney>

/** A month of an organisation's ledger, and how far its money goes. Amounts in micros; money in is positive. */
export const ledgerView = shape({
  balanceMicros: number(),
  /** Spent in the last 24 market hours. */
  lastDayMicros: number(),
  /** Market hour until which the balance lasts at that pace; null where nothing was spent. */
  lastsUntil: maybe(number()),
  /** Whether that is sooner than is to be warned of, and days from which it is. */
  isLow: flag(),
  lowDays: number(),
  /** Card that each day's spend is charged to, and how much of it at most; null where none was agreed on. */
  charge: maybe(shape({ last4: text(), mostMicros: number() })),
  /** Whether the payment service cannot be asked at present. */
  serviceIsAway: flag(),
  /** Cards that the stand-in of the payment service knows, and how each fares. */
  knownCards: list(shape({ number: text(), fares: text() })),
  /** The last ones, and all that wait. */
  payments: list(paymentView),
  /** Advertisers that the user sees, in the month that is read. */
  advertisers: list(advertiserMoney),
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
