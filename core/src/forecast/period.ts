import { nextMonth } from '../exchange/index.js'
import { GROUPS } from '../tape/index.js'
import type { Workings } from './workings.js'
import { hasLimits, moneyStep, openOfSlots, type MoneyCalendar, type MoneyLimits, type MoneyResult } from './money.js'
import { NOTHING_SPENT } from './question.js'
import { dayTerm, type RangeTerms } from './ranges.js'
import { overGroups, sumOf, type Replay } from './totals.js'
import type { ShapedLine } from './shape.js'
import type { Timeline } from './timeline.js'

/** Calendar of the money step for a period. */
export function calendarOf(work: Workings, timeline: Timeline): MoneyCalendar {
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
export function limitsFor(work: Workings, timeline: Timeline): MoneyLimits {
  if (timeline.kind === 'flight') return work.limits
  const { spent, campaignSpent } = work.limits
  return {
    ...work.limits,
    spent: { ...NOTHING_SPENT, total: spent.total },
    campaignSpent: { ...NOTHING_SPENT, total: campaignSpent.total }
  }
}

/** One replay under its budgets, with ranges of what they bound. */
export interface Period {
  replay: Replay
  money: MoneyResult
  binds: boolean
  /** Wins and spend without each group in turn, and with all traffic grown and shrunk by the day term. */
  without: { wins: number[]; spend: number[] } | null
  up: MoneyResult | null
  down: MoneyResult | null
}

function scaledSlots(slots: Float64Array, count: number, factor: number, leftOut = -1): Float64Array {
  const sums = new Float64Array(count)
  for (let i = 0; i < slots.length; i++) if (Math.floor(i / count) !== leftOut) sums[i % count] += slots[i] * factor
  return sums
}

/** What the budgets of a period plan, and how the plan of each day rises: what a run in the order of time needs. */
export function periodMoney(work: Workings, timeline: Timeline, played: Replay): Pick<ShapedLine, 'money' | 'calendar' | 'curves'> {
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

export function periodOf(work: Workings, timeline: Timeline, played: Replay, terms: RangeTerms): Period {
  const limits = limitsFor(work, timeline)
  const calendar = calendarOf(work, timeline)
  const { sample } = work.tape
  const run = (factor: number, leftOut = -1) =>
    moneyStep(
      scaledSlots(played.slotSpend, played.slots, factor, leftOut),
      scaledSlots(played.slotWins, played.slots, factor, leftOut),
      limits,
      calendar,
      sample
    )
  const money = run(1)
  const all = sumOf(played.byGroup.spend)
  const binds = hasLimits(limits.own, limits.campaign) && (money.spend < all * 0.9995 || money.wins < played.wins * 0.9995)
  if (!binds) return { replay: played, money, binds, without: null, up: null, down: null }
  const parts = Array.from({ length: GROUPS }, (_, g) => run(GROUPS / (GROUPS - 1), g))
  const d = dayTerm(terms)
  return {
    replay: played,
    money,
    binds,
    without: { wins: parts.map((part) => part.wins), spend: parts.map((part) => part.spend) },
    up: run(1 + d),
    down: run(Math.max(0, 1 - d))
  }
}

/** How the plan of each day rises where not every minute counts alike: with the traffic, or over the hours that are open. */
export function curvesOf(work: Workings, timeline: Timeline, played: Replay): (Float64Array | null)[] | undefined {
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
