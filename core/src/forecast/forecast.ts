import { placeCountry } from '../places/index.js'
import { SHAPE_FORMAT } from '../taxonomy/index.js'
import { dateOfDay, dayOfDate, localDayOf, offsetMinutes, startOfLocalDay, zoneIndex } from '../time/index.js'
import { HOURS_PER_WEEK, bidAt } from '../pricing/index.js'
import { GROUPS, TAPE_DAYS, tapeEnd, type Tape } from '../tape/index.js'
import { valuesOf } from '../targeting/index.js'
import { kernelOf } from './kernel-memory.js'
import { KernelMatched, matchTape, underPrice, type Matched } from './matched.js'
import { hasLimits, moneyStep, openOfSlots, type MoneyCalendar, type MoneyLimits, type MoneyResult } from './money.js'
import { NOTHING_SPENT, type ForecastMarket, type ForecastQuestion } from './question.js'
import { LEAST_WINS, budgetRange, countRange, dailySpread, dayTerm, exactly, jackknife, moneyRange, noiseOf, ratioRange, smallRange, type RangeTerms, type Ranged } from './ranges.js'
import { FREQUENCY_BINS, baseOf, exposuresBefore, overGroups, replay, sumOf, type Measure, type Play, type Replay } from './replay.js'
import { shapesOf, type ShapedLine } from './shape.js'
import { LONGEST_REPLAY_DAYS, flightTimeline, weekTimeline, type Timeline } from './timeline.js'

/** Main figures of a period, of the whole market, each with its range. Money in micros. */
export interface Figures {
  matched: Ranged
  /** Matched with a bid at or over the floor. */
  eligible: Ranged
  wins: Ranged
  spend: Ranged
  /** Rows over floor and rival, before caps and budget, of matched. */
  winRate: Ranged
  /** Wins of matched. */
  winShare: Ranged
  /** Price paid without the cost of data, micros a thousand. */
  cpm: Ranged
  reach: Ranged
  /** Exposures a person. */
  frequency: Ranged
  views: Ranged
  visits: Ranged
  conversions: Ranged
  /** Worth of the conversions; null when nobody said what one is worth. */
  value: Ranged | null
  /** People by number of exposures: entry n - 1 for n, the last for that many or more. */
  people: number[]
}

export interface MainFigures {
  /** The mean day of seven; its reach, frequency and people are those of seven days. */
  day: Figures
  flight: Figures & {
    days: number
    /** Days that were replayed; the rest goes on like the last seven, and reach is then not extrapolated. */
    replayedDays: number
    open: boolean
    /** Local market day of the first day that is replayed. */
    firstDay: number
  }
  /** Shares of matched rows: best bid, second, lower. */
  ranks: { first: Ranged; second: Ranged; lower: Ranged }
  /** Spend a day without any budget, the weight by which lines share their campaign's money. */
  demandMicros: number
  /** Whether money, not the market, decides how much is bought. */
  budgetBinds: boolean
  /** Tape rows won in both weeks; under 30 the ranges are read from a gamma distribution. */
  tapeWins: number
  tooFew: boolean
  /** Rows whose price is their own, in the market a day. */
  ownPricedADay: number
  tape: { firstDay: number; days: number }
}

/** Everything that parts of an answer share: made once for a question. */
export interface Workings {
  question: ForecastQuestion
  tape: Tape
  market: ForecastMarket
  play: Play
  matched: Matched
  zone: number
  offset: number
  start: number
  firstDay: number
  firstMinute: number
  flightDaysLeft: number | null
  replayedDays: number
  weeks: readonly [Timeline, Timeline]
  flight: Timeline
  openMinutes: Float64Array
  weekReplays: readonly [Replay, Replay]
  flightReplay: Replay
  limits: MoneyLimits
  sd: number
  /** Standing of matched rows at the bid, by group over both weeks: at or over the floor, first, second. */
  standing: { eligible: Float64Array; first: Float64Array; second: Float64Array }
  before: ReadonlyMap<number, readonly number[]>
  demandMicros: number
}

const NO_ONE = () => false

