import { ExposureBook, type Cap } from './exposures.js'
import { OUTCOME } from './outcomes.js'
import { Pacer, type DayPlan, type Pacing } from './pacing.js'

/** Money limits of a line or a campaign, and what has been spent against them. */
export interface Purse {
  dailyMicros: number | null
  totalMicros: number | null
  spentToday: number
  spentTotal: number
}

/** A line as the allocation step sees it: what may still be bought. */
export interface LineAccount {
  line: number
  purse: Purse
  /** The campaign's, shared by its lines; null in a forecast of one line alone. */
  campaign: Purse | null
  pacing: Pacing
  plan: DayPlan
  pacer: Pacer
  caps: readonly Cap[]
  /** Least minutes between two exposures of a person; none when left out. */
  gapMinutes?: number
}

function totalUsed(purse: Purse): boolean {
  return purse.totalMicros !== null && purse.spentTotal >= purse.totalMicros
}

function dayUsed(purse: Purse): boolean {
  return purse.dailyMicros !== null && purse.spentToday >= purse.dailyMicros
}

/**
 * The state tests for an opportunity that the line's bid would win: total, period, pace, cap, gap, in this order.
 * A limit stops buying once it is reached, so that it is passed by less than one charge.
 * @param minuteOfDay of the line's local day; `minute` runs on, for caps
 * @returns an outcome, `won` when nothing stops the purchase (nothing is booked yet)
 */
export function allocate(
  account: LineAccount, book: ExposureBook, person: number, minute: number, minuteOfDay: number, key: number, priceMicros: number
): number {
  const { purse, campaign } = account
  if (totalUsed(purse) || (campaign !== null && totalUsed(campaign))) return OUTCOME.total_budget
  if (dayUsed(purse) || (campaign !== null && dayUsed(campaign))) return OUTCOME.period_budget
  if (!account.pacer.passes(account.plan, account.pacing, minuteOfDay, purse.spentToday, priceMicros, key, account.line)) return OUTCOME.paced_out
  if (account.caps.length > 0 && book.capped(account.line, person, minute, account.caps)) return OUTCOME.capped
  if (account.gapMinutes && book.capped(account.line, person, minute, [], account.gapMinutes)) return OUTCOME.gap
  return OUTCOME.won
}

/** Books a purchase that `allocate` allowed. */
export function book(account: LineAccount, exposures: ExposureBook, person: number, minute: number, chargeMicros: number): void {
  account.purse.spentToday += chargeMicros
  account.purse.spentTotal += chargeMicros
  if (account.campaign !== null) {
    account.campaign.spentToday += chargeMicros
    account.campaign.spentTotal += chargeMicros
  }
  exposures.add(account.line, person, minute)
}
