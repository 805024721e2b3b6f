import type { Cap } from '../exchange/index.js'
import { effectiveBid, type LinePrice } from '../pricing/index.js'
import type { Inventory } from '../market/index.js'
import { TAPE_DAYS, tapeEnd, type Tape } from '../tape/index.js'
import { compileTargeting, type Targeting } from '../targeting/index.js'
import { localDayOf, offsetMinutes, startOfLocalDay, zoneIndex } from '../time/index.js'
import { moneyStep, type MoneyLimits } from './money.js'
import { replay, type Replay } from './replay.js'
import { scanTape, type Scan } from './scan.js'
import { shapeOf } from './shape.js'
import { LONGEST_REPLAY_DAYS, flightTimeline, weekTimeline, type Timeline } from './timeline.js'

/** A question to the forecast: one line, saved or not. Money in micros, hours are market hours (UTC). */
export interface ForecastQuestion {
  targeting: Targeting
  price: LinePrice
  caps: Cap[]
  money: Omit<MoneyLimits, 'campaignShare'>
  /** What the campaign's other lines in force could spend a day: they share its day in proportion. */
  matesDemandMicros: number
  zone: string
  startHour: number
  endHour: number | null
  /** The market clock. */
  nowHour: number
}

/** Main figures of a period, of the whole market. */
export interface Figures {
  matched: number
  wins: number
  spendMicros: number
  /** Micros a thousand, without data cost; 0 without wins. */
  cpmMicros: number
  reach: number
  /** Exposures a person; 0 without reach. */
  frequency: number
}

export interface Forecast {
  /** Rows over floor and rival, before caps and budget, of matched. */
  winRate: number
  /** Shares of matched rows: best bid, second, lower. */
  ranks: { first: number; second: number; lower: number }
  eligibleShare: number
  day: Figures
  flight: Figures & {
    days: number
    /** Days that were replayed; the rest goes on like the last seven, and reach is then not extrapolated. */
    replayedDays: number
    open: boolean
    people: number[]
  }
  /** Spend a day without any budget, the weight by which lines share their campaign's money. */
  demandMicros: number
  /** Whether money, not the market, decides how much is bought. */
  budgetBinds: boolean
  /** Tape rows that could be won; under 30 the figures are too few to say much. */
  tapeWins: number
  tape: { firstDay: number; days: number }
}

const NO_ONE = () => false

interface Part {
  spend: number
  wins: number
  reach: number
  frequency: number[]
  binds: boolean
  daySpend: number[]
}

/** Days of the flight still to come from a local day on; null when it has no end. */
function flightDays(zone: number, firstDay: number, endHour: number | null): number | null {
  return endHour === null ? null : Math.max(1, localDayOf(zone, endHour - 1) - firstDay + 1)
}

/**
 * Answers a question from the tape.
 * @throws RangeError for a question that cannot be compiled; CancelledError when `cancelled` turned true
 */
export function forecast(question: ForecastQuestion, tape: Tape, inventory: Inventory, cancelled: () => boolean = NO_ONE): Forecast {
  const compiled = compileTargeting(question.targeting, inventory)
  const bid = effectiveBid(question.price)
  const scan = scanTape(tape, compiled, bid, cancelled)
  const zone = zoneIndex(question.zone)
  const offset = offsetMinutes(zone, tapeEnd(tape) - 12)
  const start = Math.max(question.startHour, question.nowHour)
  const firstDay = localDayOf(zone, start)
  const firstMinute = (start - startOfLocalDay(zone, firstDay)) * 60
  const left = flightDays(zone, firstDay, question.endHour)
  const replayedDays = Math.min(left ?? LONGEST_REPLAY_DAYS, LONGEST_REPLAY_DAYS)
  const play = (timeline: Timeline) => replay(scan, tape, bid, question.caps, timeline, cancelled)
  const timelines = ([0, 1] as const).map((week) => weekTimeline(tape, week, offset))
  const replays = timelines.map(play)
  const demand = (tape.sample * (replays[0].spendMicros + replays[1].spendMicros)) / TAPE_DAYS
  const mates = question.matesDemandMicros
  const money = { ...question.money, campaignShare: demand + mates > 0 ? demand / (demand + mates) : 1 }
  const part = (timeline: Timeline, played: Replay) => spendPart(scan, tape, bid, question.caps, money, timeline, played, left, cancelled)
  const weeks = timelines.map((timeline, week) => part(timeline, replays[week]))
  const whole = flightTimeline(tape, firstDay, replayedDays, firstMinute, offset)
  const flight = part(whole, play(whole))
  return {
    winRate: scan.matched > 0 ? scan.first / scan.matched : 0,
    ranks: ranksOf(scan),
    eligibleShare: scan.matched > 0 ? scan.eligible / scan.matched : 0,
    day: dayFigures(scan, weeks, tape.sample),
    flight: flightFigures(scan, flight, tape.sample, replayedDays, left, firstMinute),
    demandMicros: Math.round(demand),
    budgetBinds: flight.binds || weeks.some((week) => week.binds),
    tapeWins: scan.first,
    tape: { firstDay: tape.firstDay, days: TAPE_DAYS }
  }
}

