import { MEAN_PAGES, conversionsOf, knownRate, type EventRates, type Evidence, type RateKind } from '../response/index.js'
import type { Expectations } from './expectations.js'
import { STREAM, exactExp, hash, normalOf } from '../random/index.js'
import type { Aim, Landscape, LineRules, Rotation } from './rules.js'
import { TALLIED, addTally, emptyTally, type HourTotal, type PlacementTotal, type Tally } from './rollups.js'

/**
 * Learning from facts committed so far, at hour boundaries only. A rate is the trade's average times what this line's own
 * results say of it: first of the line, then of ad, placement, device and hour of the day, each shrunk towards its parent as a
 * gamma-Poisson rate is: (events + k) / (expected + k).
 */

/** Events that a part of a line is believed to have had as the line has them, before it has any of its own. */
const PART_PRIOR = 12
/** Conversions of the value that is said, before any came. */
const WORTH_PRIOR = 4
/** Events that must have been gathered before parts are told apart. */
export const LEAST_EVENTS = 50

/** All that is known of a line: totals by ad, placement, device type and hour of the line's day. */
export interface LineFacts {
  total: Tally
  byAd: Map<number, Tally>
  byPlacement: Map<number, Tally>
  byDevice: Map<number, Tally>
  byHour: Map<number, Tally>
  /** By day of the line's calendar: what is lately so counts more than what was. */
  byDay: Map<number, Tally>
}

export const noFacts = (): LineFacts => ({
  total: emptyTally(),
  byAd: new Map(),
  byPlacement: new Map(),
  byDevice: new Map(),
  byHour: new Map(),
  byDay: new Map()
})

function add(to: Map<number, Tally>, key: number, tally: Tally): void {
  let known = to.get(key)
  if (!known) to.set(key, (known = emptyTally()))
  addTally(known, tally)
}

/** Takes an hour's totals in. @param localHour hour of the line's day; `localDay` that day */
export function takeHour(facts: LineFacts, total: HourTotal, localHour: number, localDay: number): void {
  addTally(facts.total, total)
  add(facts.byDay, localDay, total)
  add(facts.byAd, total.ad, total)
  add(facts.byDevice, total.device, total)
  add(facts.byHour, localHour, total)
}

export function takePlacement(facts: LineFacts, total: PlacementTotal): void {
  add(facts.byPlacement, total.placement, total)
}

export type LearnedEvent = Aim['event']
/** The kind of rate that an event's chance is: value is a number of conversions, and pages are opened by those who stay. */
export const kindOf = (event: LearnedEvent): RateKind =>
  event === 'value' ? 'conversion' : event === 'page' || event === 'person' ? 'stay' : event

/** @public read by `npm run truth -- rates` */
export function evidenceOf(tally: Tally, event: LearnedEvent, rates: EventRates): Evidence {
  if (event === 'person') return { events: tally.firsts, expected: tally.wins }
  const { expectedViews: views, expectedVisits: visits, expectedStays: stays, expectedConverting: converting, expectedSeen: seen } = tally
  return { events: eventsOf(tally, event), expected: expectedOf(event, { views, visits, stays, converting, seen }, rates) / 1e6 }
}

const shrunk = ({ events, expected }: Evidence, factor: number, prior: number) => (events + prior) / (expected * factor + prior)

/** Factors over the trade's averages that a line's own results give. */
export interface Learned {
  event: LearnedEvent
  events: number
  /** Whether enough has been gathered to tell parts apart. */
  isReady: boolean
  line: number
  ad: ReadonlyMap<number, number>
  placement: ReadonlyMap<number, number>
  device: ReadonlyMap<number, number>
  hour: ReadonlyMap<number, number>
  /** Value of a conversion, micros. */
  valueMicros: number
  /** What the trade's means expect. */
  rates: EventRates
}

/** How much each day before today counts less: people who have seen it often respond less, and a market drifts. */
const DAY_KEEPS = 0.7
const DAYS_KEPT = 21

/** Evidence of late, the days added in their order so that the sum is the same however they were gathered. */
export function lately({ byDay }: LineFacts, event: LearnedEvent, today: number, rates: EventRates): Evidence {
  let events = 0
  let expected = 0
  let weight = 1
  for (let age = 0; age < DAYS_KEPT; age++, weight *= DAY_KEEPS) {
    const tally = byDay.get(today - age)
    if (!tally) continue
    const evidence = evidenceOf(tally, event, rates)
    events += weight * evidence.events
    expected += weight * evidence.expected
  }
  return { events, expected }
}

/** What is known of an advertiser's conversions before there are any. */
export interface Sold {
  /** What one is said to be worth, micros: it counts as that of a few until there are more. */
  worth: number
  /** What the trade's means expect of the line's impressions. */
  rates: EventRates
}

