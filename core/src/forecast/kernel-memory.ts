// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- ambient types that no import would carry
/// <reference path="./web-assembly.d.ts" />
import { KERNEL_BASE64 } from './kernel-bytes.js'
import { DEVICE_TYPE } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import { conversionsOf, type EventRates } from '../response/index.js'
import { GROUPS, type Tape } from '../tape/index.js'
import type { FullLanes } from './lanes.js'
import type { ForecastMarket } from './question.js'
import { sumOf, type GroupTotals } from './totals.js'
import { outcomesOf } from './kernel-outcomes.js'
import { PASS_MINUTES, type Timeline } from './timeline.js'
import { KernelRows, type CopiedRows, type EarlyWeeks, type KernelPlay, type KernelReplay } from './kernel-rows.js'
import {
  BY_RIVAL,
  ENTRY_BYTES,
  FIRST,
  LONGEST_SLOTS,
  MEASURES_KEPT,
  NEED,
  PLACE,
  READS,
  TOTALS,
  WEEK_SLOTS,
  type Place
} from './kernel-layout.js'

/**
 * The compiled kernel and its memory: a copy of one tape, the tables of one question, and room for what is found. One of
 * them serves a thread; what it finds is copied out, and copied in again when it was overwritten meanwhile.
 */

interface Exports {
  matchRows: (block: number) => number
  replayRows: (block: number) => void
  standRows: (block: number) => void
}

/** Charges below it, squared and summed over the largest tape, fit 64 bits. */
const WHOLE_CHARGE = 2 ** 18
const PAGE = 65_536
const BLOCK_BYTES = 512
let compiled: WebAssembly.Module | undefined
function kernelModule(): WebAssembly.Module {
  return (compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNEL_BASE64), (letter) => letter.charCodeAt(0))))
}

export class ForecastKernel {
  private readonly memory: WebAssembly.Memory
  private readonly exports: Exports
  private readonly places = new Map<Place, number>()
  private readonly block: Uint32Array
  /** Whose rows lie in memory now. */
  private loaded: KernelRows | null = null
  /** Tables that were written last, by name: most edits change one of them. */
  private readonly written = new Map<string, ArrayBufferView>()
  private readonly outcomes: ReturnType<typeof outcomesOf>
  private readonly priceWords: Uint32Array
  /** Whose conversions lie in memory now. */
  private rates: EventRates = { perConverting: 0, perSeen: 0 }

  constructor(
    readonly tape: Tape,
    readonly market: ForecastMarket
  ) {
    const { rows, words, starts, group, rowCount, peopleCount } = tape
    const { inventory, firstPrice } = market
    // What a row takes to win and what is paid for it in the open market is the same in every question.
    const priceWord = (this.priceWords = Uint32Array.from(rows.path, (path, row) => {
      const [floor, best] = [inventory.floors[path], rows.rival[row]]
      return (floor > best ? floor : (best + 1) | BY_RIVAL) | (firstPrice[path] === 1 ? FIRST : 0)
    }))
    const outcomes = (this.outcomes = outcomesOf(tape, market))
    const constants: [Place, ArrayBufferView][] = [
      ['priceWord', priceWord],
      ['outcome', outcomes.outcome],
      ['outcomeViews', outcomes.views],
      ['outcomeVisits', outcomes.visits],
      ['outcomeConversions', new Float64Array(outcomes.converting.length)],
      ['words', words],
      ['starts', starts],
      ['group', group],
      ['path', rows.path],
      ['device', rows.device],
      ['page', rows.page],
      ['state', rows.state],
      ['sincePop', rows.sincePop],
      ['minute', rows.minute],
      ['rival', rows.rival],
      ['second', rows.second],
      ['floors', inventory.floors.map((floor, path) => (firstPrice[path] === 1 ? floor | FIRST : floor))],
      ['postalCountry', POSTAL_COUNTRY]
    ]
    const rooms: [Place, number][] = [
      ['postalFails', 4 * 16_384],
      ['demographicFails', 4 * 256],
      ['tongueFails', 4 * 64],
      ['jobFails', 4 * 32],
      ['profileFails', 4 * 4096],
      ['employerFails', 4 * 512],
      ['cellFails', 4 * 128 * 64],
      ['fixedFails', 4 * 128 * 64],
      ['pathFails', 4 * inventory.floors.length],
      ['deviceFails', 4 * DEVICE_TYPE.length],
      ['pageFails', 4 * inventory.pages.count],
      ['stateFails', 4 * 512],
      ['outPeople', 4 * peopleCount],
      ['outStarts', 4 * (peopleCount + 1)],
      ['outRows', 4 * rowCount],
      ['outWord', 4 * rowCount],
      ['outMinute', 2 * rowCount],
      ['byGroup', 8 * 2 * GROUPS],
      ['time', 4 * PASS_MINUTES],
      ['slotOf', 2 * PASS_MINUTES],
      ['halfOf', PASS_MINUTES / 30],
      ['capTimes', 4 * 32],
      ['capMinutes', 4 * 32],
      ['slotTotals', 2 * 8 * GROUPS * LONGEST_SLOTS],
      ['totals', 2 * 8 * TOTALS],
      ['entries', 3 * ENTRY_BYTES],
      ['standing', 8 * 3 * GROUPS]
    ]
    let offset = 1024 + BLOCK_BYTES
    const take = (name: Place, bytes: number) => {
      offset += (16 - (offset % 16)) % 16
      this.places.set(name, offset)
      offset += bytes
    }
    for (const [name, view] of constants) take(name, view.byteLength)
    for (const [name, bytes] of rooms) take(name, bytes)
    this.memory = new WebAssembly.Memory({ initial: Math.ceil(offset / PAGE), maximum: 65_536 })
    this.exports = new WebAssembly.Instance(kernelModule(), { env: { memory: this.memory } }).exports as unknown as Exports
    this.block = new Uint32Array(this.memory.buffer, 1024, BLOCK_BYTES / 4)
    for (const [name, place] of this.places) this.block[PLACE[name]] = place
    for (const [name, view] of constants)
      new Uint8Array(this.memory.buffer, this.place(name), view.byteLength).set(
        new Uint8Array(view.buffer, view.byteOffset, view.byteLength)
      )
    this.block[PLACE.peopleCount] = peopleCount
    this.block[PLACE.full] = 0
  }

