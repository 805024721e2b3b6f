import {
  EXPOSED,
  ExposureBook,
  NO_LIMITS,
  OUTCOME,
  Pacer,
  allocate,
  bookMoney,
  emptyPurse,
  type Limits,
  type LineAccount
} from '../exchange/index.js'
import { PERSON_WORDS, SOURCES, postalOf } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import type { EventRates } from '../response/index.js'
import { weekdayOf } from '../time/index.js'
import type { MoneyCalendar, MoneyResult } from './money.js'
import { CancelledError, ratesOf } from './question.js'
import type { ExposuresBefore } from './exposures-before.js'
import { baseAt, bidsOf, chargesOf, expectedOf, mostBase, type BidOn, type ChargeFor, type Expected, type Play } from './play.js'
import { FREQUENCY_BINS } from './totals.js'
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
    const { matched, tape } = play
    const { people, starts, rows, need } = matched
    const most = mostBase(play)
    const bidOn = bidsOf(matched)
    const keepsAll = redraws(matched) && matched.ads?.choice.bids === true
    for (let pass = 0; pass < repeats; pass++) {
      for (let p = 0; p < people.length; p++) {
        if (every > 1 && people[p] % every !== 0) continue
        for (let m = starts[p]; m < starts[p + 1]; m++) {
          if (!keepsAll && need[m] > bidOn(m, most, 0)) continue
          const slot = time[tape.rows.minute[rows[m]]]
          if (slot < 0) continue
          const minute = slot + pass * PASS_MINUTES
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
  const starts = new Uint32Array(span + 1)
  for (let i = 0; i < count; i++) starts[minutes[i] + 1]++
  for (let m = 0; m < span; m++) starts[m + 1] += starts[m]
  const order = new Uint32Array(count)
  for (let i = 0; i < count; i++) order[starts[minutes[i]]++] = i
  return order
}

/** Whether which ad is shown depends on what a person saw before. */
const redraws = ({ ads }: Play['matched']) => (ads?.choice.caps.length ?? 0) > 0

/** Caps of a line's account: where ads have their own, the campaign's are kept apart from the line's. */
function capsOf({ question, matched }: Play, line: number): Pick<LineAccount, 'caps' | 'campaignCaps' | 'campaignNumber' | 'hasOwnCaps'> {
  if (!redraws(matched)) return { caps: [...question.caps, ...question.campaignCaps] }
  return { caps: question.caps, campaignCaps: question.campaignCaps, campaignNumber: line, hasOwnCaps: true }
}

/** One line of those that run together, with what budgets plan for it. */
export interface ShapedLine {
  play: Play
  money: MoneyResult
  calendar: MoneyCalendar
  before?: ExposuresBefore
  /** How the plan of each day rises where not every minute counts alike. */
  curves?: readonly (Float64Array | null)[]
}

interface Running {
  /** A day on one placement, and through one source. */
  places: Pick<Limits, 'placementDailyMicros' | 'sourceDailyMicros'>
  account: LineAccount
  shape: Shape
  times: Map<number, number>
  rates: EventRates
  bidOn: BidOn
  chargeFor: ChargeFor
  /** Read once: those of a kernel are made when they are asked for. */
  need: Uint32Array
  rows: Uint32Array
}

const HOLD_BACK = 30 * 1440
/** Ads with caps of their own on one line. */
const MOST_ADS = 1000

/** A row that a line could buy for a person. */
interface Offer {
  match: number
  person: number
  minute: number
  row: number
}

/** What an ad's exposures are kept as, -1 where they need not be; its adjustments where it bids by itself. */
interface DrawnAd {
  ad: number
  chain: number | undefined
}
const PLAIN_AD: DrawnAd = { ad: -1, chain: undefined }

/**
 * Runs the rows that lines could win, in order of time, through the exchange's own allocation step with every limit
 * divided by the sample. The dearest own bid comes first; a line that loses to another of ours gets nothing.
 * @param every only every n-th person of the tape, under limits as much smaller
 */
export function shapesOf(lines: readonly ShapedLine[], timeline: Timeline, cancelled: () => boolean, every = 1): Shape[] {
  const plays = lines.map((line) => line.play)
  const queue = queueOf(plays, timeline, every)
  const run = new SharedRun(lines, queue, timeline.kind === 'week' ? weekdayOf(plays[0].tape.firstDay) : timeline.weekday)
  let day = -1
  for (let n = 0; n < queue.count;) {
    // All rows of one opportunity lie side by side only by minute; they are told apart by the tape row.
    const minute = queue.minute[queue.order[n]]
    if ((n & 0xffff) === 0 && cancelled()) throw new CancelledError()
    if (Math.floor(minute / 1440) !== day) {
      day = Math.floor(minute / 1440)
      run.openDay(day, plays[0].tape.sample * every)
    }
    let end = n + 1
    while (end < queue.count && queue.minute[queue.order[end]] === minute) end++
    run.takeMinute(n, end)
    n = end
  }
  return run.result()
}

function startLine({ play }: ShapedLine, line: number): Running {
  const { question, matched } = play
  return {
    bidOn: bidsOf(matched),
    chargeFor: chargesOf(play),
    need: matched.need,
    rows: matched.rows,
    shape: { wins: 0, spend: 0, reach: 0, frequency: new Array<number>(FREQUENCY_BINS).fill(0), views: 0, visits: 0, conversions: 0 },
    times: new Map(),
    rates: ratesOf(question),
    places: question.limits,
    account: {
      line,
      campaign: null,
      pacing: question.pacing,
      ...capsOf(play, line),
      gapMinutes: question.gapMinutes,
      pacer: new Pacer(),
      plan: { limitMicros: 0, openFrom: 0, openTo: 1440 },
      purse: emptyPurse(NO_LIMITS),
      onPlacement: new Map()
    }
  }
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
  const { placementDailyMicros, sourceDailyMicros } = line.places
  account.purse = emptyPurse({
    ...NO_LIMITS,
    dailyMicros: finite(limit),
    dailyImpressions: finite(shown),
    placementDailyMicros: placementDailyMicros === null ? null : placementDailyMicros / sample,
    sourceDailyMicros: sourceDailyMicros == null ? null : sourceDailyMicros / sample
  })
  account.onPlacement.clear()
  account.pacer.restart()
}

/** Lines that run together over one queue of rows. */
class SharedRun {
  private readonly exposures = new ExposureBook()
  private readonly running: Running[]
  private readonly expected: Expected = { views: 0, visits: 0, conversions: 0 }

  constructor(
    private readonly lines: readonly ShapedLine[],
    private readonly queue: Queue,
    private readonly weekday: number
  ) {
    this.running = lines.map((line, l) => {
      for (const [person, minutes] of line.before ?? [])
        for (const minute of minutes) this.remember(line.play, l + 1, person, minute + HOLD_BACK)
      return startLine(line, l + 1)
    })
  }

  /** What a person saw of a line before counts as of ads without caps of their own. */
  private remember({ matched }: Play, line: number, person: number, minute: number): void {
    this.exposures.add(EXPOSED.line(line), person, minute)
    if (!redraws(matched)) return
    this.exposures.add(EXPOSED.lineCapped(line), person, minute)
    this.exposures.add(EXPOSED.campaign(line), person, minute)
  }

  openDay(day: number, sample: number): void {
    this.lines.forEach((line, l) => openDay(line, this.running[l], day, sample))
  }

  /** Buys what one minute offers; where several lines could have one opportunity, the dearest bid comes first. */
  takeMinute(from: number, to: number): void {
    const { lines, queue, running, weekday } = this
    if (lines.length === 1) {
      for (let n = from; n < to; n++) this.take(queue.order[n])
      return
    }
    const byRow = new Map<number, number[]>()
    for (let n = from; n < to; n++) {
      const i = queue.order[n]
      const row = running[queue.line[i]].rows[queue.match[i]]
      const own = byRow.get(row)
      if (own) own.push(i)
      else byRow.set(row, [i])
    }
    const bidOf = (i: number) => {
      const { play } = lines[queue.line[i]]
      return running[queue.line[i]].bidOn(queue.match[i], baseAt(play, queue.match[i], queue.minute[i], weekday), 0)
    }
    for (const candidates of byRow.values()) {
      if (candidates.length > 1) candidates.sort((a, b) => bidOf(b) - bidOf(a) || queue.line[a] - queue.line[b])
      for (const i of candidates) if (this.take(i)) break
    }
  }

  /** Lets a line try one row; returns whether it won. */
  private take(i: number): boolean {
    const { exposures, queue, expected } = this
    const { play } = this.lines[queue.line[i]]
    const line = this.running[queue.line[i]]
    const { question, tape } = play
    const match = queue.match[i]
    const minute = queue.minute[i]
    const person = queue.person[i]
    const row = line.rows[match]
    const seen = (question.price.repeatDiscount ?? 0) > 0 ? exposures.count(line.account.line, person, minute + HOLD_BACK, 64) : 0
    const base = baseAt(play, match, minute, this.weekday)
    const drawn = redraws(play.matched) ? this.drawnAd(line, play, { match, person, minute: minute + HOLD_BACK, row }) : PLAIN_AD
    if (drawn === null) return false
    const bid = line.bidOn(match, base, seen, drawn.chain)
    if (bid < line.need[match]) return false
    const charge = line.chargeFor(match, bid, base, seen, drawn.chain) + question.dataMicros
    const path = tape.rows.path[row]
    const where = { placement: Math.floor(path / SOURCES.length), source: path % SOURCES.length }
    const outcome = allocate(line.account, exposures, {
      person,
      ...where,
      minute: minute + HOLD_BACK,
      minuteOfDay: minute % 1440,
      key: tape.rows.key[row],
      priceMicros: charge
    })
    if (outcome !== OUTCOME.won) return false
    bookMoney(line.account, where, charge)
    exposures.add(EXPOSED.line(line.account.line), person, minute + HOLD_BACK)
    if (drawn.ad >= 0) exposures.add(drawn.ad, person, minute + HOLD_BACK)
    if (line.account.campaignCaps?.length) exposures.add(EXPOSED.campaign(line.account.line), person, minute + HOLD_BACK)
    line.times.set(person, (line.times.get(person) ?? 0) + 1)
    line.shape.wins++
    line.shape.spend += charge
    expectedOf(play, line.rates, row, POSTAL_COUNTRY[postalOf(tape.words[person * PERSON_WORDS])], expected)
    line.shape.views += expected.views
    line.shape.visits += expected.visits
    line.shape.conversions += expected.conversions
    return true
  }

  /** One of the ads that fit a row and are free for its person, as the exchange draws it; null for none. */
  private drawnAd({ account }: Running, { matched, tape }: Play, { match, person, minute, row }: Offer): DrawnAd | null {
    const { exposures } = this
    const { ads, programme } = matched
    if (!ads) return PLAIN_AD
    const { choice, set, chain } = ads
    const [ofLine, ofAd] = [EXPOSED.lineCapped(account.line), (n: number) => EXPOSED.ad(account.line * MOST_ADS + n)]
    const isLineFree = !exposures.capped(ofLine, person, minute, account.caps)
    const place = choice.drawnAmong(set[match], tape.rows.key[row], ({ capped }) =>
      capped < 0 ? isLineFree : !exposures.capped(ofAd(capped), person, minute, choice.caps[capped])
    )
    if (place < 0) return null
    const { base, capped } = choice.sets[set[match]].classes[place]
    const before = chain?.[match] ?? 0
    return { ad: capped < 0 ? ofLine : ofAd(capped), chain: base < 0 ? before : programme.withOwn(before, base) }
  }

  result(): Shape[] {
    return this.running.map(({ shape, times }) => {
      for (const count of times.values()) shape.frequency[Math.min(count, FREQUENCY_BINS) - 1]++
      return { ...shape, reach: times.size, views: shape.views / 1e6, visits: shape.visits / 1e6, conversions: shape.conversions / 1e6 }
    })
  }
}
