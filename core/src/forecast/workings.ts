import { SOURCES } from '../market/index.js'
import { placeCountry } from '../places/index.js'
import { SHAPE_FORMAT } from '../taxonomy/index.js'
import { localDayOf, offsetMinutes, startOfLocalDay, zoneIndex } from '../time/index.js'
import { bidAt } from '../pricing/index.js'
import { GROUPS, tapeEnd, type Tape } from '../tape/index.js'
import { valuesOf } from '../targeting/index.js'
import { kernelOf } from './kernel-memory.js'
import { KernelMatched, underPrice } from './kernel-matched.js'
import { atLevel, levelOf } from './level.js'
import { eachLostToOwn } from './lost-to-own.js'
import { paidParts } from './learned-chance.js'
import { matchTape } from './match-tape.js'
import type { Matched } from './matched.js'
import type { ForecastMarket, ForecastQuestion } from './question.js'
import { dailySpread } from './ranges.js'
import { EVERYBODY, biddingOf, type BidWeeks, type Bidding } from './bidding.js'
import { baseAt, baseOf, bidsOf, isOneBase, plainBid, type Play } from './play.js'
import { replay } from './replay.js'
import { overGroups, sumOf, type Replay } from './totals.js'
import { exposuresBefore, type ExposuresBefore } from './exposures-before.js'
import { LONGEST_REPLAY_DAYS, flightTimeline, localMinuteOfWeek, weekTimeline, type Timeline } from './timeline.js'

/** Everything that parts of an answer share: made once for a question. */
export interface Workings extends Bidding, BidWeeks {
  question: ForecastQuestion
  tape: Tape
  market: ForecastMarket
  /** Of a flight the bid may have steps; replayed when it is first asked for. */
  readonly flightPlay: Play
  readonly flightReplay: Replay
  matched: Matched
  zone: number
  start: number
  firstMinute: number
  replayedDays: number
  flight: Timeline
  sd: number
  /** Matched rows that the bid would win but for another line of ours that takes them, for each that it wins before caps. */
  lostToOwn: number
  /** Standing of matched rows at the bid, by group over both weeks: at or over the floor, first, second. */
  standing: { eligible: Float64Array; first: Float64Array; second: Float64Array }
  before: ExposuresBefore
}

const NO_ONE = () => false

function standingOf(play: Play, offset: number): Workings['standing'] {
  const { tape, market, base, question, matched } = play
  const { path, rival, second } = tape.rows
  const { floors } = market.inventory
  const { open, deals } = question.buys
  const kernel = matched instanceof KernelMatched && deals.length === 0 && isOneBase(play) ? kernelOf(tape, market) : null
  if (kernel && matched instanceof KernelMatched) return kernel.standing(matched.kept, plainBid(matched, base))
  const standing = { eligible: new Float64Array(GROUPS), first: new Float64Array(GROUPS), second: new Float64Array(GROUPS) }
  const { people, starts, rows, need } = matched
  const bidOn = bidsOf(matched)
  for (let p = 0; p < people.length; p++) {
    const g = tape.group[people[p]]
    for (let m = starts[p]; m < starts[p + 1]; m++) {
      const i = rows[m]
      const bid = bidOn(m, isOneBase(play) ? base : baseAt(play, m, localMinuteOfWeek(tape, tape.rows.minute[i], offset), 0), 0)
      const deal = deals.length > 0 ? matched.deals[Math.floor(path[i] / SOURCES.length)] : -1
      const floor = deal >= 0 ? Math.min(open ? floors[path[i]] : Infinity, deals[deal].price) : floors[path[i]]
      if (bid >= floor && bid > 0) standing.eligible[g]++
      if (bid >= need[m] && bid > 0) standing.first[g]++
      else if (bid > second[i] && bid <= rival[i]) standing.second[g]++
    }
  }
  return standing
}

/** Rows that other lines of ours take before the bid, for each that is left. */
function lostToOwn(play: Play, left: number): number {
  let lost = 0
  eachLostToOwn(play, () => lost++)
  return lost / Math.max(1, left)
}

/** The most that a line bids on its first day, in base units. What follows the market goes up to the maximum, whatever the bid was. */
export function firstBase(question: ForecastQuestion, firstDay: number, daysLive: number): number {
  const bid = bidAt(question.price, { day: firstDay, daysLive, impressions: question.spent.total.impressions })
  return baseOf(question, question.follow ? (question.price.maxMicros ?? bid) : bid)
}

/** What a kept match depends on: a question that differs in nothing else may use it again. */
export function matchKey(question: ForecastQuestion): string {
  const { targeting, shapes, ads, buys, hours, zone, price, among } = question
  const learned = price.model === 'CPM' ? null : paidParts(question)
  return JSON.stringify([
    targeting,
    shapes,
    ads,
    buys,
    hours,
    hours || learned ? zone : '',
    price.model,
    price.adjustments ?? [],
    learned,
    price.model === 'view' ? question.viewPoint : undefined,
    among
  ])
}

