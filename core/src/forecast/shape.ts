import { EXPOSED, ExposureBook, NO_LIMITS, OUTCOME, Pacer, allocate, bookMoney, emptyPurse, type LineAccount } from '../exchange/index.js'
import { PERSON_WORDS, SOURCES, postalOf } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import { eventCharge } from '../pricing/index.js'
import type { MoneyCalendar, MoneyResult } from './money.js'
import { CancelledError } from './question.js'
import { FREQUENCY_BINS, expectedOf, rowPrice, type Expected, type Play } from './replay.js'
import { PASS_MINUTES, type Timeline } from './timeline.js'

/** Who is reached when money binds, in the sample. */
export interface Shape {
  wins: number
  spend: number
  reach: number
  frequency: number[]
  views: number
  visits: number
  conversions: number
}

/** The rows of lines that could win, in order of time: position of the line, of the matched row, and the minute. */
interface Queue {
  line: Uint8Array
  match: Uint32Array
  person: Uint32Array
  minute: Uint16Array
  order: Uint32Array
  count: number
}

function queueOf(plays: readonly Play[], timeline: Timeline, every: number): Queue {
  const { time, repeats, firstMinute, span } = timeline
  let room = 0
  for (const play of plays) room += play.matched.rows.length * repeats
  const queue: Queue = {
    line: new Uint8Array(room),
    match: new Uint32Array(room),
    person: new Uint32Array(room),
    minute: new Uint16Array(room),
    order: new Uint32Array(0),
    count: 0
  }
  plays.forEach((play, l) => {
    const { matched, tape, base, bases } = play
    const { people, starts, rows, need, chain, hour, chance, programme, isEvent } = matched
    const most = bases ? Math.max(...bases) : base
    const plain = chain === null && hour === null && chance === null
    const plainBid = programme.bid(most, 0, 1000, 0, 1e6, false)
    for (let pass = 0; pass < repeats; pass++) {
      for (let p = 0; p < people.length; p++) {
        if (every > 1 && people[p] % every !== 0) continue
        for (let m = starts[p]; m < starts[p + 1]; m++) {
          if (
            need[m] >
            (plain ? plainBid : programme.bid(most, chain ? chain[m] : 0, hour ? hour[m] : 1000, 0, chance ? chance[m] : 0, isEvent))
          )
            continue
          const at = time[tape.rows.minute[rows[m]]]
          if (at < 0) continue
          const minute = at + pass * PASS_MINUTES
          if (minute < firstMinute || minute >= span) continue
          queue.line[queue.count] = l
          queue.match[queue.count] = m
          queue.person[queue.count] = people[p]
          queue.minute[queue.count++] = minute
        }
      }
    }
  })
  queue.order = sortByMinute(queue.minute, queue.count, span)
  return queue
}

/** Counting sort of the first `count` entries; equal minutes keep their order. 28 days of minutes fit 16 bits. */
function sortByMinute(minutes: Uint16Array, count: number, span: number): Uint32Array {
  const at = new Uint32Array(span + 1)
  for (let i = 0; i < count; i++) at[minutes[i] + 1]++
  for (let m = 0; m < span; m++) at[m + 1] += at[m]
  const order = new Uint32Array(count)
  for (let i = 0; i < count; i++) order[at[minutes[i]]++] = i
  return order
}

/** One line of those that run together, with what budgets plan for it. */
export interface ShapedLine {
  play: Play
  money: MoneyResult
  calendar: MoneyCalendar
  before?: ReadonlyMap<number, readonly number[]>
  /** How the plan of each day rises where not every minute counts alike. */
  curves?: readonly (Float64Array | null)[]
}

interface Running {
  placementDailyMicros: number | null
  account: LineAccount
  shape: Shape
  times: Map<number, number>
}

const HOLD_BACK = 30 * 1440

/**
 * Runs the rows that lines could win, in order of time, through the exchange's own allocation step with every limit
 * divided by the sample. The dearest own bid comes first; a line that loses to another of ours gets nothing.
 * @param every only every n-th person of the tape, under limits as much smaller
 */
export function shapesOf(lines: readonly ShapedLine[], timeline: Timeline, cancelled: () => boolean, every = 1): Shape[] {
  const plays = lines.map((line) => line.play)
  const queue = queueOf(plays, timeline, every)
  const exposures = new ExposureBook()
  const { tape } = plays[0]
  const running = lines.map(({ play, before }, l): Running => {
    for (const [person, minutes] of before ?? []) for (const minute of minutes) exposures.add(l + 1, person, minute + HOLD_BACK)
    return {
      shape: { wins: 0, spend: 0, reach: 0, frequency: new Array<number>(FREQUENCY_BINS).fill(0), views: 0, visits: 0, conversions: 0 },
      times: new Map(),
      placementDailyMicros: play.question.limits.placementDailyMicros,
      account: {
        line: l + 1,
        campaign: null,
        pacing: play.question.pacing,
        caps: [...play.question.caps, ...play.question.campaignCaps],
        gapMinutes: play.question.gapMinutes,
        pacer: new Pacer(),
        plan: { limitMicros: 0, openFrom: 0, openTo: 1440 },
        purse: emptyPurse(NO_LIMITS),
        onPlacement: new Map()
      }
    }
  })
  const expected: Expected = { views: 0, visits: 0, conversions: 0 }
  let day = -1
  for (let n = 0; n < queue.count;) {
    // All rows of one opportunity lie side by side only by minute; they are told apart by the tape row.
    const i = queue.order[n]
    const minute = queue.minute[i]
    if ((n & 0xffff) === 0 && cancelled()) throw new CancelledError()
    if (Math.floor(minute / 1440) !== day) {
      day = Math.floor(minute / 1440)
      lines.forEach((line, l) => openDay(line, running[l], day, tape.sample * every))
    }
    let end = n + 1
    while (end < queue.count && queue.minute[queue.order[end]] === minute) end++
    takeMinute(lines, running, queue, n, end, exposures, expected)
    n = end
  }
  for (const { shape, times } of running) {
    shape.reach = times.size
    for (const count of times.values()) shape.frequency[Math.min(count, FREQUENCY_BINS) - 1]++
    for (const rate of ['views', 'visits', 'conversions'] as const) shape[rate] /= 1e6
  }
  return running.map(({ shape }) => shape)
}