  private place(name: Place): number {
    return this.places.get(name) as number
  }

  private write(name: Place, view: ArrayBufferView): void {
    new Uint8Array(this.memory.buffer, this.place(name), view.byteLength).set(new Uint8Array(view.buffer, view.byteOffset, view.byteLength))
  }

  /** Writes a table unless it lies there already. */
  private writeTable(name: Place, table: Int32Array): boolean {
    if (this.written.get(name) !== table) {
      this.write(name, table)
      this.written.set(name, table)
    }
    return !isZero(table)
  }

  /** Matches a plain line, and replays what `early` asks for on the way. */
  match(lanes: FullLanes, leastSincePop: number, early: EarlyWeeks | null, own: Uint32Array | null = null): KernelRows {
    this.loaded?.leave()
    const on = (names: readonly [Place, Int32Array][]) => names.map(([name, table]) => this.writeTable(name, table)).some(Boolean)
    const person = on([
      ['postalFails', lanes.postal],
      ['demographicFails', lanes.demographic],
      ['tongueFails', lanes.tongue],
      ['jobFails', lanes.job],
      ['profileFails', lanes.profile],
      ['employerFails', lanes.employer]
    ])
    const network = on([
      ['cellFails', lanes.cell],
      ['fixedFails', lanes.fixed]
    ])
    const device = on([['deviceFails', lanes.device]])
    const page = on([['pageFails', lanes.page]])
    const state = on([['stateFails', lanes.state]]) || network
    const path = on([['pathFails', lanes.path]])
    this.block[PLACE.reads] =
      (person ? READS.person : 0) |
      (network ? READS.network : 0) |
      (device ? READS.device : 0) |
      (page ? READS.page : 0) |
      (state ? READS.state : 0) |
      (path ? READS.path : 0)
    this.block[PLACE.leastSincePop] = leastSincePop
    this.block[PLACE.early] = early ? 1 : 0
    const { buffer } = this.memory
    const byGroup = new Float64Array(buffer, this.place('byGroup'), 2 * GROUPS).fill(0)
    this.block[PLACE.uncapped] = 0
    if (early) this.setEarly(early)
    const lost = own && early ? this.withhold(own, early.bid) : null
    const total = this.exports.matchRows(1024)
    if (lost) this.giveBack(lost)
    const weeks = early ? ([this.earlyWeek(early, 0), this.earlyWeek(early, 1)] as const) : null
    return (this.loaded = new KernelRows(
      this,
      { count: total, persons: this.block[PLACE.peopleFound], byGroup: byGroup.slice() },
      early && weeks ? { of: early, weeks } : null,
      own
    ))
  }

  /** What a row takes to win on the market, and what is paid for it. */
  priceWord(row: number): number {
    return this.priceWords[row]
  }

