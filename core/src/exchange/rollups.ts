import { DEVICE_TYPE, SOURCES } from '../market/index.js'
import { DID, pagesOf, type Benchmarks } from '../response/index.js'
import type { EventColumns, LogColumns } from './log.js'
import { expectations, noExpectations } from './expectations.js'
import type { LineRules } from './rules.js'
import { TOLD_EVENTS } from './told.js'

/** What is counted of every group of wins; whole numbers, money in micros, expectations in millionths. */
class Counted {
  wins = 0
  /** Of people whom the line had not reached in the 30 days before. */
  firsts = 0
  viewable = 0
  views = 0
  clicks = 0
  visits = 0
  stays = 0
  pages = 0
  conversions = 0
  viewConversions = 0
  assists = 0
  valueMicros = 0
  spendMicros = 0
  dataMicros = 0
  expectedViews = 0
  expectedVisits = 0
  expectedStays = 0
  expectedConverting = 0
  expectedSeen = 0
  predicted = 0
}
export type Tally = { [K in keyof Counted]: number }
export type Tallied = keyof Tally
export const emptyTally = (): Tally => ({ ...new Counted() })
export const TALLIED = Object.keys(emptyTally()) as readonly Tallied[]

export function addTally(to: Tally, from: Readonly<Tally>): void {
  for (const name of TALLIED) to[name] += from[name]
}

/** Totals of one hour by line, ad and device type: a row of `line_hour`. */
export class HourTotal extends Counted {
  constructor(
    readonly line: number,
    readonly ad: number,
    readonly device: number
  ) {
    super()
  }
}

/** Totals by line, placement and ad, to be added to a row of `line_day`. */
export class PlacementTotal extends Counted {
  constructor(
    readonly line: number,
    readonly placement: number,
    readonly ad: number
  ) {
    super()
  }
}

const expected = noExpectations()

// The loop below counts these bits by their places.
if (DID.viewable !== 1 || DID.viewed !== 2 || DID.clicked !== 4 || DID.visited !== 8 || DID.stayed !== 16)
  throw new Error('The bits of what people did moved.')

/** Adds one win of a log to a tally, once what is expected of it lies in `expected`. */
function tallyExpected(tally: Tally, log: LogColumns, i: number): void {
  tallyShown(tally, log, i)
  tally.expectedViews += expected.views
  tally.expectedVisits += expected.visits
  tally.expectedStays += expected.stays
  tally.expectedConverting += expected.converting
  tally.expectedSeen += expected.seen
  tally.predicted += log.predicted[i]
}

/** Adds to a tally what happened at a win, without what was expected of it. */
export function tallyShown(tally: Tally, log: LogColumns, i: number): void {
  const did = log.did[i]
  tally.wins++
  if (log.nth[i] === 1) tally.firsts++
  tally.viewable += did & 1
  tally.views += (did >> 1) & 1
  tally.clicks += (did >> 2) & 1
  tally.visits += (did >> 3) & 1
  tally.stays += (did >> 4) & 1
  tally.pages += pagesOf(did)
  tally.spendMicros += log.media[i] + log.data[i]
  tally.dataMicros += log.data[i]
}

export function tallyEvent(tally: Tally, events: EventColumns, i: number): void {
  switch (events.by[i]) {
    case 2:
      tally.assists++
      return
    case TOLD_EVENTS.click.by:
      tally.clicks++
      return
    case TOLD_EVENTS.viewable.by:
      tally.viewable++
      return
    case TOLD_EVENTS.viewed.by:
      tally.views++
      return
    default:
      tally.conversions++
      if (events.by[i] === 1) tally.viewConversions++
      tally.valueMicros += events.value[i]
  }
}

/** Totals of groups of three numbers in the order in which they first came: an open hash table. */
class Groups<T> {
  private slots = new Int32Array(1024).fill(-1)
  private keys = new Int32Array(3 * 512)
  readonly list: T[] = []

  constructor(private readonly make: (a: number, b: number, c: number) => T) {}

  of(a: number, b: number, c: number): T {
    const { slots, keys, list } = this
    const mask = slots.length - 1
    let slot = hash(a, b, c) & mask
    for (let n = slots[slot]; n >= 0; n = slots[slot]) {
      if (keys[3 * n] === a && keys[3 * n + 1] === b && keys[3 * n + 2] === c) return list[n]
      slot = (slot + 1) & mask
    }
    const n = list.length
    slots[slot] = n
    keys[3 * n] = a
    keys[3 * n + 1] = b
    keys[3 * n + 2] = c
    const made = this.make(a, b, c)
    list.push(made)
    if (list.length * 2 > slots.length) this.grow()
    return made
  }

  private grow(): void {
    const { keys } = this
    this.keys = new Int32Array(keys.length * 2)
    this.keys.set(keys)
    const slots = new Int32Array(this.slots.length * 2).fill(-1)
    const mask = slots.length - 1
    for (let n = 0; n < this.list.length; n++) {
      let slot = hash(keys[3 * n], keys[3 * n + 1], keys[3 * n + 2]) & mask
      while (slots[slot] >= 0) slot = (slot + 1) & mask
      slots[slot] = n
    }
    this.slots = slots
  }
}

const hash = (a: number, b: number, c: number) => Math.imul(Math.imul(Math.imul(a, 0x9e3779b1) ^ b, 0x85ebca6b) ^ c, 0xc2b2ae35) >>> 9

/** View points of lines, by line, in thousandths; those at the end are left out. */
export type ViewPoints = ReadonlyMap<number, number>
export const viewPointsOf = (lines: readonly Pick<LineRules, 'line' | 'viewPoint'>[]): ViewPoints =>
  new Map(lines.flatMap(({ line, viewPoint }) => (viewPoint === undefined ? [] : [[line, viewPoint] as const])))

/** Both roll-ups of an hour, made from its log and its events alone, by the view points of the lines then in force. */
export function rollUp(
  log: LogColumns,
  events: EventColumns,
  words: Int32Array,
  benchmarks: Benchmarks,
  viewPoints: ViewPoints
): { hourTotals: HourTotal[]; placementTotals: PlacementTotal[] } {
  const hours = new Groups((line, ad, device) => new HourTotal(line, ad, device))
  const places = new Groups((line, placement, ad) => new PlacementTotal(line, placement, ad))
  for (let i = 0; i < log.count; i++) {
    expectations(benchmarks, log, i, words, expected, viewPoints.get(log.line[i]))
    tallyExpected(hours.of(log.line[i], log.ad[i], DEVICE_TYPE[log.device[i]]), log, i)
    tallyExpected(places.of(log.line[i], Math.floor(log.path[i] / SOURCES.length), log.ad[i]), log, i)
  }
  for (let i = 0; i < events.count; i++) {
    tallyEvent(hours.of(events.line[i], events.ad[i], DEVICE_TYPE[events.device[i]]), events, i)
    tallyEvent(places.of(events.line[i], Math.floor(events.path[i] / SOURCES.length), events.ad[i]), events, i)
  }
  return { hourTotals: hours.list, placementTotals: places.list }
}
