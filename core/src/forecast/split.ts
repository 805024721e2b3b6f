import type { Tape } from '../tape/index.js'
import type { GoalMeasure } from './advice/index.js'
import { mainFigures } from './main-figures.js'
import { CancelledError, type ForecastMarket, type ForecastQuestion } from './question.js'
import { workOut } from './workings.js'

/** What a daily budget buys a line, alone. */
export interface SplitPoint {
  dailyMicros: number
  spendMicros: number
  wins: number
  /** In the goal's measure: a day, reach in seven days. */
  value: number
}

export interface SplitCurve {
  line: number
  /** From nothing to all of the money, in rising order. */
  points: SplitPoint[]
}

/** What two lines both match: a day of the market, and people of the tape's days. */
export interface Overlap {
  first: number
  second: number
  opportunitiesADay: number
  people: number
}

export interface Company {
  curves: SplitCurve[]
  /** Each line with itself, then pairs. */
  overlaps: Overlap[]
}

/** Shares of the money at which each line is asked what it buys. */
const SHARES = [0.05, 0.1, 0.2, 0.35, 0.5, 0.75, 1]

/**
 * Asks what shares of a campaign's day buy each of its lines, and how far they look for the same people.
 * @param totalMicros a day of the campaign
 */
export function companyOf(
  lines: readonly { line: number; question: ForecastQuestion }[],
  totalMicros: number,
  measure: GoalMeasure,
  tape: Tape,
  market: ForecastMarket,
  cancelled: () => boolean
): Company {
  const seen: { line: number; rows: Uint32Array; people: Uint32Array }[] = []
  const curves = lines.map(({ line, question }) => {
    // Alone: what the others would take is what is to be decided.
    const alone = { ...question, mates: undefined, among: undefined, sharers: [], limits: { ...question.limits, dailyMicros: null } }
    const work = workOut(alone, tape, market, cancelled)
    const { matched } = work
    const points = SHARES.map((share): SplitPoint => {
      if (cancelled()) throw new CancelledError()
      const dailyMicros = Math.round(totalMicros * share)
      const { day } = mainFigures(
        workOut({ ...alone, limits: { ...alone.limits, dailyMicros } }, tape, market, cancelled, matched),
        cancelled
      )
      return { dailyMicros, spendMicros: day.spend.value, wins: day.wins.value, value: day[measure].value }
    })
    seen.push({ line, rows: Uint32Array.from(matched.rows), people: Uint32Array.from(matched.people) })
    return { line, points: [{ dailyMicros: 0, spendMicros: 0, wins: 0, value: 0 }, ...points] }
  })
  const scale = tape.sample
  const overlaps = seen.flatMap((one, n) =>
    seen.slice(n).map((other): Overlap => ({
      first: one.line,
      second: other.line,
      opportunitiesADay: (shared(one.rows, other.rows) * scale) / 14,
      people: shared(one.people, other.people) * scale
    }))
  )
  return { curves, overlaps }
}

/** How many numbers two lists have both; they are sorted first, since rows come person by person. */
function shared(a: Uint32Array, b: Uint32Array): number {
  const [x, y] = [a.slice().sort(), b.slice().sort()]
  let count = 0
  for (let i = 0, j = 0; i < x.length && j < y.length;) {
    if (x[i] === y[j]) {
      count++
      i++
      j++
    } else if (x[i] < y[j]) i++
    else j++
  }
  return count
}

/** What a curve gives at a budget, between the points that were asked. */
export function valueAt({ points }: SplitCurve, dailyMicros: number): number {
  const above = points.findIndex((point) => point.dailyMicros >= dailyMicros)
  if (above < 0) return points[points.length - 1].value
  if (above === 0) return points[0].value
  const [from, to] = [points[above - 1], points[above]]
  return from.value + ((to.value - from.value) * (dailyMicros - from.dailyMicros)) / (to.dailyMicros - from.dailyMicros)
}

/** Parts in which money is given out. */
const PARTS = 40

/**
 * Gives a day's money out part by part, each time the stretch of parts to the line for which it buys most for each part; money that
 * buys nothing more is left. Looking ahead over stretches finds lines that pay off only beyond a first step.
 * @returns micros a day by line, whole, at most the total
 */
export function adviseSplit(curves: readonly SplitCurve[], totalMicros: number): Map<number, number> {
  const part = Math.floor(totalMicros / PARTS)
  const given = curves.map(() => 0)
  for (let left = PARTS; left > 0;) {
    let best = { line: -1, parts: 1, each: 0 }
    curves.forEach((curve, n) => {
      const now = valueAt(curve, given[n] * part)
      for (let parts = 1; parts <= left; parts++) {
        const each = (valueAt(curve, (given[n] + parts) * part) - now) / parts
        if (each > best.each * 1.0000001) best = { line: n, parts, each }
      }
    })
    if (best.line < 0) break
    given[best.line] += best.parts
    left -= best.parts
  }
  return new Map(curves.map(({ line }, n) => [line, given[n] * part]))
}
