import { PERSON_WORDS, SOURCES } from '../market/index.js'
import { addTally, emptyTally, tallyEvent, tallyShown, type EventColumns, type LogColumns, type Tally } from '../exchange/index.js'
import { DID, quartersOf } from '../response/index.js'
import { REPORT_DIMENSIONS, newSeen, readPerson, type ReportDimensionName, type TellingMarket } from '../dimensions/index.js'
import { MARGIN_ONE, marginAt, type MarginFrom } from '../money/index.js'
import { zoneIndex } from '../time/index.js'
import type { Offer } from '../buying/index.js'
import { termOf } from './offer-terms.js'
import { withinSentence, type Within } from './within.js'

/** An hour of the log that a report reads. */
export interface ReportHour {
  hour: number
  log: LogColumns
  events: EventColumns
}

export interface ReportQuestion {
  by: ReportDimensionName
  /** Lines that count. */
  lines: readonly number[]
  /** Market hours [from, to); hours before `from` are there for what they earned later. */
  from: number
  to: number
  /** Conversions count that come within so many hours. */
  windowHours: number
  /** Only wins of what a sentence asks for. */
  within?: Within
  /** Margins of lines, in the order of the hours; none where a line is not named. */
  margins?: readonly { line: number; history: readonly MarginFrom[] }[]
  /** What the offers of lines pay for; lines of campaigns without one are left out. */
  offers?: readonly LineOffer[]
  /** Deals of lines as they were in force in market hours [from, to); needed where results are told apart by deal. */
  deals?: readonly LineDeals[]
}

/** What is paid for conversions of a line, and how much. */
export interface LineOffer {
  line: number
  terms: Offer['terms']
  /** IANA zone of its advertiser, whose week the hours are of. */
  zone: string
  /** Tracker and what one conversion of it pays, micros. */
  pays: readonly (readonly [tracker: number, micros: number])[]
}

/** Numbers of a line's deals in the order in which its rules named them then: the log has their places. */
export interface LineDeals {
  line: number
  from: number
  to: number
  deals: readonly number[]
}

/** The number of the deal at a place, from 1, of a line's deals in an hour. @throws where the line had none there */
function dealAt(all: readonly LineDeals[], line: number, hour: number, place: number): number {
  const number = all.find((one) => one.line === line && hour >= one.from && hour < one.to)?.deals[place - 1]
  if (number === undefined) throw new Error(`Line ${line} had no deal at place ${place} in hour ${hour}.`)
  return number
}

/** What was counted, without what was expected of it. */
type Shown = Omit<
  Tally,
  'firsts' | 'expectedViews' | 'expectedVisits' | 'expectedStays' | 'expectedConverting' | 'expectedSeen' | 'predicted'
>

export interface ReportRow extends Shown {
  key: number
  label: string | null
  people: number
  /** Share of the clearing price that the sources keep, micros. */
  feeMicros: number
  /** How many reached each quarter point of what there is to watch or hear. */
  reached: [number, number, number, number]
  /** What the client is charged: our cost and the margin of each hour on it, micros. */
  chargedMicros: number
  /** Conversions that the offer does not pay for, and what it pays for the others, micros. */
  unpaid: number
  payMicros: number
  /** What happened on the ad itself. */
  overlayClicks: number
  unmutes: number
  shares: number
}

interface Cell {
  tally: Tally
  /** Who saw each win, in the order of the log. */
  persons: number[]
  fee: number
  /** What was spent by the margin on it, micros by millionths. */
  margin: number
  unpaid: number
  payMicros: number
  reached: [number, number, number, number]
  overlayClicks: number
  unmutes: number
  shares: number
}

function countOnAd(cell: Cell, did: number): void {
  const quarters = quartersOf(did)
  for (let quarter = 0; quarter < quarters; quarter++) cell.reached[quarter]++
  if ((did & DID.overlay) !== 0) cell.overlayClicks++
  if ((did & DID.unmuted) !== 0) cell.unmutes++
  if ((did & DID.shared) !== 0) cell.shares++
}

