import { isLimit } from './binding.js'
import { CPM_STEP } from '../money/index.js'
import { mainFigures, type Figures, type MainFigures } from './main-figures.js'
import { matchKey, workOut, type Workings } from './workings.js'
import type { Ladder } from './ladder.js'
import type { Matched } from './matched.js'
import type { Pacing } from '../exchange/index.js'
import type { Restriction } from '../targeting/index.js'
import type { ForecastQuestion } from './question.js'
import type { Sieve } from './sieve.js'

/** One change to a line, small enough to be told in a sentence. */
export type Change =
  | { kind: 'bid'; micros: number }
  | { kind: 'maximum'; micros: number }
  | { kind: 'daily budget'; micros: number }
  | { kind: 'cap'; cap: number; times: number | null }
  | { kind: 'gap' }
  | { kind: 'hours' }
  | { kind: 'follow' }
  | { kind: 'pacing'; pacing: Pacing }
  | { kind: 'restriction'; place: number }

export const GOAL_MEASURES = ['wins', 'reach', 'views', 'visits', 'conversions'] as const
export type GoalMeasure = (typeof GOAL_MEASURES)[number]

/** A better use of a line's money: a change, and what a day is worth with it. */
export interface Holdback {
  change: Change
  /** More a day in the goal's measure; reach in seven days. */
  gain: number
  /** More wins and spend a day. */
  wins: number
  spendMicros: number
  /** Whether the budget is spent with it. */
  spends: boolean
  /** Whether it takes more money than the line may spend now. */
  takesMore: boolean
  /** What one more of the measure costs, micros; null where it costs nothing more. */
  eachMicros: number | null
}

/** A question with a change made to it. */
export function changed(question: ForecastQuestion, change: Change): ForecastQuestion {
  switch (change.kind) {
    case 'bid':
      return {
        ...question,
        price: {
          ...question.price,
          bidMicros: change.micros,
          maxMicros: question.price.maxMicros === null ? null : Math.max(question.price.maxMicros, change.micros)
        }
      }
    case 'maximum':
      return { ...question, price: { ...question.price, maxMicros: change.micros } }
    case 'daily budget':
      return { ...question, limits: { ...question.limits, dailyMicros: change.micros } }
    case 'cap':
      return {
        ...question,
        caps: question.caps.flatMap((cap, n) => (n !== change.cap ? [cap] : change.times === null ? [] : [{ ...cap, times: change.times }]))
      }
    case 'gap':
      return { ...question, gapMinutes: 0 }
    case 'hours':
      return { ...question, hours: null }
    case 'follow':
      return { ...question, follow: true }
    case 'pacing':
      return { ...question, pacing: change.pacing }
    case 'restriction':
      return { ...question, targeting: { restrictions: question.targeting.restrictions.filter((_, place) => place !== change.place) } }
  }
}

/** Restrictions that are tried: those that keep out most alone. */
const MOST_LIFTED = 3
const CENT = 10_000
/** Share of a budget that counts as spent. */
const SPENT = 0.98
/** Gains below this share of what there is are noise. */
const LEAST_GAIN = 0.02

/**
 * Looks for the best use of a line's money: single changes, each measured by asking again. Those that stay within what it may spend
 * now come before those that take more; a line that its money binds is told to bid less, where that buys more, and never to let in more
 * that it has no money for.
 * @param ladder and `sieve` of the same question
 */
export function holdbacks(
  work: Workings,
  main: MainFigures,
  ladder: Ladder,
  sieve: Sieve,
  measure: GoalMeasure,
  cancelled: () => boolean
): Holdback[] {
  const { question, tape, market } = work
  const now = main.day
  const plan = dayPlanOf(question)
  const ask = (change: Change): Holdback => {
    const next = changed(question, change)
    const kept: Matched | undefined = matchKey(next) === matchKey(question) ? work.matched : undefined
    const { day } = mainFigures(workOut(next, tape, market, cancelled, kept), cancelled)
    const [gain, spendMicros] = [measured(day, measure) - measured(now, measure), day.spend.value - now.spend.value]
    return {
      change,
      gain,
      wins: day.wins.value - now.wins.value,
      spendMicros,
      spends: plan !== null && change.kind !== 'daily budget' && day.spend.value >= plan * SPENT,
      takesMore: change.kind === 'daily budget',
      eachMicros: spendMicros > 0 && gain > 0 ? spendMicros / gain : null
    }
  }
  const { binding } = main
  const found = sameMoney(question, main, ladder).map(ask)
  if (!isLimit(binding)) found.push(...looser(question, ladder, plan, sieve, ask))
  else if (binding.whose === 'line' && question.limits.dailyMicros !== null)
    found.push(...moreMoney(question.limits.dailyMicros, main, now, ask))
  const least = measured(now, measure) * LEAST_GAIN
  return best(found)
    .filter((holdback) => holdback.gain > least)
    .sort((a, b) => Number(a.takesMore) - Number(b.takesMore) || b.gain - a.gain)
}

/** Changes that let the same money buy more. */
function sameMoney({ price, follow, aim, pacing, caps }: ForecastQuestion, { binding }: MainFigures, ladder: Ladder): Change[] {
  const changes: Change[] = []
  const isHeld = isLimit(binding)
  const lower = isHeld && !follow && !aim ? lowerBid(price, ladder) : null
  if (lower !== null) changes.push({ kind: 'bid', micros: lower })
  // The market is followed on prices by the thousand alone.
  if (isHeld && !follow && !aim && price.model === 'CPM') changes.push({ kind: 'follow' })
  if ((isHeld || binding.kind === 'pace') && pacing === 'even') changes.push({ kind: 'pacing', pacing: 'traffic' })
  // Where there is more than the money buys, showing it to others costs nothing.
  if (isHeld) caps.forEach(({ times }, cap) => times > 1 && changes.push({ kind: 'cap', cap, times: times - 1 }))
  return changes
}

