import type { Amounts } from './limits.js'
import { LineCells, PASS_ALL, PASS_NONE } from './line-cells.js'

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
  /** What was due before it opens and has not come: all of it is due at once. What is left of the limits is spread. */
  due?: Amounts
  /** Share of the day planned by the start of each local hour, 25 entries; null plans by open minutes. */
  curve?: Float64Array | null
}

const ORDINARY = Array.from({ length: 24 }, (_, hour) => hour)

/**
 * Share of a day planned by the start of each of its hours, by the weights of the week's hours; null where all weigh alike.
 * @param hours on the clock, where the clock changes that day
 */
export function dayCurve(weights: ArrayLike<number>, weekday: number, hours: readonly number[] = ORDINARY): Float64Array | null {
  if (hours.length !== ORDINARY.length) return curveOf(weights, weekday, hours)
  let week = curves.get(weights)
  if (!week) curves.set(weights, (week = Array.from({ length: 7 }, (_, day) => curveOf(weights, day, ORDINARY))))
  return week[weekday]
}

const curves = new WeakMap<ArrayLike<number>, (Float64Array | null)[]>()

function curveOf(weights: ArrayLike<number>, weekday: number, hours: readonly number[]): Float64Array | null {
  const day = hours.map((hour) => weights[weekday * 24 + hour])
  const sum = day.reduce((total, share) => total + share, 0)
  if (sum === 0 || day.every((share) => share === day[0])) return null
  const curve = new Float64Array(day.length + 1)
  day.forEach((share, hour) => (curve[hour + 1] = curve[hour] + share / sum))
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
    const hour = Math.min(plan.curve.length - 2, Math.floor(minute / 60))
    const [from, to, first] = [plan.curve[hour], plan.curve[hour + 1], plan.curve[Math.floor(plan.openFrom / 60)]]
    const last = plan.curve[Math.min(plan.curve.length - 1, Math.ceil(plan.openTo / 60))]
    const by = Math.min(last, from + ((to - from) * (minute - hour * 60)) / 60)
    return first < last ? (by - first) / (last - first) : 1
  }
  return Math.min(1, (minute - plan.openFrom) / (plan.openTo - plan.openFrom))
}

/** What of a plan is due by a minute of the local day: what was due before it opened, and the share that came of the rest. */
export function dueBy(plan: DayPlan, pacing: Pacing, minute: number): Amounts {
  const share = plannedShare(plan, pacing, minute)
  const { micros = 0, impressions = 0 } = plan.due ?? {}
  const dueOf = (limit: number, due: number) => (limit === Infinity ? Infinity : due + Math.max(0, limit - due) * share)
  return { micros: dueOf(plan.limitMicros, micros), impressions: dueOf(plan.limitShown ?? Infinity, impressions) }
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

/** Whether a plan holds anything back at all. */
export const isPaced = (plan: DayPlan, pacing: Pacing) =>
  pacing !== 'fast' && (plan.limitMicros !== Infinity || (plan.limitShown ?? Infinity) !== Infinity)

/** An opportunity that asks to pass. */
export interface Passing {
  /** Of the line's local day. */
  minute: number
  priceMicros: number
  key: number
  line: number
}

/**
 * Lets through as much of what a line could win as its plan wants by the end of each five minutes. The share let
 * through is a 16-bit integer, from what is still wanted and the supply seen in the windows before; of money and impressions
 * the one that is nearer its end counts.
 */
export class Pacer {
  private target = 0
  private targetShown = Infinity
  private micros: number
  private shown: number
  /** What passed the price tests since it was last taken. */
  private passed: Amounts = { micros: 0, impressions: 0 }

  /** @param place its own in `cells` */
  constructor(
    supply: Supply = { micros: 0, shown: 0 },
    private readonly cells = new LineCells(1),
    private readonly place = 0
  ) {
    this.micros = supply.micros
    this.shown = supply.shown
  }

  get supply(): Supply {
    return { micros: this.micros, shown: this.shown }
  }

  /** What could have been bought since this was last asked, whether or not it passed. */
  takePassed(): Amounts {
    const { passed } = this
    this.passed = { micros: 0, impressions: 0 }
    return passed
  }

  /** To be called at the start of a local day and when a line's plan is made anew. */
  restart(): void {
    this.cells.setWindow(this.place, -1)
    this.cells.forgetSeen(this.place)
  }

  /**
   * Whether an opportunity may be bought now, at a minute of the local day.
   * @param priceMicros what it would cost: counted as supply whether or not it passes
   * @param spent so far on this local day
   */
  passes(plan: DayPlan, pacing: Pacing, spent: Readonly<Amounts>, { minute, priceMicros, key, line }: Passing): boolean {
    if (!isPaced(plan, pacing)) return true
    const { cells, place } = this
    const window = Math.floor(minute / WINDOW_MINUTES)
    if (window !== cells.window(place)) this.openWindow(window, plan, pacing, spent)
    cells.see(place, priceMicros)
    return cells.lets(place, key, line)
  }

  /** Takes the supply of the window before, and sets what passes in this one. */
  openWindow(window: number, plan: DayPlan, pacing: Pacing, spent: Readonly<Amounts>): void {
    this.learn()
    const { cells, place } = this
    cells.setWindow(place, window)
    const due = dueBy(plan, pacing, (window + 1) * WINDOW_MINUTES)
    this.target = due.micros
    this.targetShown = due.impressions
    cells.setRate(
      place,
      Math.min(rateOf(this.target - spent.micros, this.micros), rateOf(this.targetShown - spent.impressions, this.shown))
    )
    this.booked(spent)
  }

  /** To be called when something was bought: once the window's plan is met nothing passes any more. */
  booked(spent: Readonly<Amounts>): void {
    if ((spent.micros >= this.target || spent.impressions >= this.targetShown) && this.cells.window(this.place) >= 0)
      this.cells.setRate(this.place, PASS_NONE)
  }

  /** Takes the window's supply into the estimate; also at the end of an hour, so that the estimate can be stored. */
  learn(): void {
    const { cells, place } = this
    const shown = cells.seenShown(place)
    if (shown === 0) return
    this.passed.micros += cells.seenMicros(place)
    this.passed.impressions += shown
    this.micros = smooth(this.micros, cells.seenMicros(place))
    // Impressions are kept in thousandths, or small lines would be rounded away.
    this.shown = Math.floor(smooth(this.shown * 1000, shown * 1000)) / 1000
    cells.forgetSeen(place)
  }
}

const smooth = (old: number, now: number) => Math.floor(old === 0 ? now : (old * 2 + now) / 3)

/** Share of a window's supply, of 65,536, that brings what is wanted of it. */
const rateOf = (wanted: number, supply: number) =>
  wanted === Infinity || supply <= 0 ? PASS_ALL : Math.max(0, Math.min(PASS_ALL, Math.floor((wanted / supply) * PASS_ALL)))
