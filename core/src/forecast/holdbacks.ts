import { isLimit } from './binding.js'
import { CPM_STEP } from '../money/index.js'
import { mainFigures, type Figures, type MainFigures } from './main-figures.js'
import { matchKey, workOut, type Workings } from './workings.js'
import type { Ladder } from './ladder.js'
import type { Matched } from './matched.js'
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
  | { kind: 'restriction'; place: number }

export const GOAL_MEASURES = ['wins', 'reach', 'views', 'visits', 'conversions'] as const
export type GoalMeasure = (typeof GOAL_MEASURES)[number]

/** What holds a line back: a change, and what a day is worth with it. */
export interface Holdback {
  change: Change
  /** More a day in the goal's measure; reach in seven days. */
  gain: number
  /** More wins and spend a day. */
  wins: number
  spendMicros: number
  /** Whether the budget is spent with it. */
  spends: boolean
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
    case 'restriction':
      return { ...question, targeting: { restrictions: question.targeting.restrictions.filter((_, place) => place !== change.place) } }
  }
}

/** Restrictions that are tried: those that keep out most alone. */
const MOST_LIFTED = 3
const EURO = 1_000_000
/** Share of a budget that counts as spent. */
const SPENT = 0.98
/** Gains below this share of what there is are noise. */
const LEAST_GAIN = 0.005

/**
 * Tries the single changes that could help and measures each by asking again.
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
    return {
      change,
      gain: measured(day, measure) - measured(now, measure),
      wins: day.wins.value - now.wins.value,
      spendMicros: day.spend.value - now.spend.value,
      spends: plan !== null && change.kind !== 'daily budget' && day.spend.value >= plan * SPENT
    }
  }
  const found: Holdback[] = []
  const short = plan !== null && now.spend.value < plan * SPENT
  if (isLimit(main.binding) && question.limits.dailyMicros !== null) {
    found.push(
      ask({
        kind: 'daily budget',
        micros: Math.max(question.limits.dailyMicros + EURO, Math.ceil((main.demandMicros * 1.02) / EURO) * EURO)
      })
    )
  }
  if (!isLimit(main.binding) || short) {
    found.push(...bidChange(question, ladder, plan).map(ask))
    for (const change of capChanges(question)) {
      const answer = ask(change)
      found.push(answer)
      if (answer.spends) break
    }
    if (question.gapMinutes > 0) found.push(ask({ kind: 'gap' }))
    if (question.hours?.perMille.some((m) => m === 0)) found.push(ask({ kind: 'hours' }))
    const lifted = sieve.steps.flatMap((step, place) =>
      step.restriction !== 'hours' && step.lifted > 0 && step.restriction.dimension !== 'where' ? [{ place, lifted: step.lifted }] : []
    )
    for (const { place } of lifted.sort((a, b) => b.lifted - a.lifted).slice(0, MOST_LIFTED))
      found.push(ask({ kind: 'restriction', place }))
  }
  const least = measured(now, measure) * LEAST_GAIN
  return best(found)
    .filter((holdback) => holdback.gain > least)
    .sort((a, b) => b.gain - a.gain)
}

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