/** Conversions of a tracker by lines whose campaigns sell an offer. */
export interface TrackedCount {
  tracker: number
  accepted: number
  unpaid: number
}

export interface Pivot {
  rows: ReportRow[]
  total: ReportRow
  tracked: TrackedCount[]
}

/**
 * What came of wins, told apart by one dimension. Everything is read from the log's columns. A dimension in which a win has
 * several values, such as audiences, counts it in each: its rows add up to more than the total.
 */
export function pivot(question: ReportQuestion, hours: readonly ReportHour[], words: Int32Array, market: TellingMarket): Pivot {
  const { key, label, several } = REPORT_DIMENSIONS[question.by]
  const lines = new Set(question.lines)
  const isWithin = question.within ? withinSentence(question.within, market) : null
  const offers = new Map(
    (question.offers ?? []).map(({ line, terms, zone, pays }) => [line, { term: termOf(terms, zoneIndex(zone)), pays: new Map(pays) }])
  )
  const cells = new Map<number, Cell>()
  const tracked = new Map<number, TrackedCount>()
  const seen = newSeen()
  const read = (log: LogColumns, i: number, hour: number) => {
    seen.line = log.line[i]
    seen.ad = log.ad[i]
    seen.path = log.path[i]
    seen.device = log.device[i]
    seen.page = log.page[i]
    seen.state = log.state[i]
    seen.deal = log.deal[i] > 0 && question.by === 'deal' ? dealAt(question.deals ?? [], seen.line, hour, log.deal[i]) : log.deal[i]
    seen.nth = log.nth[i]
    seen.hour = hour
    readPerson(seen, words, log.person[i])
    return key(seen, market)
  }
  const cellOf = (key: number) => {
    let cell = cells.get(key)
    if (!cell) cells.set(key, (cell = newCell()))
    return cell
  }
  const margins = new Margins(question.margins)
  const addWin = (cell: Cell, log: LogColumns, i: number) => {
    tallyShown(cell.tally, log, i)
    cell.margin += (log.media[i] + log.data[i]) * margins.of(log.line[i])
    cell.persons.push(log.person[i])
    cell.fee += (log.price[i] * FEES[log.path[i] % SOURCES.length]) / 1000
    if (log.did[i] > DID.stayed) countOnAd(cell, log.did[i])
  }
  // A win lies in one row, so that rows add up to the total; where it lies in several the total is counted apart.
  const apart = newCell()
  const byHour = new Map(hours.map((one) => [one.hour, one.log]))
  for (const { hour, log, events } of hours) {
    if (hour < question.from || hour >= question.to) continue
    margins.begin(hour)
    for (let i = 0; i < log.count; i++) {
      if (!lines.has(log.line[i])) continue
      const keyOfRow = read(log, i, hour)
      if (isWithin && !isWithin(seen, log.minute[i])) continue
      if (typeof keyOfRow === 'number') addWin(cellOf(keyOfRow), log, i)
      else for (const one of keyOfRow) addWin(cellOf(one), log, i)
      if (several) addWin(apart, log, i)
    }
    for (let e = 0; e < events.count; e++) {
      if (!lines.has(events.line[e])) continue
      const earned = byHour.get(events.hour[e])
      if (!earned) throw new Error(`Hour ${events.hour[e]}, which earned a conversion of hour ${hour}, was not read.`)
      const after = hour * 60 + events.minute[e] - (events.hour[e] * 60 + earned.minute[events.index[e]])
      const isConversion = events.by[e] < 2
      if (events.by[e] <= 2 && after >= question.windowHours * 60) continue
      const keyOfRow = read(earned, events.index[e], events.hour[e])
      if (isWithin && !isWithin(seen, earned.minute[events.index[e]])) continue
      const offer = isConversion ? offers.get(events.line[e]) : undefined
      const isUnpaid = offer !== undefined && offer.term(seen) !== null
      if (offer) countTracked(tracked, events.tracker[e], isUnpaid)
      const cellsOf = [...(typeof keyOfRow === 'number' ? [keyOfRow] : keyOfRow).map(cellOf), ...(several ? [apart] : [])]
      for (const cell of cellsOf) {
        tallyEvent(cell.tally, events, e)
        if (isUnpaid) cell.unpaid++
        else cell.payMicros += offer?.pays.get(events.tracker[e]) ?? 0
      }
    }
  }
  const people = new PeopleCount(words.length / PERSON_WORDS)
  const row = (key: number, cell: Cell, name: string | null) => rowOf(key, cell, name, people.of([cell.persons]))
  const total = several ? apart : sumOf([...cells.values()])
  return {
    rows: [...cells]
      .map(([key, cell]) => row(key, cell, label(key, market)))
      .sort((a, b) => b.spendMicros - a.spendMicros || b.wins - a.wins || a.key - b.key),
    total: { ...row(-1, total, null), people: people.of([...cells.values()].map((cell) => cell.persons)) },
    tracked: [...tracked.values()].sort((a, b) => a.tracker - b.tracker)
  }
}