function ranksOf({ matched, first, second }: Scan): Forecast['ranks'] {
  if (matched === 0) return { first: 0, second: 0, lower: 0 }
  return { first: first / matched, second: second / matched, lower: (matched - first - second) / matched }
}

/** What money leaves of a replay; who is reached comes from the allocation step where money binds. */
function spendPart(
  scan: Scan, tape: Tape, bid: number, caps: readonly Cap[], limits: MoneyLimits, timeline: Timeline, played: Replay, daysLeft: number | null, cancelled: () => boolean
): Part {
  const calendar = { days: timeline.days, firstMinute: timeline.firstMinute, flightDays: daysLeft === null ? null : Math.max(daysLeft, timeline.days) }
  const money = moneyStep(played.slotSpend, played.slotWins, limits, calendar, tape.sample)
  const { daySpend } = money
  if (money.spend >= played.spendMicros * 0.9995) {
    return { spend: played.spendMicros, wins: played.wins, reach: played.reach, frequency: played.frequency, binds: false, daySpend }
  }
  const shape = shapeOf(scan, tape, bid, caps, limits, money.plans, timeline, cancelled)
  const scale = shape.wins > 0 ? money.wins / shape.wins : 0
  return {
    spend: money.spend, wins: money.wins, binds: true, daySpend,
    reach: Math.min(shape.reach * scale, played.reach, money.wins), frequency: shape.frequency.map((people) => people * scale)
  }
}

function figures(matched: number, wins: number, spend: number, reach: number, sample: number): Figures {
  return {
    matched: matched * sample, wins: wins * sample, spendMicros: spend * sample,
    cpmMicros: wins > 0 ? (spend / wins) * 1000 : 0, reach: reach * sample, frequency: reach > 0 ? wins / reach : 0
  }
}

/** A day is a seventh of the mean of the two weeks; its people are those of seven days. */
function dayFigures(scan: Scan, weeks: readonly Part[], sample: number): Figures {
  const mean = (pick: (week: Part) => number) => (pick(weeks[0]) + pick(weeks[1])) / 2
  const week = figures(scan.matched / 2, mean((w) => w.wins), mean((w) => w.spend), mean((w) => w.reach), sample)
  return { ...week, matched: week.matched / 7, wins: week.wins / 7, spendMicros: week.spendMicros / 7 }
}

function flightFigures(scan: Scan, flight: Part, sample: number, replayedDays: number, left: number | null, firstMinute: number): Forecast['flight'] {
  const matchedADay = scan.matched / TAPE_DAYS
  const base = figures(matchedADay * (replayedDays - firstMinute / 1440), flight.wins, flight.spend, flight.reach, sample)
  const more = left === null ? 0 : left - replayedDays
  if (more > 0) {
    const lastSeven = flight.daySpend.slice(-7).reduce((sum, spend) => sum + spend, 0)
    const winsADay = flight.spend > 0 ? (flight.wins * lastSeven) / flight.spend / 7 : 0
    base.matched += matchedADay * more * sample
    base.wins += winsADay * more * sample
    base.spendMicros += (lastSeven / 7) * more * sample
  }
  return { ...base, days: left ?? replayedDays, replayedDays, open: left === null, people: flight.frequency.map((people) => people * sample) }
}