/** @param today day of the line's calendar */
export function learn(facts: LineFacts, event: LearnedEvent, today: number, { worth, rates }: Sold): Learned {
  const all = evidenceOf(facts.total, event, rates)
  const line = knownRate(kindOf(event), all).factor
  const isReady = all.events >= LEAST_EVENTS
  const parts = (tallies: Map<number, Tally>) =>
    new Map(isReady ? [...tallies].map(([key, tally]) => [key, shrunk(evidenceOf(tally, event, rates), line, PART_PRIOR)]) : [])
  return {
    event,
    events: all.events,
    isReady,
    line: knownRate(kindOf(event), lately(facts, event, today, rates)).factor,
    ad: parts(facts.byAd),
    placement: parts(facts.byPlacement),
    device: parts(facts.byDevice),
    hour: parts(facts.byHour),
    valueMicros: (facts.total.valueMicros + WORTH_PRIOR * worth) / (facts.total.conversions + WORTH_PRIOR),
    rates
  }
}

/** Events that the trade's averages expect of one impression or several, in millionths. */
function expectedOf(event: LearnedEvent, { views, visits, stays, converting, seen }: Expectations, rates: EventRates): number {
  switch (event) {
    case 'view':
      return views
    case 'click':
      return visits
    case 'stay':
      return stays
    case 'page':
      return stays * MEAN_PAGES
    // Everybody is new before somebody was seen again.
    case 'person':
      return 1e6
    default:
      return conversionsOf(rates, converting, seen)
  }
}

/** The trade's average chance of an event, in millionths. */
export const priorOf = expectedOf

/** Chance of the event in millionths, the ad aside. */
export function learnedRate(
  learned: Pick<Learned, 'line' | 'placement' | 'device' | 'hour'>,
  prior: number,
  placement: number,
  device: number,
  hour: number
): number {
  return prior * learned.line * (learned.placement.get(placement) ?? 1) * (learned.device.get(device) ?? 1) * (learned.hour.get(hour) ?? 1)
}

/** Largest move of an aim's correction in an hour, in thousandths. */
const LARGEST_MOVE = 60
export const AIM_RANGE = [50, 5000] as const
/** Share of what it could win that a line with an aim is to buy: what its plan holds back beyond that it bids too much for. */
const PASSING = 0.9

/** What a line paid and got lately: micros, predicted events in millionths, and events. */
export interface Recent {
  spend: number
  predicted: number
  events: number
}

/** Events of a kind in a tally. */
export function eventsOf({ views, visits, stays, pages, firsts, conversions }: Tally, event: LearnedEvent): number {
  return { view: views, click: visits, stay: stays, page: pages, person: firsts, conversion: conversions, value: conversions }[event]
}

/**
 * The correction of bids that keeps what events cost at the aim: an auction's second price, and errors of rates, would
 * otherwise leave it off the mark. It moves once an hour by the root of what is off over the last day. Events are those that came,
 * shrunk to what was predicted while there are few. Where the plan takes only a part of what could be won, the bid goes down to what
 * the plan needs: the same money then buys more.
 * @param perMille before
 * @param passed share of what the line could win in the hour that its plan let it buy, 0 to 1
 */
export function nextCorrection(
  perMille: number,
  aim: Aim,
  { spend, predicted, events: came }: Recent,
  valueMicros: number,
  passed = 1
): number {
  const held = Math.sqrt(passed / PASSING)
  const isKnown = predicted >= 300_000 && spend > 0
  if (!isKnown && held >= 1) return perMille
  const expected = predicted / 1e6
  const events = isKnown ? (expected * (came + RECENT_PRIOR)) / (expected + RECENT_PRIOR) : 0
  const wanted = aim.event === 'value' ? (events * valueMicros * 1000) / aim.micros : events * aim.micros
  const off = isKnown ? Math.sqrt(wanted / spend) : 1
  const move = Math.min(1 + LARGEST_MOVE / 1000, Math.max(1 - LARGEST_MOVE / 1000, Math.min(off, held < 1 ? held : Infinity)))
  return Math.max(AIM_RANGE[0], Math.min(AIM_RANGE[1], Math.round(perMille * move)))
}
/** Events that recent results must outweigh. */
const RECENT_PRIOR = 5

/** Sampled beliefs that decide how often each ad is the best. */
const BELIEFS = 1024
/** Share of showings that no ad falls below while it is learned which is best, in thousandths. */
const LEAST_SHARE = 30
const MOST_LEAST = 500

/** What came of an ad: showings, and what of them counts towards the goal. */
export interface AdTrials {
  ad: number
  trials: number
  events: number
}

/**
 * The chance that each ad is the best one, by draws from what is known of each (a normal on the logarithm of its rate, with the variance
 * of its count of events); alike for all before there is an event.
 */