function openDay({ money, calendar, curves }: ShapedLine, line: Running, day: number, sample: number): void {
  const { account } = line
  const plan = money.plans[day]
  const [limit, shown] = [plan.micros / sample, plan.impressions / sample]
  account.plan = {
    limitMicros: limit,
    limitShown: shown,
    openFrom: day === 0 ? calendar.firstMinute : 0,
    openTo: 1440,
    curve: curves?.[day] ?? null
  }
  const finite = (value: number | null) => (value === null || !Number.isFinite(value) ? null : value)
  const placement = line.placementDailyMicros
  account.purse = emptyPurse({
    ...NO_LIMITS,
    dailyMicros: finite(limit),
    dailyImpressions: finite(shown),
    placementDailyMicros: placement === null ? null : placement / sample
  })
  account.onPlacement.clear()
  account.pacer.restart()
}

/** Buys what one minute offers; where several lines could have one opportunity, the dearest bid comes first. */
function takeMinute(
  lines: readonly ShapedLine[],
  running: readonly Running[],
  queue: Queue,
  from: number,
  to: number,
  exposures: ExposureBook,
  expected: Expected
): void {
  const single = lines.length === 1
  const groups = single ? null : new Map<number, number[]>()
  if (groups) {
    for (let n = from; n < to; n++) {
      const i = queue.order[n]
      const row = lines[queue.line[i]].play.matched.rows[queue.match[i]]
      const own = groups.get(row)
      if (own) own.push(i)
      else groups.set(row, [i])
    }
  }
  const bidOf = (i: number) => {
    const { matched, base, bases } = lines[queue.line[i]].play
    const m = queue.match[i]
    return matched.programme.bid(
      bases ? bases[Math.floor(queue.minute[i] / 1440)] : base,
      matched.chain ? matched.chain[m] : 0,
      matched.hour ? matched.hour[m] : 1000,
      0,
      matched.chance ? matched.chance[m] : 0,
      matched.isEvent
    )
  }
  if (!groups) {
    for (let n = from; n < to; n++) take(lines, running, queue, queue.order[n], exposures, expected)
    return
  }
  for (const candidates of groups.values()) {
    if (candidates.length > 1) candidates.sort((a, b) => bidOf(b) - bidOf(a) || queue.line[a] - queue.line[b])
    for (const i of candidates) if (take(lines, running, queue, i, exposures, expected)) break
  }
}

function take(
  lines: readonly ShapedLine[],
  running: readonly Running[],
  queue: Queue,
  i: number,
  exposures: ExposureBook,
  expected: Expected
): boolean {
  const l = queue.line[i]
  const { play } = lines[l]
  const line = running[l]
  const { matched, question, tape, base, bases } = play
  const { chain, hour, chance, programme, isEvent, need, rows } = matched
  const m = queue.match[i]
  const minute = queue.minute[i]
  const person = queue.person[i]
  const day = Math.floor(minute / 1440)
  const row = rows[m]
  const seen = (question.price.repeatDiscount ?? 0) > 0 ? exposures.count(l + 1, person, minute + HOLD_BACK, 64) : 0
  const of = bases ? bases[day] : base
  const bid = programme.bid(of, chain ? chain[m] : 0, hour ? hour[m] : 1000, seen, chance ? chance[m] : 0, isEvent)
  if (bid < need[m]) return false
  const clearing = rowPrice(play, row, bid)
  const charge =
    (isEvent && chance
      ? (chance[m] / 1e6) * eventCharge(programme.eventBid(of, chain ? chain[m] : 0, hour ? hour[m] : 1000, seen), clearing, chance[m])
      : clearing) + question.dataMicros
  const placement = Math.floor(tape.rows.path[row] / SOURCES.length)
  if (allocate(line.account, exposures, person, placement, minute + HOLD_BACK, minute % 1440, tape.rows.key[row], charge) !== OUTCOME.won)
    return false
  bookMoney(line.account, placement, charge)
  exposures.add(EXPOSED.line(line.account.line), person, minute + HOLD_BACK)
  line.times.set(person, (line.times.get(person) ?? 0) + 1)
  line.shape.wins++
  line.shape.spend += charge
  expectedOf(play, row, POSTAL_COUNTRY[postalOf(tape.words[person * PERSON_WORDS])], expected)
  line.shape.views += expected.views
  line.shape.visits += expected.visits
  line.shape.conversions += expected.conversions
  return true
}
