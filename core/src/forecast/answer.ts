import { breakdowns, type Breakdowns } from './breakdowns.js'
import { mainFigures, type MainFigures } from './main-figures.js'
import { matchKey, workOut, type Workings } from './workings.js'
import { advise, type Advised, type GoalMeasure } from './advice/index.js'
import { ladder, type Ladder } from './ladder.js'
import { KernelMatched } from './kernel-matched.js'
import type { Matched } from './matched.js'
import type { ForecastMarket, ForecastQuestion } from './question.js'
import { sieve, sieveKey, type Sieve } from './sieve.js'
import { together, type Together } from './together.js'
import type { Tape } from '../tape/index.js'

/** The parts of an answer, in the order in which they come. */
export type ForecastPart =
  | { part: 'figures'; figures: MainFigures }
  | { part: 'ladder'; ladder: Ladder }
  | { part: 'sieve'; sieve: Sieve }
  | { part: 'breakdowns'; breakdowns: Breakdowns }
  | ({ part: 'advice'; measure: GoalMeasure } & Advised)
  | { part: 'together'; together: Together }

/** What is kept between questions on one tape: a change of bid, caps or money needs no new match, and no new sieve. */
export interface Kept {
  tape: Tape | null
  matched: { key: string; matched: Matched } | null
  sieve: { key: string; sieve: Sieve } | null
  /** What was worked out for the other lines of the campaign. */
  mates: Map<string, Workings>
}
export const nothingKept = (): Kept => ({ tape: null, matched: null, sieve: null, mates: new Map() })

/**
 * Answers a question part by part, main figures first.
 * @throws RangeError for a question that cannot be compiled; CancelledError when `cancelled` turned true
 */
export function* answer(
  question: ForecastQuestion,
  measure: GoalMeasure,
  tape: Tape,
  market: ForecastMarket,
  cancelled: () => boolean,
  kept: Kept = nothingKept()
): Generator<ForecastPart> {
  if (kept.tape !== tape) Object.assign(kept, nothingKept(), { tape })
  const key = matchKey(question)
  // What the last question matched is not asked for again: it need not be copied out of the way of this one.
  if (kept.matched && kept.matched.key !== key && kept.matched.matched instanceof KernelMatched) kept.matched.matched.kept.release()
  const work = workOut(question, tape, market, cancelled, kept.matched?.key === key ? kept.matched.matched : undefined)
  kept.matched = { key, matched: work.matched }
  const figures = mainFigures(work, cancelled)
  yield { part: 'figures', figures }
  const rungs = ladder(work, cancelled)
  yield { part: 'ladder', ladder: rungs }
  const ofSieve = sieveKey(question)
  if (kept.sieve?.key !== ofSieve) kept.sieve = { key: ofSieve, sieve: sieve(question, tape, market, cancelled) }
  yield { part: 'sieve', sieve: kept.sieve.sieve }
  yield { part: 'breakdowns', breakdowns: breakdowns(work, cancelled) }
  yield { part: 'advice', measure, ...advise(work, figures, rungs, kept.sieve.sieve, measure, cancelled) }
  if (question.mates?.length) yield { part: 'together', together: together(work, question.mates, tape, market, cancelled, kept.mates) }
}
