import { DEVICE_TYPE, SOURCES } from '../market/index.js'
import { DID, pagesOf, type Benchmarks } from '../response/index.js'
import type { EventColumns, LogColumns } from './log.js'
import { expectations } from './expectations.js'

/** What is counted of every group of wins; whole numbers, money in micros, expectations in millionths. */
export const TALLIED = [
  'wins', 'viewable', 'views', 'clicks', 'visits', 'stays', 'pages', 'conversions', 'viewConversions', 'assists', 'valueMicros', 'spendMicros', 'dataMicros',
  'expectedViews', 'expectedVisits', 'expectedConversions', 'predicted'
] as const
export type Tallied = (typeof TALLIED)[number]
export type Tally = Record<Tallied, number>

export function emptyTally(): Tally {
  return {
    wins: 0, viewable: 0, views: 0, clicks: 0, visits: 0, stays: 0, pages: 0, conversions: 0, viewConversions: 0, assists: 0, valueMicros: 0, spendMicros: 0, dataMicros: 0,
    expectedViews: 0, expectedVisits: 0, expectedConversions: 0, predicted: 0
  }
}

export function addTally(to: Tally, from: Readonly<Tally>): void {
  for (const name of TALLIED) to[name] += from[name]
}

/** Totals of one hour by line, ad and device type: a row of `line_hour`. */
export interface HourTotal extends Tally {
  line: number
  ad: number
  device: number
}

/** Totals by line, placement and ad, to be added to a row of `line_day`. */
export interface PlacementTotal extends Tally {
  line: number
  placement: number
  ad: number
}

const expected = { views: 0, visits: 0, conversions: 0 }

// The loop below counts these bits by their places.
if (DID.viewable !== 1 || DID.viewed !== 2 || DID.clicked !== 4 || DID.visited !== 8 || DID.stayed !== 16) throw new Error('The bits of what people did moved.')

/** Adds one win of a log to a tally. */
export function tallyWin(tally: Tally, log: LogColumns, i: number, words: Int32Array, benchmarks: Benchmarks): void {
  const did = log.did[i]
  tally.wins++
  tally.viewable += did & 1
  tally.views += (did >> 1) & 1
  tally.clicks += (did >> 2) & 1
  tally.visits += (did >> 3) & 1
  tally.stays += (did >> 4) & 1
  tally.pages += pagesOf(did)
  tally.spendMicros += log.media[i] + log.data[i]
  tally.dataMicros += log.data[i]
  expectations(benchmarks, log.path[i], log.device[i], words, log.person[i], expected)
  tally.expectedViews += expected.views
  tally.expectedVisits += expected.visits
  tally.expectedConversions += expected.conversions
  tally.predicted += log.predicted[i]
}

export function tallyEvent(tally: Tally, events: EventColumns, i: number): void {
  if (events.by[i] === 2) {
    tally.assists++
    return
  }
  tally.conversions++
  if (events.by[i] === 1) tally.viewConversions++
  tally.valueMicros += events.value[i]
}

/** Both roll-ups of an hour, made from its log and its events alone. */
export function rollUp(log: LogColumns, events: EventColumns, words: Int32Array, benchmarks: Benchmarks): { hourTotals: HourTotal[]; placementTotals: PlacementTotal[] } {
  const hours = new Map<string, HourTotal>()
  const places = new Map<string, PlacementTotal>()
  const ofHour = (line: number, ad: number, device: number) => {
    const name = `${line}.${ad}.${device}`
    let total = hours.get(name)
    if (!total) hours.set(name, (total = { line, ad, device, ...emptyTally() }))
    return total
  }
  const ofPlace = (line: number, placement: number, ad: number) => {
    const name = `${line}.${placement}.${ad}`
    let total = places.get(name)
    if (!total) places.set(name, (total = { line, placement, ad, ...emptyTally() }))
    return total
  }
  for (let i = 0; i < log.count; i++) {
    tallyWin(ofHour(log.line[i], log.ad[i], DEVICE_TYPE[log.device[i]]), log, i, words, benchmarks)
    tallyWin(ofPlace(log.line[i], Math.floor(log.path[i] / SOURCES.length), log.ad[i]), log, i, words, benchmarks)
  }
  for (let i = 0; i < events.count; i++) {
    tallyEvent(ofHour(events.line[i], events.ad[i], DEVICE_TYPE[events.device[i]]), events, i)
    tallyEvent(ofPlace(events.line[i], Math.floor(events.path[i] / SOURCES.length), events.ad[i]), events, i)
  }
  return { hourTotals: [...hours.values()], placementTotals: [...places.values()] }
}