/** A row as it is told, without what was expected of it. */
const rowOf = (
  key: number,
  {
    tally: {
      firsts: _______,
      expectedViews: _,
      expectedVisits: __,
      expectedStays: ___,
      expectedConverting: ____,
      expectedSeen: _____,
      predicted: ______,
      ...shown
    },
    persons: _p,
    fee,
    margin,
    ...onAd
  }: Cell,
  name: string | null,
  people: number
): ReportRow => ({
  key,
  label: name,
  ...shown,
  ...onAd,
  people,
  feeMicros: Math.round(fee),
  chargedMicros: shown.spendMicros + Math.round(margin / MARGIN_ONE)
})

/** Margins of lines in the hour that is read. */
class Margins {
  private readonly now = new Map<number, number>()

  constructor(private readonly all: NonNullable<ReportQuestion['margins']> = []) {}

  begin(hour: number): void {
    for (const { line, history } of this.all) this.now.set(line, marginAt(history, hour))
  }

  of(line: number): number {
    return this.now.get(line) ?? 0
  }
}

function countTracked(all: Map<number, TrackedCount>, tracker: number, isUnpaid: boolean): void {
  const known = all.get(tracker) ?? { tracker, accepted: 0, unpaid: 0 }
  if (isUnpaid) known.unpaid++
  else known.accepted++
  all.set(tracker, known)
}

/** Counts different people by stamping each once a count. */
class PeopleCount {
  private readonly stamps: Uint32Array
  private stamp = 0

  constructor(people: number) {
    this.stamps = new Uint32Array(people)
  }

  of(lists: readonly (readonly number[])[]): number {
    const { stamps } = this
    const stamp = ++this.stamp
    let count = 0
    for (const list of lists) {
      for (const person of list) {
        if (stamps[person] === stamp) continue
        stamps[person] = stamp
        count++
      }
    }
    return count
  }
}

const FEES = SOURCES.map((source) => source.feePerMille)

function sumOf(cells: readonly Cell[]): Cell {
  const total = newCell()
  for (const cell of cells) {
    addTally(total.tally, cell.tally)
    total.fee += cell.fee
    total.margin += cell.margin
    total.overlayClicks += cell.overlayClicks
    total.unmutes += cell.unmutes
    total.shares += cell.shares
    total.unpaid += cell.unpaid
    total.payMicros += cell.payMicros
    cell.reached.forEach((n, quarter) => (total.reached[quarter] += n))
  }
  return total
}

const newCell = (): Cell => ({
  tally: emptyTally(),
  persons: [],
  fee: 0,
  margin: 0,
  unpaid: 0,
  payMicros: 0,
  reached: [0, 0, 0, 0],
  overlayClicks: 0,
  unmutes: 0,
  shares: 0
})

/** Hours of the log that conversions of these hours point to. */
export function hoursEarning(events: readonly EventColumns[]): number[] {
  const hours = new Set<number>()
  for (const list of events) for (let e = 0; e < list.count; e++) hours.add(list.hour[e])
  return [...hours].sort((a, b) => a - b)
}