/** Open minutes of each hour of the line's week. Hours read where the viewer is leave the line's own clock open throughout. */
export function openMinutesOf({ hours }: Pick<ForecastQuestion, 'hours'>): Float64Array {
  return Float64Array.from({ length: HOURS_PER_WEEK }, (_, hour) => (hours && hours.clock === 'line' && hours.perMille[hour] === 0 ? 0 : 60))
}

function standingOf(matched: Matched, play: Play): Workings['standing'] {
  const { tape, market, base, question } = play
  const { chain, hour, chance, programme, isEvent } = matched
  const standing = { eligible: new Float64Array(GROUPS), first: new Float64Array(GROUPS), second: new Float64Array(GROUPS) }
  const plain = chain === null && hour === null && chance === null
  const plainBid = programme.bid(base, 0, 1000, 0, 1e6, false)
  const { path, rival, second } = tape.rows
  const { floors } = market.inventory
  const hasDeals = question.buys.deals.length > 0
  const kernel = matched instanceof KernelMatched && !hasDeals ? kernelOf(tape, market) : null
  if (kernel && matched instanceof KernelMatched) return kernel.standing(matched.kept, plainBid)
  const { people, starts, rows, need } = matched
  for (let p = 0; p < people.length; p++) {
    const g = tape.group[people[p]]
    for (let m = starts[p]; m < starts[p + 1]; m++) {
      const i = rows[m]
      const bid = plain ? plainBid : programme.bid(base, chain ? chain[m] : 0, hour ? hour[m] : 1000, 0, chance ? chance[m] : 0, isEvent)
      const deal = hasDeals ? matched.deals[Math.floor(path[i] / 6)] : -1
      const floor = deal >= 0 ? Math.min(question.buys.open ? floors[path[i]] : Infinity, question.buys.deals[deal].price) : floors[path[i]]
      if (bid >= floor && bid > 0) standing.eligible[g]++
      if (bid >= need[m] && bid > 0) standing.first[g]++
      else if (bid > second[i] && bid <= rival[i]) standing.second[g]++
    }
  }
  return standing
}

/** Days from a local day to the end of its calendar month, itself included. */
function daysLeftInMonth(day: number): number {
  const [year, month] = dateOfDay(day).split('-').map(Number)
  const next = month === 12 ? `${year + 1}-01-01` : `${year}-${String(month + 1).padStart(2, '0')}-01`
  return dayOfDate(next) - day
}

/** What a kept match depends on: a question that differs in nothing else may use it again. */
export function matchKey(question: ForecastQuestion): string {
  const { targeting, shapes, buys, hours, zone, price } = question
  return JSON.stringify([targeting, shapes, buys, hours, hours ? zone : '', price.model, price.adjustments ?? []])
}

/**
 * Does what all parts of an answer need.
 * @param kept a match of an earlier question with the same `matchKey` on the same tape, its bid, caps or money another
 * @throws RangeError for a question that cannot be compiled; CancelledError when `cancelled` turned true
 */