/** The bid under the line's own at which its budget wins most: between rungs as a parabola through the best and those beside it says. */
function lowerBid({ bidMicros, model }: ForecastQuestion['price'], { rungs }: Ladder): number | null {
  const under = rungs.filter((rung) => rung.bidMicros <= bidMicros)
  const top = under.reduce((most, rung, n) => (rung.budgetWins > under[most].budgetWins ? n : most), 0)
  if (under.length < 3 || top === under.length - 1) return null
  if (top === 0) return under[0].bidMicros
  const [x, y] = [[-1, 0, 1].map((n) => Math.log(under[top + n].bidMicros)), [-1, 0, 1].map((n) => under[top + n].budgetWins)]
  const [left, right] = [(y[1] - y[0]) / (x[1] - x[0]), (y[2] - y[1]) / (x[2] - x[1])]
  const curve = (right - left) / (x[2] - x[0])
  const peak = curve < 0 ? (x[0] + x[1]) / 2 - left / (2 * curve) : x[1]
  const step = model === 'CPM' ? CPM_STEP : 1
  return Math.max(step, Math.round(Math.exp(Math.min(x[2], Math.max(x[0], peak))) / step) * step)
}

/** The least daily budget that spends all that the bid can: what stands above it may leave less. */
function moreMoney(dailyMicros: number, { demandMicros }: MainFigures, now: Figures, ask: (change: Change) => Holdback): Holdback[] {
  const micros = Math.ceil((demandMicros * 1.02) / CENT) * CENT
  const all = ask({ kind: 'daily budget', micros })
  const spent = now.spend.value + all.spendMicros
  const enough = Math.ceil((spent * 1.02) / CENT) * CENT
  if (enough <= dailyMicros) return []
  return [enough < micros * SPENT ? ask({ kind: 'daily budget', micros: enough }) : all]
}

/** Changes that let more of the market in, for a line that has money for it. */
function looser(
  question: ForecastQuestion,
  ladder: Ladder,
  plan: number | null,
  sieve: Sieve,
  ask: (change: Change) => Holdback
): Holdback[] {
  const found = bidChange(question, ladder, plan).map(ask)
  for (const change of capChanges(question)) {
    const answer = ask(change)
    found.push(answer)
    if (answer.spends) break
  }
  if (question.gapMinutes > 0) found.push(ask({ kind: 'gap' }))
  if (question.hours?.perMille.some((m) => m === 0)) found.push(ask({ kind: 'hours' }))
  const lifted = sieve.steps.flatMap((step, place) =>
    step.restriction !== 'hours' && step.lifted > 0 && mayBeLifted(step.restriction) ? [{ place, lifted: step.lifted }] : []
  )
  for (const { place } of lifted.sort((a, b) => b.lifted - a.lifted).slice(0, MOST_LIFTED)) found.push(ask({ kind: 'restriction', place }))
  return found
}

/** Where people are is what the trader wants; robots and pops that a browser holds back are what nobody does. */
const mayBeLifted = ({ dimension, mode }: Restriction) => dimension !== 'where' && !(dimension === 'unwanted' && mode === 'exclude')

/** Of each kind the least change that spends the budget, else the one that brings most. */
function best(found: readonly Holdback[]): Holdback[] {
  const kinds = new Map<string, Holdback>()
  for (const holdback of found) {
    const name = holdback.change.kind === 'restriction' ? `restriction ${holdback.change.place}` : holdback.change.kind
    const known = kinds.get(name)
    if (!known || (holdback.spends && !known.spends) || (holdback.spends === known.spends && holdback.gain > known.gain))
      kinds.set(name, holdback)
  }
  return [...kinds.values()]
}

const measured = (figures: Figures, measure: GoalMeasure) => figures[measure].value

/** What a day may spend at most by the line's own limits; null without any. */
function dayPlanOf({ limits }: ForecastQuestion): number | null {
  const parts = [limits.dailyMicros, limits.weeklyMicros === null ? null : limits.weeklyMicros / 7].filter(
    (micros): micros is number => micros !== null
  )
  return parts.length > 0 ? Math.min(...parts) : null
}

/** The least rung over the bid that spends the plan; without one, the bid that wins nine in ten. */
function bidChange({ price }: ForecastQuestion, { rungs, marks }: Ladder, plan: number | null): Change[] {
  const over = rungs.filter((rung) => rung.bidMicros > price.bidMicros)
  const enough = plan === null ? undefined : over.find((rung) => rung.spendMicros >= plan * 1.02)
  const target =
    enough?.bidMicros ??
    (marks.nineInTen !== null && marks.nineInTen > price.bidMicros ? Math.ceil(marks.nineInTen / CPM_STEP) * CPM_STEP : undefined)
  return target === undefined ? [] : [{ kind: 'bid', micros: target }]
}

/** Looser caps, least first. */
function capChanges({ caps }: ForecastQuestion): Change[] {
  return caps.flatMap((cap, n): Change[] => [
    { kind: 'cap', cap: n, times: cap.times + 1 },
    { kind: 'cap', cap: n, times: cap.times * 2 },
    { kind: 'cap', cap: n, times: null }
  ])
}