/**
 * Does what all parts of an answer need.
 * @param kept a match of an earlier question with the same `matchKey` on the same tape, its bid, caps or money another
 * @throws RangeError for a question that cannot be compiled; CancelledError when `cancelled` turned true
 */
export function workOut(
  question: ForecastQuestion,
  tape: Tape,
  market: ForecastMarket,
  cancelled: () => boolean = NO_ONE,
  kept?: Matched
): Workings {
  const zone = zoneIndex(question.zone)
  const offset = offsetMinutes(zone, tapeEnd(tape) - 12)
  const start = Math.max(question.startHour, question.nowHour)
  const firstDay = localDayOf(zone, start)
  const firstMinute = (start - startOfLocalDay(zone, firstDay)) * 60
  const flightDaysLeft = question.endHour === null ? null : Math.max(1, localDayOf(zone, question.endHour - 1) - firstDay + 1)
  const replayedDays = Math.min(flightDaysLeft ?? LONGEST_REPLAY_DAYS, LONGEST_REPLAY_DAYS)
  const daysLive = Math.max(0, firstDay - localDayOf(zone, question.startHour))
  const base = firstBase(question, firstDay, daysLive)
  const weeks = [weekTimeline(tape, 0, offset), weekTimeline(tape, 1, offset)] as const
  const matched = reused(kept, question, market) ?? matchTape(question, tape, market, cancelled, { timelines: weeks, full: true, base })
  const most: Play = { tape, market, question, matched, base }
  const lastMinute = question.endHour === null ? undefined : (question.endHour - startOfLocalDay(zone, firstDay)) * 60
  const flight = flightTimeline(tape, firstDay, replayedDays, firstMinute, offset, lastMinute)
  const level = levelOf(most)
  const days = { weeks, offset, level, flightDaysLeft, firstDay }
  const bidding = biddingOf(most, days, EVERYBODY, cancelled)
  const before = exposuresBefore(question, tape, start * 60 - firstMinute)
  let played: ReturnType<typeof stepped> | null = null
  const flights = () => (played ??= stepped(bidding.play, { flight, before, level, firstDay, daysLive }, cancelled))
  const countries = valuesOf(question.targeting, 'where').map(placeCountry)
  const format = SHAPE_FORMAT[question.shapes[0] ?? 0]
  const standing = standingOf(bidding.play, offset)
  return {
    question,
    tape,
    market,
    ...bidding,
    ...days,
    get flightPlay() {
      return flights().flightPlay
    },
    get flightReplay() {
      return flights().flightReplay
    },
    matched,
    zone,
    start,
    firstMinute,
    replayedDays,
    flight,
    before,
    sd: dailySpread(tape, format, countries.some((country) => country === undefined) ? [] : [...new Set(countries as number[])]),
    standing,
    lostToOwn: lostToOwn(bidding.play, sumOf(standing.first))
  }
}

/** A kept match under the price of another question: its adjustments are the same, its maximum and discount may not be. */
function reused(kept: Matched | undefined, question: ForecastQuestion, market: ForecastMarket): Matched | undefined {
  if (!kept) return undefined
  return underPrice(kept, kept.programme.withPrice(question.price, market))
}

/** Replays a flight whose base bid has steps: those by impressions follow the wins of the replay before. */
function stepped(
  play: Play,
  { flight, before, level, firstDay, daysLive }: Pick<Workings, 'flight' | 'before' | 'level' | 'firstDay'> & { daysLive: number },
  cancelled: () => boolean
): { flightPlay: Play; flightReplay: Replay } {
  const { question, tape } = play
  const steps = question.price.steps ?? []
  /** @param shown impressions before each day */
  const run = (shown: readonly number[]) => {
    const bases = shown.map((impressions, day) =>
      baseOf(question, bidAt(question.price, { day: firstDay + day, daysLive: daysLive + day, impressions }))
    )
    const flightPlay = steps.length > 0 ? { ...play, bases } : play
    return { flightPlay, flightReplay: atLevel(replay(flightPlay, flight, { full: true, before }, cancelled), level) }
  }
  let result = run(new Array<number>(flight.days).fill(question.spent.total.impressions))
  for (const step of steps) {
    if (step.after !== 'impressions') continue
    const wins = overGroups(result.flightReplay.slotWins, result.flightReplay.slots)
    const shown: number[] = []
    let sum = question.spent.total.impressions
    for (let day = 0; day < flight.days; day++) {
      shown.push(sum)
      for (let hour = 0; hour < 24; hour++) sum += wins[day * 24 + hour] * tape.sample
    }
    result = run(shown)
  }
  return result
}