export function workOut(question: ForecastQuestion, tape: Tape, market: ForecastMarket, cancelled: () => boolean = NO_ONE, kept?: Matched): Workings {
  const zone = zoneIndex(question.zone)
  const offset = offsetMinutes(zone, tapeEnd(tape) - 12)
  const start = Math.max(question.startHour, question.nowHour)
  const firstDay = localDayOf(zone, start)
  const firstMinute = (start - startOfLocalDay(zone, firstDay)) * 60
  const flightDaysLeft = question.endHour === null ? null : Math.max(1, localDayOf(zone, question.endHour - 1) - firstDay + 1)
  const replayedDays = Math.min(flightDaysLeft ?? LONGEST_REPLAY_DAYS, LONGEST_REPLAY_DAYS)
  const daysLive = Math.max(0, firstDay - localDayOf(zone, question.startHour))
  const bid = bidAt(question.price, { day: firstDay, daysLive, impressions: question.spent.total.impressions })
  const weeks = [weekTimeline(tape, 0, offset), weekTimeline(tape, 1, offset)] as const
  const matched = reused(kept, question, market) ?? matchTape(question, tape, market, cancelled, { timelines: weeks, full: true, base: baseOf(question, bid) })
  const play: Play = { tape, market, question, matched, base: baseOf(question, bid) }
  const lastMinute = question.endHour === null ? undefined : (question.endHour - startOfLocalDay(zone, firstDay)) * 60
  const flight = flightTimeline(tape, firstDay, replayedDays, firstMinute, offset, lastMinute)
  const weekReplays = [replay(play, weeks[0], { full: true }, cancelled), replay(play, weeks[1], { full: true }, cancelled)] as const
  const before = exposuresBefore(question, tape, start * 60 - firstMinute)
  const flightReplay = stepped(play, flight, before, firstDay, daysLive, cancelled)
  const demandMicros = (tape.sample * (sumOf(weekReplays[0].byGroup.spend) + sumOf(weekReplays[1].byGroup.spend))) / TAPE_DAYS
  const mates = question.matesDemandMicros
  const countries = valuesOf(question.targeting, 'where').map(placeCountry)
  const format = SHAPE_FORMAT[question.shapes[0] ?? 0]
  return {
    question, tape, market, play, matched, zone, offset, start, firstDay, firstMinute, flightDaysLeft, replayedDays, weeks, flight, openMinutes: openMinutesOf(question),
    weekReplays, flightReplay, before, demandMicros,
    limits: {
      pacing: question.pacing, own: question.limits, campaign: question.campaignLimits, spent: question.spent, campaignSpent: question.campaignSpent,
      campaignShare: demandMicros + mates > 0 ? demandMicros / (demandMicros + mates) : 1
    },
    sd: dailySpread(tape, format, countries.some((country) => country === undefined) ? [] : [...new Set(countries as number[])]),
    standing: standingOf(matched, play)
  }
}

/** A kept match under the price of another question: its adjustments are the same, its maximum and discount may not be. */
function reused(kept: Matched | undefined, question: ForecastQuestion, market: ForecastMarket): Matched | undefined {
  if (!kept) return undefined
  return underPrice(kept, kept.programme.withPrice(question.price, market))
}

/** Replays a flight whose base bid has steps: those by impressions follow the wins of the replay before. */
function stepped(play: Play, flight: Timeline, before: ReadonlyMap<number, readonly number[]>, firstDay: number, daysLive: number, cancelled: () => boolean): Replay {
  const { question, tape } = play
  const steps = question.price.steps ?? []
  const run = () => replay(play, flight, { full: true, before }, cancelled)
  if (steps.length === 0) return run()
  let shown = new Array<number>(flight.days).fill(question.spent.total.impressions)
  const basesOf = () => shown.map((impressions, day) => baseOf(question, bidAt(question.price, { day: firstDay + day, daysLive: daysLive + day, impressions })))
  play.bases = basesOf()
  let result = run()
  for (const step of steps) {
    if (step.after !== 'impressions') continue
    const wins = overGroups(result.slotWins, result.slots)
    let sum = question.spent.total.impressions
    shown = shown.map((_, day) => {
      const at = sum
      for (let hour = 0; hour < 24; hour++) sum += wins[day * 24 + hour] * tape.sample
      return at
    })
    play.bases = basesOf()
    result = run()
  }
  return result
}

/** Calendar of the money step for a period. */
export function calendarOf(work: Workings, timeline: Timeline): MoneyCalendar {
  const { flightDaysLeft, openMinutes, firstDay } = work
  const week = timeline.kind === 'week'
  return {
    days: timeline.days, firstMinute: timeline.firstMinute, span: timeline.span, weekday: timeline.weekday, openMinutes,
    daysLeftInMonth: week ? 31 : daysLeftInMonth(firstDay), flightDays: flightDaysLeft === null ? null : Math.max(flightDaysLeft, timeline.days)
  }
}

/** Limits for a period: a week as it stands begins with nothing spent in its periods, but with what is left of totals. */
export function limitsFor(work: Workings, timeline: Timeline): MoneyLimits {
  if (timeline.kind === 'flight') return work.limits
  const { spent, campaignSpent } = work.limits
  return { ...work.limits, spent: { ...NOTHING_SPENT, total: spent.total }, campaignSpent: { ...NOTHING_SPENT, total: campaignSpent.total } }
}

/** One replay under its budgets, with ranges of what they bound. */
interface Period {
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
  return { money: moneyStep(overGroups(played.slotSpend, played.slots), overGroups(played.slotWins, played.slots), limitsFor(work, timeline), calendar, work.tape.sample), calendar, curves: curvesOf(work, timeline, played) }
}

