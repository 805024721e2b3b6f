import { STREAM, draw } from '../random/index.js'

export const PACINGS = ['even', 'fast', 'traffic'] as const
export type Pacing = (typeof PACINGS)[number]

/** Minutes between two corrections of the pass rate. */
export const WINDOW_MINUTES = 5

/** What one local day may cost, and the minutes of it in which the line is open: [from, to). */
export interface DayPlan {
  limitMicros: number
  openFrom: number
  openTo: number
  /** Share of the day planned by the start of each local hour, 25 entries; null plans by open minutes. */
  curve?: Float64Array | null
}

/**
 * Money planned to be spent by a minute of the local day. `even` spreads the day's limit over its open minutes,
 * or by a curve where hours are off or traffic leads; `fast` has all of it at the first.
 */
export function plannedBy(plan: DayPlan, pacing: Pacing, minute: number): number {
  if (minute <= plan.openFrom) return 0
  if (pacing === 'fast' || plan.limitMicros === Infinity) return plan.limitMicros
  if (plan.curve) {
    const hour = Math.min(23, Math.floor(minute / 60))
    const [from, to, first] = [plan.curve[hour], plan.curve[hour + 1], plan.curve[Math.floor(plan.openFrom / 60)]]
    const by = Math.min(1, from + ((to - from) * (minute - hour * 60)) / 60)
    return first < 1 ? plan.limitMicros * ((by - first) / (1 - first)) : plan.limitMicros
  }
  return plan.limitMicros * Math.min(1, (minute - plan.openFrom) / (plan.openTo - plan.openFrom))
}

/**
 * Day plan of a purse: the daily limit, and an even share of what was left of the total when the day began.
 * `fast` takes all that is left. Source: the design's L_d with weights by open minutes.
 * @param leftMicros total minus what was spent before this day; null for no total
 * @param openMinutes of this day; `openMinutesLeft` of this day and all after it, null when the flight has no end
 * @returns micros; Infinity without any limit
 */
export function dayLimit(dailyMicros: number | null, leftMicros: number | null, pacing: Pacing, openMinutes: number, openMinutesLeft: number | null): number {
  const share = leftMicros === null ? Infinity
    : pacing === 'fast' || openMinutesLeft === null || openMinutesLeft <= 0 ? Math.max(0, leftMicros)
    : Math.max(0, leftMicros) * Math.min(1, openMinutes / openMinutesLeft)
  return Math.min(dailyMicros ?? Infinity, share)
}

/**
 * Lets through as much of what a line could win as its plan wants by the end of each five minutes. The share let
 * through is a 16-bit integer, from the money still wanted and the supply seen in the windows before.
 */
export class Pacer {
  private window = -1
  private target = 0
  private rate = 65536
  private windowSupply = 0
  /** Money that could have been spent in five minutes, smoothed; 0 when nothing is known. */
  supply: number

  constructor(supply = 0) {
    this.supply = supply
  }

  /** To be called at the start of a local day and when a line's plan is made anew. */
  restart(): void {
    this.window = -1
    this.windowSupply = 0
  }

  /**
   * Whether an opportunity may be bought now.
   * @param priceMicros what it would cost: counted as supply whether or not it passes
   * @param spentMicros spent so far on this local day
   */
  passes(plan: DayPlan, pacing: Pacing, minute: number, spentMicros: number, priceMicros: number, key: number, line: number): boolean {
    if (pacing === 'fast' || plan.limitMicros === Infinity) return true
    const window = Math.floor(minute / WINDOW_MINUTES)
    if (window !== this.window) this.openWindow(window, plan, pacing, spentMicros)
    this.windowSupply += priceMicros
    if (spentMicros >= this.target) return false
    return this.rate >= 65536 || draw(key ^ line, STREAM.pace) >>> 16 < this.rate
  }

  private openWindow(window: number, plan: DayPlan, pacing: Pacing, spentMicros: number): void {
    this.learn()
    this.window = window
    this.target = plannedBy(plan, pacing, (window + 1) * WINDOW_MINUTES)
    const wanted = this.target - spentMicros
    this.rate = this.supply <= 0 ? 65536 : Math.max(0, Math.min(65536, Math.floor((wanted / this.supply) * 65536)))
  }

  /** Takes the window's supply into the estimate; also at the end of an hour, so that the estimate can be stored. */
  learn(): void {
    if (this.windowSupply > 0) this.supply = Math.floor(this.supply === 0 ? this.windowSupply : (this.supply * 2 + this.windowSupply) / 3)
    this.windowSupply = 0
  }
}