  /** Takes the rows out that our own lines buy before a bid, while rows are matched. @returns them */
  private withhold(own: Uint32Array, bid: number): Uint32Array {
    const lying = new Uint32Array(this.memory.buffer, this.place('priceWord'), own.length)
    const lost = (this.market.own?.rows ?? new Uint32Array(0)).filter((row) => own[row] > bid)
    for (const row of lost) lying[row] = this.priceWords[row] | NEED
    return lost
  }

  private giveBack(lost: Uint32Array): void {
    const lying = new Uint32Array(this.memory.buffer, this.place('priceWord'), this.priceWords.length)
    for (const row of lost) lying[row] = this.priceWords[row]
  }

  /** Makes matches those that a bid can win: without what our own lines buy before it. */
  private contend(rows: KernelRows, bid: number): void {
    const { own } = rows
    if (!own) return
    const { buffer } = this.memory
    const matches = new Uint32Array(buffer, this.place('outRows'), rows.count)
    const words = new Uint32Array(buffer, this.place('outWord'), rows.count)
    for (const m of rows.contestedOf(matches)) {
      const word = this.priceWords[matches[m]]
      words[m] = own[matches[m]] > bid ? word | NEED : word
    }
  }

  private setEarly({ timelines, ...play }: EarlyWeeks): void {
    const { full, bid, data, caps, gapMinutes } = play
    const { buffer } = this.memory
    // One byte an hour of the week: the table stays in the nearest cache.
    const hours = new Uint8Array(buffer, this.place('slotOf'), PASS_MINUTES)
    const halves = new Uint8Array(buffer, this.place('halfOf'), PASS_MINUTES / 30)
    for (const { clock, time } of timelines)
      for (let minute = 0; minute < PASS_MINUTES; minute++)
        if (time[minute] >= 0) halves[(minute / 30) | 0] = hours[minute] = (clock[minute] / 60) | 0
    this.setPlay(play)
    this.block[PLACE.slots] = WEEK_SLOTS
    this.block[PLACE.uncapped] = caps.length === 0 && gapMinutes === 0 && bid >= 0 && bid + data < WHOLE_CHARGE ? 1 : 0
    const sums = 2 * (full ? GROUPS : 1) * WEEK_SLOTS
    new Float64Array(buffer, this.place('slotTotals'), 2 * sums).fill(0)
    new Float64Array(buffer, this.place('totals'), 2 * TOTALS).fill(0)
  }

  private earlyWeek({ full, data }: EarlyWeeks, week: 0 | 1) {
    const sums = (full ? GROUPS : 1) * WEEK_SLOTS
    return this.totalsAt(this.place('totals') + week * 8 * TOTALS, full, week * sums, sums, data)
  }

  /** What lies in memory of a match. */
  copyOut(rows: KernelRows): CopiedRows {
    if (this.loaded !== rows) throw new Error('These rows are no longer in the memory of the kernel.')
    const { buffer } = this.memory
    return {
      people: new Uint32Array(buffer, this.place('outPeople'), rows.persons).slice(),
      starts: new Uint32Array(buffer, this.place('outStarts'), rows.persons + 1).slice(),
      rows: new Uint32Array(buffer, this.place('outRows'), rows.count).slice(),
      words: new Uint32Array(buffer, this.place('outWord'), rows.count).slice(),
      minute: new Uint16Array(buffer, this.place('outMinute'), rows.count).slice()
    }
  }

  /** Puts a match back into memory when another has taken its place. */
  private load(loaded: KernelRows): void {
    if (this.loaded === loaded) return
    this.loaded?.leave()
    const { people, starts, rows, words, minute } = loaded.arrays()
    this.write('outPeople', people)
    this.write('outStarts', starts)
    this.write('outRows', rows)
    this.write('outWord', words)
    this.write('outMinute', minute)
    this.loaded = loaded
  }

  /** Standing of matched rows at a bid: at or over the floor, first, second, by group. */
  standing(rows: KernelRows, bid: number): { eligible: Float64Array; first: Float64Array; second: Float64Array } {
    this.load(rows)
    this.contend(rows, bid)
    const out = new Float64Array(this.memory.buffer, this.place('standing'), 3 * GROUPS).fill(0)
    this.block[PLACE.persons] = rows.persons
    this.block[PLACE.bid] = Math.min(bid, NEED)
    this.exports.standRows(1024)
    return { eligible: out.slice(0, GROUPS), first: out.slice(GROUPS, 2 * GROUPS), second: out.slice(2 * GROUPS) }
  }

  /** What counts as a conversion is the advertiser's: of each kind of outcome it is worked out when another advertiser asks. */
  private setRates(rates: EventRates): void {
    if (rates.perConverting === this.rates.perConverting && rates.perSeen === this.rates.perSeen) return
    const { converting, seen } = this.outcomes
    this.write(
      'outcomeConversions',
      Float64Array.from(converting, (visitors, n) => conversionsOf(rates, visitors, seen[n]))
    )
    this.rates = rates
  }

