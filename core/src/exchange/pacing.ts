import { STREAM, draw } from '../random/index.js'
import type { Amounts } from './limits.js'

export const PACINGS = ['even', 'fast', 'traffic'] as const
export type Pacing = (typeof PACINGS)[number]

/** Minutes between two corrections of the pass rate. */
export const WINDOW_MINUTES = 5

/** What one local day may cost and show, and the minutes of it in which the line is open: [from, to). */
export interface DayPlan {
  limitMicros: number
  /** Impressions; Infinity or left out for no limit. */
  limitShown?: number
  openFrom: number
  openTo: number
  /** Share of the day planned by the start of each local hour, 25 entries; null plans by open minutes. */
  curve?: Float64Array | null
}

/**
 * Share of a day planned by the start of each of its hours, by the weights of the week's hours; null where all weigh alike.
 */
export function dayCurve(weights: ArrayLike<number>, weekday: number): Float64Array | null {
  const day = Array.from({ length: 24 }, (_, hour) => weights[weekday * 24 + hour])
  const sum = day.reduce((total, of) => total + of, 0)
  if (sum === 0 || day.every((of) => of === day[0])) return null
  const curve = new Float64Array(25)
  day.forEach((of, hour) => (curve[hour + 1] = curve[hour] + of / sum))
  return curve
}

/**
 * Share of the day's plan that is due by a minute of the local day. `even` spreads it over the open minutes, or by a curve
 * where hours are off or traffic leads; `fast` has all of it at the first.
 */
export function plannedShare(plan: DayPlan, pacing: Pacing, minute: number): number {
  if (minute <= plan.openFrom) return 0
  if (pacing === 'fast') return 1
  if (plan.curve) {
    const hour = Math.min(23, Math.floor(minute / 60))
    const [from, to, first] = [plan.curve[hour], plan.curve[hour + 1], plan.curve[Math.floor(plan.openFrom / 60)]]
    const by = Math.min(1, from + ((to - from) * (minute - hour * 60)) / 60)
    return first < 1 ? (by - first) / (1 - first) : 1
  }
  return Math.min(1, (minute - plan.openFrom) / (plan.openTo - plan.openFrom))
}

/** Money planned to be spent by a minute of the local day. */
export function plannedBy(plan: DayPlan, pacing: Pacing, minute: number): number {
  if (minute <= plan.openFrom) return 0
  return plan.limitMicros === Infinity ? Infinity : plan.limitMicros * plannedShare(plan, pacing, minute)
}

/** What a line could have bought in five minutes, smoothed: zero when nothing is known. */
export interface Supply {
  micros: number
  shown: number
}

/**
 * Lets through as much of what a line could win as its plan wants by the end of each five minutes. The share let
 * through is a 16-bit integer, from what is still wanted and the supply seen in the windows before; of money and impressions
 * the one that is nearer its end counts.
 */
export class Pacer {
  private window = -1
  private target = 0
  private targetShown = Infinity
  private rate = 65536
  private seen: Supply = { micros: 0, shown: 0 }
  supply: Supply

  constructor(supply: Supply = { micros: 0, shown: 0 }) {
    this.supply = { ...supply }
  }

  /** To be called at the start of a local day and when a line's plan is made anew. */
  restart(): void {
    this.window = -1
    this.seen = { micros: 0, shown: 0 }
  }

  /**
   * Whether an opportunity may be bought now.
   * @param priceMicros what it would cost: counted as supply whether or not it passes
   * @param spent so far on this local day
   */
  passes(plan: DayPlan, pacing: Pacing, minute: number, spent: Readonly<Amounts>, priceMicros: number, key: number, line: number): boolean {
    const limitShown = plan.limitShown ?? Infinity
    if (pacing === 'fast' || (plan.limitMicros === Infinity && limitShown === Infinity)) return true
    const window = Math.floor(minute / WINDOW_MINUTES)
    if (window !== this.window) this.openWindow(window, plan, limitShown, pacing, spent)
    this.seen.micros += priceMicros
    this.seen.shown++
    if (spent.micros >= this.target || spent.impressions >= this.targetShown) return false
    return this.rate >= 65536 || draw(key ^ line, STREAM.pace) >>> 16 < this.rate
  }

  private openWindow(window: number, plan: DayPlan, limitShown: number, pacing: Pacing, spent: Readonly<Amounts>): void {
    this.learn()
    this.window = window
    const share = plannedShare(plan, pacing, (window + 1) * WINDOW_MINUTES)
    this.target = plan.limitMicros === Infinity ? Infinity : plan.limitMicros * share
    this.targetShown = limitShown === Infinity ? Infinity : limitShown * share
    const rateOf = (wanted: number, supply: number) => (wanted === Infinity || supply <= 0 ? 65536 : Math.max(0, Math.min(65536, Math.floor((wanted / supply) * 65536))))
    this.rate = Math.min(rateOf(this.target - spent.micros, this.supply.micros), rateOf(this.targetShown - spent.impressions, this.supply.shown))
  }

  /** Takes the window's supply into the estimate; also at the end of an hour, so that the estimate can be stored. */
  learn(): void {
    const { seen, supply } = this
    if (seen.shown > 0) {
      const smooth = (old: number, now: number) => Math.floor(old === 0 ? now : (old * 2 + now) / 3)
      // Impressions are kept in thousandths, or small lines would be rounded away.
      this.supply = { micros: smooth(supply.micros, seen.micros), shown: Math.floor(smooth(supply.shown * 1000, seen.shown * 1000)) / 1000 }
    }
    this.seen = { micros: 0, shown: 0 }
  }
}
