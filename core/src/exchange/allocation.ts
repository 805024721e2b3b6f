import type { Cap } from './caps.js'
import { EXPOSED, type ExposureBook } from './exposures.js'
import type { Amounts, Limits, PERIODS } from './limits.js'
import { OUTCOME } from './outcomes.js'
import type { Pacer, DayPlan, Pacing } from './pacing.js'

/** Limits of a line or a campaign, and what has been spent and shown against them. */
export interface Purse {
  limits: Limits
  spent: Record<(typeof PERIODS)[number], Amounts>
  /** The limits that are set, in all and by period: most lines have one or two of eight. */
  total: readonly Check[]
  periods: readonly Check[]
}

/** A limit and what counts towards it. */
interface Check {
  limit: number
  of: Amounts
  isMoney: boolean
}

export function emptyPurse(limits: Limits): Purse {
  const spent = {
    day: { micros: 0, impressions: 0 },
    week: { micros: 0, impressions: 0 },
    month: { micros: 0, impressions: 0 },
    total: { micros: 0, impressions: 0 }
  }
  const check = (limit: number | null, amounts: Amounts, isMoney: boolean): Check[] =>
    limit === null ? [] : [{ limit, of: amounts, isMoney }]
  return {
    limits,
    spent,
    total: [...check(limits.totalMicros, spent.total, true), ...check(limits.totalImpressions, spent.total, false)],
    periods: [
      ...check(limits.dailyMicros, spent.day, true),
      ...check(limits.dailyImpressions, spent.day, false),
      ...check(limits.weeklyMicros, spent.week, true),
      ...check(limits.weeklyImpressions, spent.week, false),
      ...check(limits.monthlyMicros, spent.month, true),
      ...check(limits.monthlyImpressions, spent.month, false)
    ]
  }
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
  /** Caps that all lines of the campaign count in, and its number. */
  campaignCaps?: readonly Cap[]
  campaignNumber?: number
  /** Least minutes between two exposures of a person; none when left out. */
  gapMinutes?: number
  /** Ads with caps of their own neither count in the line's nor obey them. */
  hasOwnCaps?: boolean
  /** Spent today by placement, and by source at `sourceKey`, where that is limited. */
  onPlacement: Map<number, number>
}

/** Where a source's money lies among that of placements. */
const sourceKey = (source: number) => -1 - source

/** Notes what a day on a placement and through a source costs, where a line limits that. */
export function notePlace(
  into: Map<number, number>,
  { placementDailyMicros, sourceDailyMicros }: Limits,
  { placement, source }: Pick<Wanted, 'placement' | 'source'>,
  micros: number
): void {
  const add = (key: number) => into.set(key, (into.get(key) ?? 0) + micros)
  if (placementDailyMicros !== null) add(placement)
  if (sourceDailyMicros != null) add(sourceKey(source))
}

/** Whether a line limits what a day on a placement or through a source may cost. */
export const limitsPlaces = ({ placementDailyMicros, sourceDailyMicros }: Limits) =>
  placementDailyMicros !== null || sourceDailyMicros != null

/** Whether any of some limits is reached. */
export function used(checks: readonly Check[]): boolean {
  for (let n = 0; n < checks.length; n++) {
    const { limit, of: amounts, isMoney } = checks[n]
    if ((isMoney ? amounts.micros : amounts.impressions) >= limit) return true
  }
  return false
}

/** An opportunity that a line would buy. */
export interface Wanted {
  person: number
  placement: number
  /** Place of its source in `SOURCES`. */
  source: number
  /** Runs on, for caps. */
  minute: number
  /** Of the line's local day. */
  minuteOfDay: number
  key: number
  /** What it would cost, or is expected to. */
  priceMicros: number
}

/**
 * The state tests for an opportunity that the line's bid would win: total, period, placement and source, pace, cap, gap, in this order.
 * A limit stops buying once it is reached, so that money limits are passed by less than one charge and those of impressions by nothing.
 * @returns an outcome, `won` when nothing stops the purchase (nothing is booked yet)
 */
export function allocate(
  account: LineAccount,
  book: ExposureBook,
  { person, placement, source, minute, minuteOfDay, key, priceMicros }: Wanted
): number {
  const { purse, campaign, line } = account
  if (used(purse.total) || (campaign !== null && used(campaign.total))) return OUTCOME.total_budget
  if (used(purse.periods) || (campaign !== null && used(campaign.periods))) return OUTCOME.period_budget
  const { placementDailyMicros, sourceDailyMicros } = purse.limits
  if (placementDailyMicros !== null && (account.onPlacement.get(placement) ?? 0) >= placementDailyMicros) return OUTCOME.placement_limit
  if (sourceDailyMicros != null && (account.onPlacement.get(sourceKey(source)) ?? 0) >= sourceDailyMicros) return OUTCOME.placement_limit
  if (!account.pacer.passes(account.plan, account.pacing, purse.spent.day, { minute: minuteOfDay, priceMicros, key, line }))
    return OUTCOME.paced_out
  return exposed(account, book, person, minute)
}

/** The last of the state tests: caps and gap. */
export function exposed(account: LineAccount, book: ExposureBook, person: number, minute: number): number {
  const { line } = account
  if (
    account.campaignCaps &&
    account.campaignCaps.length > 0 &&
    book.capped(EXPOSED.campaign(account.campaignNumber ?? 0), person, minute, account.campaignCaps)
  )
    return OUTCOME.capped
  if (!account.hasOwnCaps && account.caps.length > 0 && book.capped(EXPOSED.line(line), person, minute, account.caps)) return OUTCOME.capped
  if (account.gapMinutes && book.capped(EXPOSED.line(line), person, minute, [], account.gapMinutes)) return OUTCOME.gap
  return OUTCOME.won
}

function pay({ spent }: Purse, chargeMicros: number): void {
  // Written out: this is done for every win, and names that are known are faster than names that are looked up.
  const { day, week, month, total } = spent
  day.micros += chargeMicros
  day.impressions++
  week.micros += chargeMicros
  week.impressions++
  month.micros += chargeMicros
  month.impressions++
  total.micros += chargeMicros
  total.impressions++
}

/** Books the money of a purchase that `allocate` allowed. */
export function bookMoney(account: LineAccount, where: Pick<Wanted, 'placement' | 'source'>, chargeMicros: number): void {
  pay(account.purse, chargeMicros)
  account.pacer.booked(account.purse.spent.day)
  if (account.campaign !== null) pay(account.campaign, chargeMicros)
  if (limitsPlaces(account.purse.limits)) notePlace(account.onPlacement, account.purse.limits, where, chargeMicros)
}
