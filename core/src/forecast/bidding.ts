import type { Landscape } from '../exchange/index.js'
import type { HourPlan } from '../pricing/index.js'
import { HOURS_PER_WEEK } from '../pricing/index.js'
import { TAPE_DAYS } from '../tape/index.js'
import { aimPlays } from './aim-play.js'
import { followPlay } from './follow-play.js'
import { landscapeOf } from './landscape.js'
import { atLevel, type Level } from './level.js'
import type { MoneyLimits } from './money.js'
import { BINDS, periodMoney, type Planned } from './period.js'
import type { Play } from './play.js'
import { replay } from './replay.js'
import type { Timeline } from './timeline.js'
import { grown, sumOf, type Replay } from './totals.js'

/** How a line bids over two weeks of the tape, without budgets and under them. */
export interface Bidding {
  /** Without budgets; and as it would bid under them, where bids follow the market or an aim. */
  whole: Play
  play: Play
  /** Of `whole` and of `play`. */
  wholeReplays: readonly [Replay, Replay]
  weekReplays: readonly [Replay, Replay]
  /** Whether an aim bids less than it may, since its budgets allow no more. */
  isHeld: boolean
  /** Correction of an aim's bids, in thousandths; null for a line without. */
  correction: number | null
  /** Of a line that follows the market. */
  landscape: Landscape | null
  /** What it could spend a day without any budget. */
  demandMicros: number
  limits: MoneyLimits
  openMinutes: Float64Array
}

/** What a play is bid in: its weeks, days and level. */
export interface BidWeeks extends Pick<Planned, 'flightDaysLeft' | 'firstDay'> {
  weeks: readonly [Timeline, Timeline]
  /** Minutes that the line's clock is before UTC. */
  offset: number
  level: Level | null
}

/** How many are looked at: one person in `every`, and of bids that are sought so many rows. */
export interface Thinning {
  every: number
  mostRows: number
  /** Whether events and totals by group are wanted. */
  full: boolean
}
/** Rows from which bids that are sought look at every n-th person alone. */
export const EVERYBODY: Thinning = { every: 1, mostRows: 16_000, full: true }

/** Open minutes of each hour of the line's week. Hours read where the viewer is leave the line's own clock open throughout. */
function openMinutesOf(hours: HourPlan | null): Float64Array {
  return Float64Array.from({ length: HOURS_PER_WEEK }, (_, hour) =>
    hours && hours.clock === 'line' && hours.perMille[hour] === 0 ? 0 : 60
  )
}

/**
 * Finds the bids of a play's line: one where it bids by itself; those of an aim, and those that follow the market, under what its budgets
 * plan.
 * @param most the play at the most that it may bid
 */
export function biddingOf(most: Play, days: BidWeeks, { every, mostRows, full }: Thinning, cancelled: () => boolean): Bidding {
  const { tape, question, matched } = most
  const { weeks, offset, level, flightDaysLeft, firstDay } = days
  const replays = (play: Play) =>
    weeks.map((week) => atLevel(grown(replay(play, week, { full, every }, cancelled), every), level)) as [Replay, Replay]
  const aimed = question.aim ? aimPlays(most, question.aim, weeks, mostRows, cancelled) : null
  const whole = aimed ? aimed.free : most
  const wholeReplays = replays(whole)
  const landscape = question.follow ? landscapeOf(matched, offset, tape, every) : null
  const openMinutes = openMinutesOf(question.hours)
  // A line's share of its campaign goes by what it was forecast when it went live, or by what it could spend; not by what then comes.
  const demandMicros = (tape.sample * wholeReplays.reduce((sum, { byGroup }) => sum + sumOf(byGroup.spend), 0)) / TAPE_DAYS
  const limits: MoneyLimits = {
    pacing: question.pacing,
    own: question.limits,
    campaign: question.campaignLimits,
    spent: question.spent,
    campaignSpent: question.campaignSpent,
    mates: question.sharers,
    weightMicros: question.weightMicros ?? demandMicros
  }
  const moneyOf = (played: Replay, n: number) =>
    periodMoney({ question, tape, flightDaysLeft, openMinutes, firstDay, limits }, weeks[n], played).money
  const spent = (parts: readonly Replay[]) => parts.reduce((sum, part, n) => sum + moneyOf(part, n).spend, 0)
  const planned = () => wholeReplays.map((played, n) => ({ replay: played, money: moneyOf(played, n) }))
  const followed = landscape && followPlay(whole, { landscape, weeks, mostRows }, planned(), cancelled)
  const [could, allowed] = [demandMicros * TAPE_DAYS, aimed ? spent(wholeReplays) : 0]
  const isHeld = aimed !== null && allowed * tape.sample < BINDS * could
  const play = isHeld ? aimed.under(allowed, spent) : (followed ?? whole)
  return {
    whole,
    play,
    wholeReplays,
    weekReplays: followed || isHeld ? replays(play) : wholeReplays,
    isHeld,
    correction: aimed && aimed.worth > 0 ? Math.round((1000 * (play.worth ?? 0)) / aimed.worth) : null,
    landscape,
    demandMicros,
    limits,
    openMinutes
  }
}