  private setPlay({ bid, data, caps, gapMinutes, full, rates }: KernelPlay): void {
    if (full) this.setRates(rates)
    this.write(
      'capTimes',
      Int32Array.from(caps, (cap) => cap.times)
    )
    this.write(
      'capMinutes',
      Int32Array.from(caps, (cap) => cap.hours * 60)
    )
    this.block[PLACE.bid] = Math.min(bid, NEED)
    this.block[PLACE.data] = data
    this.block[PLACE.caps] = caps.length
    this.block[PLACE.gap] = gapMinutes
    this.block[PLACE.full] = full ? 1 : 0
  }

  /** Replays a plain line at a bid in micros an impression. */
  replay(rows: KernelRows, play: KernelPlay, timeline: Timeline, every: number) {
    this.load(rows)
    this.contend(rows, play.bid)
    const { buffer } = this.memory
    const { time, clock, firstMinute, repeats, days, kind } = timeline
    const { full, data } = play
    const slots = days * 24
    const groups = full ? GROUPS : 1
    this.write('time', time)
    const slotOf = new Int16Array(buffer, this.place('slotOf'), PASS_MINUTES)
    for (let minute = 0; minute < PASS_MINUTES; minute++) slotOf[minute] = clock[minute] < 0 ? -1 : (clock[minute] / 60) | 0
    new Float64Array(buffer, this.place('slotTotals'), 2 * groups * slots).fill(0)
    new Float64Array(buffer, this.place('totals'), TOTALS).fill(0)
    this.setPlay(play)
    const set = (name: Place, value: number) => (this.block[PLACE[name]] = value)
    set('persons', rows.persons)
    set('repeats', repeats)
    set('firstMinute', firstMinute)
    set('span', timeline.span)
    set('slots', slots)
    set('every', every)
    set('isFlight', kind === 'flight' ? 1 : 0)
    this.exports.replayRows(1024)
    return this.totalsAt(this.place('totals'), full, 0, groups * slots, data)
  }

  /** Reads totals, and the slots from `from` on. */
  private totalsAt(address: number, full: boolean, from: number, count: number, dataMicros: number): KernelReplay {
    const { buffer } = this.memory
    const totals = new Float64Array(buffer, address, TOTALS)
    const groups = full ? GROUPS : 1
    const measure = (n: number, scale = 1) => Float64Array.from({ length: groups }, (_, g) => totals[n * GROUPS + g] / scale)
    const byGroup: GroupTotals = {
      wins: measure(0),
      spend: measure(1),
      reach: measure(2),
      clearing: Float64Array.from({ length: groups }, (_, g) => totals[GROUPS + g] - totals[g] * dataMicros),
      views: measure(3, 1e6),
      visits: measure(4, 1e6),
      conversions: measure(5, 1e6)
    }
    const after = MEASURES_KEPT * GROUPS
    const both = new Float64Array(buffer, this.place('slotTotals') + 16 * from, 2 * count)
    const slots = (which: 0 | 1) => Float64Array.from({ length: count }, (_, slot) => both[2 * slot + which])
    return {
      wins: sumOf(byGroup.wins),
      reach: sumOf(byGroup.reach),
      squares: totals[after],
      frequency: Array.from(totals.subarray(after + 1, TOTALS)),
      slotSpend: slots(0),
      slotWins: slots(1),
      byGroup
    }
  }
}

const zeroTables = new WeakMap<Int32Array, boolean>()
/** Whether a table holds nothing; remembered, since most tables are those of other restrictions again. */
function isZero(table: Int32Array): boolean {
  let known = zeroTables.get(table)
  if (known === undefined) zeroTables.set(table, (known = table.every((bits) => bits === 0)))
  return known
}

/** Largest tape that a kernel copies: what is larger is left to the general loops. */
const MOST_ROWS = 8_000_000
const kernels = new WeakMap<Tape, ForecastKernel>()
let newest: Tape | null = null

/** The kernel of a tape in this thread; a second tape takes the place of the first, so that memory holds one. */
export function kernelOf(tape: Tape, market: ForecastMarket): ForecastKernel | null {
  if (tape.rowCount > MOST_ROWS || tape.rowCount === 0) return null
  const known = kernels.get(tape)
  if (known && known.market === market) return known
  if (newest && newest !== tape) kernels.delete(newest)
  newest = tape
  const made = new ForecastKernel(tape, market)
  kernels.set(tape, made)
  return made
}