export function chancesOfBest(ads: readonly AdTrials[], seed: number): number[] {
  const events = ads.reduce((sum, { events: own }) => sum + own, 0)
  if (events < 1) return ads.map(() => 1 / ads.length)
  const mean = (events + 1) / (ads.reduce((sum, { trials }) => sum + trials, 0) + 1)
  const best = ads.map(() => 0)
  const beliefs = ads.map(({ trials, events: own }) => ({ rate: (own + 2) / (trials + 2 / mean), sd: 1 / Math.sqrt(own + 2) }))
  for (let draw = 0; draw < BELIEFS; draw++) {
    let top = 0
    let most = -1
    beliefs.forEach(({ rate, sd }, n) => {
      const value = rate * exactExp(sd * normalOf(hash(seed, STREAM.learn, ads[n].ad, draw)))
      if (value > most) {
        most = value
        top = n
      }
    })
    best[top]++
  }
  return best.map((count) => count / BELIEFS)
}

/** Weights in thousandths towards a goal: the chance that each ad is the best one, no ad below 3 %. */
export function learningWeights(ads: readonly AdTrials[], seed: number): number[] {
  if (ads.length === 1) return [1000]
  if (ads.reduce((sum, { events }) => sum + events, 0) < 1) return ads.map(() => Math.floor(1000 / ads.length))
  const best = chancesOfBest(ads, seed)
  // Of many ads no more than half of the showings goes to those that are not the best.
  const least = Math.min(LEAST_SHARE, MOST_LEAST / ads.length)
  const free = 1000 - least * ads.length
  return best.map((chance) => Math.max(1, Math.round(least + free * chance)))
}

/** Weights of a rotation. */
export function rotationWeights(
  rotation: Rotation,
  ads: LineRules['ads'],
  facts: Pick<LineFacts, 'byAd'> | undefined,
  measure: (typeof TALLIED)[number],
  unit: number,
  seed: number
): number[] {
  if (rotation === 'even') return ads.map(() => 1)
  if (rotation === 'weight') return ads.map((ad) => ad.weight)
  return learningWeights(
    ads.map(({ ad }) => {
      const tally = facts?.byAd.get(ad)
      return { ad, trials: tally?.wins ?? 0, events: (tally?.[measure] ?? 0) / unit }
    }),
    seed
  )
}

/** Where a landscape's sixteen steps end. */
const STEPS = 16

/**
 * Bids by placement and source that win what a plan wants at the least cost: each bid is the step at which what one more
 * win costs reaches the same sum everywhere. In a first-price source that is the bid itself and what all others win
 * dearer by it; in a second-price source the price of that one win.
 * @param wanted wins, in the landscape's days; `most` the dearest bid, micros
 * @param isFirst whether a path pays its bid
 */
export function followBids(
  landscape: Landscape,
  share: number,
  wanted: number,
  most: number,
  isFirst: (path: number) => boolean,
  into: Int32Array
): void {
  const { path, perDay } = landscape
  const winsAt = (worth: number) =>
    path.reduce(
      (sum, _, place) => sum + bidAtWorth(landscape, place, Math.min(worth, most * 64), most, isFirst).wins * perDay[place] * share,
      0
    )
  let low = 0
  let high = most * 64
  if (winsAt(high) > wanted) {
    for (let n = 0; n < 28; n++) {
      const middle = (low + high) / 2
      if (winsAt(middle) < wanted) low = middle
      else high = middle
    }
  }
  bidsOfWorth(landscape, high, most, isFirst, into)
}

/** Bids by path, each the step at which what one more win costs reaches the worth. @returns `into` */
export function bidsOfWorth(
  landscape: Landscape,
  worth: number,
  most: number,
  isFirst: (path: number) => boolean,
  into: Int32Array
): Int32Array {
  landscape.path.forEach((one, place) => (into[one] = Math.min(most, bidAtWorth(landscape, place, worth, most, isFirst).bid)))
  return into
}

function bidAtWorth(
  { path, needs }: Landscape,
  place: number,
  worth: number,
  most: number,
  isFirst: (path: number) => boolean
): { bid: number; wins: number } {
  const steps = needs[place]
  if (!isFirst(path[place])) {
    let n = 0
    while (n < STEPS && steps[n] <= Math.min(most, worth)) n++
    return { bid: Math.min(most, Math.floor(worth)), wins: n / STEPS }
  }
  let best = { bid: 0, wins: 0 }
  let gain = 0
  for (let n = 0; n < STEPS && steps[n] <= most; n++) {
    const added = ((n + 1) / STEPS) * (worth - steps[n])
    if (added > gain) {
      gain = added
      best = { bid: steps[n], wins: (n + 1) / STEPS }
    }
  }
  return best
}
