import type { Tape } from '../tape/index.js'
import { periodMoney } from './period.js'
import { workOut, type Workings } from './workings.js'
import type { ForecastMarket, ForecastQuestion, Mate } from './question.js'
import { shapesOf, type Shape } from './shape.js'

/** What a line wins a day alone, and beside the campaign's other lines; `line` is null for the one that was asked about. */
export interface TogetherLine {
  line: number | null
  alone: DayWins
  together: DayWins
}
export interface DayWins {
  wins: number
  spendMicros: number
}

export interface Together {
  lines: TogetherLine[]
  /** Only every n-th person of the tape was looked at. */
  every: number
}

/** Rows above which only every n-th person is run. */
const MOST_ROWS = 150_000

/**
 * Runs a line and the campaign's live ones over both weeks of the tape at once, each within its budgets: the dearest own bid
 * comes first, nothing is bought twice.
 * @param kept what was worked out for the mates of the question before, by the question: most edits change none of them
 * @throws CancelledError
 */
export function together(
  work: Workings,
  mates: readonly Mate[],
  tape: Tape,
  market: ForecastMarket,
  cancelled: () => boolean,
  kept: Map<string, Workings> = new Map()
): Together {
  const keys = mates.map((mate) => JSON.stringify(mate.question))
  for (const key of kept.keys()) if (!keys.includes(key)) kept.delete(key)
  // Those that run together here meet each other below, not beforehand.
  const alone = (question: ForecastQuestion) => workOut({ ...question, among: undefined }, tape, market, cancelled)
  mates.forEach((mate, n) => {
    if (!kept.has(keys[n])) kept.set(keys[n], alone(mate.question))
  })
  const own = work.question.among === undefined ? work : alone(work.question)
  const works = [own, ...keys.map((key) => kept.get(key) as Workings)]
  const rows = works.reduce((sum, one) => sum + one.matched.rows.length, 0)
  const every = Math.max(1, Math.ceil(rows / MOST_ROWS))
  const scale = (tape.sample * every) / 14
  const sums = works.map(() => ({ alone: { wins: 0, spendMicros: 0 }, together: { wins: 0, spendMicros: 0 } }))
  const count = (into: DayWins, shape: Shape) => {
    into.wins += shape.wins * scale
    into.spendMicros += shape.spend * scale
  }
  for (const week of [0, 1] as const) {
    // All are asked in the zone of the first: whose day begins when is a matter of hours, who meets whom is not.
    const timeline = work.weeks[week]
    const lines = works.map((one) => ({ play: one.play, ...periodMoney(one, one.weeks[week], one.weekReplays[week]) }))
    shapesOf(lines, timeline, cancelled, every).forEach((shape, l) => count(sums[l].together, shape))
    lines.forEach((line, l) => count(sums[l].alone, shapesOf([line], timeline, cancelled, every)[0]))
  }
  return { lines: sums.map((sum, l) => ({ line: l === 0 ? null : mates[l - 1].line, ...sum })), every }
}
