import { nextMonth } from '../exchange/index.js'
import { GROUPS, type Tape } from '../tape/index.js'
import { hasLimits, moneyStep, openOfSlots, type MoneyCalendar, type MoneyLimits, type MoneyResult } from './money.js'
import { NOTHING_SPENT, type ForecastQuestion } from './question.js'
import { levelWithout, type Level } from './level.js'
import { dayTerm, type RangeTerms } from './ranges.js'
import { overGroups, sumOf, type Replay } from './totals.js'
import type { ShapedLine } from './shape.js'
import type { Timeline } from './timeline.js'

/** A line whose periods are looked at: what its days and its money follow from. */
export interface Planned {
  question: Pick<ForecastQuestion, 'pacing'>
  tape: Pick<Tape, 'sample'>
  /** Days left of its flight, and the local market day that comes first. */
  flightDaysLeft: number | null
  firstDay: number
  openMinutes: Float64Array
  limits: MoneyLimits
}

/** Calendar of the money step for a period. */
export function calendarOf(work: Pick<Planned, 'flightDaysLeft' | 'openMinutes' | 'firstDay'>, timeline: Timeline): MoneyCalendar {
  const { flightDaysLeft, openMinutes, firstDay } = work
  const week = timeline.kind === 'week'
  return {
    days: timeline.days,
    firstMinute: timeline.firstMinute,
    span: timeline.span,
    weekday: timeline.weekday,
    openMinutes,
    daysLeftInMonth: week ? 31 : nextMonth(firstDay) - firstDay,
    flightDays: flightDaysLeft === null ? null : Math.max(flightDaysLeft, timeline.days)
  }
}

/** Limits for a period: a week as it stands begins with nothing spent in its periods, but with what is left of totals. */
export function limitsFor(work: Pick<Planned, 'limits'>, timeline: Timeline): MoneyLimits {
  if (timeline.kind === 'flight') return work.limits
  const { spent, campaignSpent } = work.limits
  return {
    ...work.limits,
    spent: { ...NOTHING_SPENT, total: spent.total },
    campaignSpent: { ...NOTHING_SPENT, total: campaignSpent.total }
  }
}

/** What is bought of a replay, in the sample: under its budgets, and how that varies. */
export interface Bought {
  wins: number
  spend: number
}

/** One replay under its budgets. */
export interface Period {
  replay: Replay
  money: MoneyResult
  binds: boolean
  now: Bought
  /** Without each group in turn, what is left grown to the whole. */
  without: readonly Bought[]
  /** With all traffic grown and shrunk by the day term. */
  up: Bought
  down: Bought
  /** By draws of the line's own rate; none where bids do not follow it. */
  draws: readonly Bought[]
}

/** Slots of everybody without a group, times a factor. @param all of everybody, `slots` by group */
function scaledSlots(all: Float64Array, slots: Float64Array, factor: number, leftOut: number): Float64Array {
  const count = all.length
  if (leftOut < 0) return factor === 1 ? all : all.map((sum) => sum * factor)
  // What is left of a difference of equal sums is no money.
  return all.map((sum, slot) => Math.max(0, sum - slots[leftOut * count + slot]) * factor)
}

/** What the budgets of a period plan, and how the plan of each day rises: what a run in the order of time needs. */
export function periodMoney(work: Planned, timeline: Timeline, played: Replay): Pick<ShapedLine, 'money' | 'calendar' | 'curves'> {
  const calendar = calendarOf(work, timeline)
  return {
    money: moneyStep(
      overGroups(played.slotSpend, played.slots),
      overGroups(played.slotWins, played.slots),
      limitsFor(work, timeline),
      calendar,
      work.tape.sample
    ),
    calendar,
    curves: curvesOf(work, timeline, played)
  }
}

/** @param draws what is bought by draws of the line's own rate, against what is bought at that believed now */
export function periodOf(
  work: Planned & { level: Level | null },
  timeline: Timeline,
  played: Replay,
  terms: RangeTerms,
  draws: readonly Bought[]
): Period {
  const limits = limitsFor(work, timeline)
  const calendar = calendarOf(work, timeline)
  const { sample } = work.tape
  const [slotSpend, slotWins] = [overGroups(played.slotSpend, played.slots), overGroups(played.slotWins, played.slots)]
  const run = ({ spend, wins }: Bought, leftOut = -1) =>
    moneyStep(
      scaledSlots(slotSpend, played.slotSpend, spend, leftOut),
      scaledSlots(slotWins, played.slotWins, wins, leftOut),
      limits,
      calendar,
      sample
    )
  const isLimited = hasLimits(limits.own, limits.campaign)
  const all = { wins: played.wins, spend: sumOf(played.byGroup.spend) }
  const money = run({ spend: 1, wins: 1 })
  const binds = isLimited && (money.spend < all.spend * BINDS || money.wins < all.wins * BINDS)
  const d = dayTerm(terms)
  const bought = (by: Bought): Bought =>
    binds || (isLimited && by.spend > 1) ? run(by) : { wins: all.wins * by.wins, spend: all.spend * by.spend }
  const without = Array.from({ length: GROUPS }, (_, g): Bought => {
    const grown = GROUPS / (GROUPS - 1)
    if (!binds) return { wins: (all.wins - played.byGroup.wins[g]) * grown, spend: (all.spend - played.byGroup.spend[g]) * grown }
    const factor = work.level ? grown * levelWithout(work.level, g) : grown
    return run({ wins: factor, spend: factor }, g)
  })
  return {
    replay: played,
    money,
    binds,
    now: binds ? money : all,
    without,
    up: bought({ wins: 1 + d, spend: 1 + d }),
    down: bought({ wins: Math.max(0, 1 - d), spend: Math.max(0, 1 - d) }),
    draws: draws.map(bought)
  }
}

/** Share of what could be bought under which its money is said to bind. */
export const BINDS = 0.9995

/** How the plan of each day rises where not every minute counts alike: with the traffic, or over the hours that are open. */
export function curvesOf(
  work: Pick<Planned, 'question' | 'flightDaysLeft' | 'openMinutes' | 'firstDay'>,
  timeline: Timeline,
  played: Replay
): (Float64Array | null)[] | undefined {
  const { pacing } = work.question
  const closed = work.openMinutes.some((minutes) => minutes === 0)
  if (pacing === 'fast' || (pacing === 'even' && !closed)) return undefined
  const weights = pacing === 'traffic' ? overGroups(played.slotSpend, played.slots) : openOfSlots(calendarOf(work, timeline))
  return Array.from({ length: timeline.days }, (_, day) => {
    const curve = new Float64Array(25)
    for (let hour = 0; hour < 24; hour++) curve[hour + 1] = curve[hour] + weights[day * 24 + hour]
    return curve[24] > 0 ? curve.map((sum) => sum / curve[24]) : null
  })
}