function periodOf(work: Workings, timeline: Timeline, played: Replay, terms: RangeTerms): Period {
  const limits = limitsFor(work, timeline)
  const calendar = calendarOf(work, timeline)
  const { sample } = work.tape
  const run = (factor: number, leftOut = -1) => moneyStep(scaledSlots(played.slotSpend, played.slots, factor, leftOut), scaledSlots(played.slotWins, played.slots, factor, leftOut), limits, calendar, sample)
  const money = run(1)
  const all = sumOf(played.byGroup.spend)
  const binds = hasLimits(limits.own, limits.campaign) && (money.spend < all * 0.9995 || money.wins < played.wins * 0.9995)
  if (!binds) return { replay: played, money, binds, without: null, up: null, down: null }
  const parts = Array.from({ length: GROUPS }, (_, g) => run(GROUPS / (GROUPS - 1), g))
  const d = dayTerm(terms)
  return { replay: played, money, binds, without: { wins: parts.map((part) => part.wins), spend: parts.map((part) => part.spend) }, up: run(1 + d), down: run(Math.max(0, 1 - d)) }
}

/** How the plan of each day rises where not every minute counts alike: with the traffic, or over the hours that are open. */
function curvesOf(work: Workings, timeline: Timeline, played: Replay): (Float64Array | null)[] | undefined {
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

/** Sums two weeks' groups; a period of one replay has one. */
function meanGroups(parts: readonly Replay[], measure: Measure): Float64Array {
  return Float64Array.from({ length: GROUPS }, (_, g) => parts.reduce((sum, part) => sum + part.byGroup[measure][g], 0) / parts.length)
}

/** d ln reach / d ln wins at the bid, and d ln wins / d ln bid, from a replay of one week at a bid a sixth lower. */
function elasticities(work: Workings, cancelled: () => boolean): { reach: number; wins: number } {
  const [week] = work.weekReplays
  if (week.wins < LEAST_WINS) return { reach: 1, wins: 1 }
  const lower = replay({ ...work.play, base: Math.floor(work.play.base / 1.2) }, work.weeks[0], { full: false }, cancelled)
  if (lower.wins === 0 || lower.reach === 0 || lower.wins >= week.wins) return { reach: 1, wins: 0 }
  const wins = Math.log(week.wins / lower.wins)
  return { reach: Math.min(1, Math.max(0, Math.log(week.reach / lower.reach) / wins)), wins: Math.min(3, wins / Math.log(1.2)) }
}

const scaled = (figure: Ranged, by: number): Ranged => ({ value: figure.value * by, low: figure.low * by, high: figure.high * by })
const inside = (figure: Ranged, most: number): Ranged => ({ value: Math.min(figure.value, most), low: Math.min(figure.low, most), high: Math.min(figure.high, most) })

/** Figures of a period from its replays: one for a flight, two weeks for seven days. */
function figuresOf(work: Workings, periods: readonly Period[], timelines: readonly Timeline[], terms: RangeTerms, matchedDays: number, elasticity: number, cancelled: () => boolean): Figures {
  const { tape, standing, matched, question } = work
  const { sample } = tape
  const parts = periods.map((period) => period.replay)
  const totals = (measure: Measure) => meanGroups(parts, measure)
  const mean = (pick: (period: Period) => number) => periods.reduce((sum, period) => sum + pick(period), 0) / periods.length
  const wins = totals('wins')
  const reach = totals('reach')
  const tapeWins = work.weekReplays[0].wins + work.weekReplays[1].wins
  const ofMatched = Float64Array.from({ length: GROUPS }, (_, g) => ((matched.byGroup[g] + matched.byGroup[GROUPS + g]) * matchedDays) / TAPE_DAYS)
  const bothMatched = Float64Array.from({ length: GROUPS }, (_, g) => matched.byGroup[g] + matched.byGroup[GROUPS + g])
  const ofEligible = standing.eligible.map((rows) => (rows * matchedDays) / TAPE_DAYS)
  const free = {
    wins: countRange(wins, terms), spend: moneyRange(totals('spend'), mean(({ replay: part }) => part.squares), terms), reach: countRange(reach, terms, elasticity),
    views: countRange(totals('views'), terms), visits: countRange(totals('visits'), terms), conversions: countRange(totals('conversions'), terms)
  }
  // What is drawn at each win or visit adds its own noise to what is expected.
  for (const rate of ['views', 'visits', 'conversions'] as const) free[rate] = countRange(totals(rate), terms, 1, noiseOf(free[rate].value) + free[rate].value)
  const scale = (sample * terms.horizon) / TAPE_DAYS
  if (tapeWins < LEAST_WINS) {
    free.wins = smallRange(free.wins.value, tapeWins, scale)
    free.reach = inside(smallRange(free.reach.value, tapeWins, scale), free.wins.high)
  }
  let bounded = free
  let people = Array.from({ length: FREQUENCY_BINS }, (_, n) => parts.reduce((sum, part) => sum + part.frequency[n], 0) / parts.length)
  if (periods.some((period) => period.binds)) {
    const shapes = periods.map((period, n) => (period.binds
      ? shapesOf([{ play: work.play, money: period.money, calendar: calendarOf(work, timelines[n]), curves: curvesOf(work, timelines[n], period.replay), before: timelines[n].kind === 'flight' ? work.before : undefined }], timelines[n], cancelled)[0]
      : { ...period.replay, wins: period.replay.wins, spend: 0, reach: period.replay.reach, frequency: period.replay.frequency, views: sumOf(period.replay.byGroup.views), visits: sumOf(period.replay.byGroup.visits), conversions: sumOf(period.replay.byGroup.conversions) }))
    const factor = periods.map((period, n) => (shapes[n].wins > 0 ? (period.binds ? period.money.wins : period.replay.wins) / shapes[n].wins : 0))
    const shaped = (pick: (shape: (typeof shapes)[0]) => number) => (shapes.reduce((sum, shape, n) => sum + pick(shape) * factor[n], 0) / shapes.length) * sample
    const bound = (what: 'wins' | 'spend', noise: number) => {
      const value = mean((period) => (period.binds ? period.money[what] : what === 'wins' ? period.replay.wins : sumOf(period.replay.byGroup.spend))) * sample
      const jack = Array.from({ length: GROUPS }, (_, g) => mean((period) => period.without?.[what][g] ?? period.money[what]) * sample)
      const loose = Array.from({ length: GROUPS }, (_, g) => (mean((period) => (what === 'wins' ? period.replay.wins - period.replay.byGroup.wins[g] : sumOf(period.replay.byGroup.spend) - period.replay.byGroup.spend[g])) * sample * GROUPS) / (GROUPS - 1))
      const looseVariance = jackknife(loose)
      return budgetRange(value, jack, mean((period) => (period.up ?? period.money)[what]) * sample, mean((period) => (period.down ?? period.money)[what]) * sample, noise, looseVariance > 0 ? jackknife(jack) / looseVariance : 1)
    }
    const winsBound = bound('wins', noiseOf(mean((period) => period.money.wins) * sample))
    const spendBound = bound('spend', 1.5 * sample * mean(({ replay: part }) => part.squares))
    // Who is reached and what they do follow the wins: relative width of the wins, at least.
    const along = (value: number): Ranged => (winsBound.value > 0 ? { value, low: (value * winsBound.low) / winsBound.value, high: (value * winsBound.high) / winsBound.value } : exactly(0))
    bounded = {
      wins: winsBound, spend: spendBound, reach: inside(along(Math.min(shaped((shape) => shape.reach), winsBound.value)), free.reach.high),
      views: along(shaped((shape) => shape.views)), visits: along(shaped((shape) => shape.visits)), conversions: along(shaped((shape) => shape.conversions))
    }
    people = Array.from({ length: FREQUENCY_BINS }, (_, n) => shaped((shape) => shape.frequency[n]) / sample)
  }
  const budgeted = bounded !== free
  const frequency = budgeted ? exactly(bounded.reach.value > 0 ? bounded.wins.value / bounded.reach.value : 0) : ratioRange(wins, reach)
  const cpm = ratioRange(totals('clearing').map((micros) => micros * 1000), wins)
  const winShare = ratioRange(wins, ofMatched)
  const { conversionMicros } = question
  return {
    matched: countRange(ofMatched, { ...terms, rate: 0 }), eligible: countRange(ofEligible, { ...terms, rate: 0 }), ...bounded, frequency, cpm,
    winRate: ratioRange(standing.first, bothMatched),
    winShare: budgeted ? exactly(sumOf(ofMatched) > 0 ? bounded.wins.value / sample / sumOf(ofMatched) : 0) : winShare,
    value: conversionMicros === null ? null : scaled(bounded.conversions, conversionMicros),
    people: people.map((count) => count * sample)
  }
}

/** Main figures of a worked-out question. */
export function mainFigures(work: Workings, cancelled: () => boolean = NO_ONE): MainFigures {
  const { tape, matched, standing, weekReplays, flightReplay, weeks, flight, replayedDays, flightDaysLeft, firstMinute, sd } = work
  const { sample } = tape
  const { reach: elasticity, wins: perBid } = elasticities(work, cancelled)
  const rate = matched.isEvent ? (work.question.rateSd ?? 0) * perBid : 0
  const weekTerms: RangeTerms = { sample, horizon: 7, sd, rate }
  const flightTerms: RangeTerms = { sample, horizon: replayedDays, sd, rate }
  const weekPeriods = weeks.map((timeline, n) => periodOf(work, timeline, weekReplays[n], weekTerms))
  const flightPeriod = periodOf(work, flight, flightReplay, flightTerms)
  const week = figuresOf(work, weekPeriods, weeks, weekTerms, 7, elasticity, cancelled)
  const flightDays = (flight.span - firstMinute) / 1440
  const whole = figuresOf(work, [flightPeriod], [flight], flightTerms, flightDays, elasticity, cancelled)
  const day = { ...week }
  for (const name of ['matched', 'eligible', 'wins', 'spend', 'views', 'visits', 'conversions'] as const) day[name] = scaled(week[name], 1 / 7)
  if (day.value) day.value = scaled(day.value, 1 / 7)
  const bothMatched = Float64Array.from({ length: GROUPS }, (_, g) => matched.byGroup[g] + matched.byGroup[GROUPS + g])
  const lower = bothMatched.map((rows, g) => rows - standing.first[g] - standing.second[g])
  const tapeWins = weekReplays[0].wins + weekReplays[1].wins
  return {
    day, flight: { ...extended(whole, work, flightPeriod), days: flightDaysLeft ?? replayedDays, replayedDays, open: flightDaysLeft === null, firstDay: work.firstDay },
    ranks: { first: ratioRange(standing.first, bothMatched), second: ratioRange(standing.second, bothMatched), lower: ratioRange(lower, bothMatched) },
    demandMicros: Math.round(work.demandMicros), budgetBinds: flightPeriod.binds || weekPeriods.some((period) => period.binds), tapeWins, tooFew: tapeWins < LEAST_WINS,
    ownPricedADay: (matched.ownPriced * sample) / TAPE_DAYS, tape: { firstDay: tape.firstDay, days: TAPE_DAYS }
  }
}

/** Beyond the replay its last seven days go on; reach and people stay those of the replay. */
function extended(figures: Figures, { flightDaysLeft, replayedDays }: Workings, { money, replay: played, binds }: Period): Figures {
  const more = flightDaysLeft === null ? 0 : flightDaysLeft - replayedDays
  if (more <= 0) return figures
  const wins = overGroups(played.slotWins, played.slots)
  const share = (daily: readonly number[]) => {
    const all = daily.reduce((sum, value) => sum + value, 0)
    return all > 0 ? 1 + (daily.slice(-7).reduce((sum, value) => sum + value, 0) / 7 / all) * more : 1
  }
  const daily = binds ? money.dayWins : Array.from({ length: replayedDays }, (_, day) => wins.subarray(day * 24, day * 24 + 24).reduce((sum, value) => sum + value, 0))
  const grown = { ...figures }
  const growth = share(daily)
  for (const name of ['wins', 'views', 'visits', 'conversions'] as const) grown[name] = scaled(figures[name], growth)
  grown.spend = scaled(figures.spend, binds ? share(money.daySpend) : growth)
  for (const name of ['matched', 'eligible'] as const) grown[name] = scaled(figures[name], flightDaysLeft as number / replayedDays)
  if (grown.value) grown.value = scaled(grown.value, growth)
  return grown
}

