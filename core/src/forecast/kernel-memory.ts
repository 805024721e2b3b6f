// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- ambient types that no import would carry
/// <reference path="./web-assembly.d.ts" />
import { KERNEL_BASE64 } from './kernel-bytes.js'
import { DEVICE_TYPE } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import { BRANCHES, FORMATS } from '../taxonomy/index.js'
import { GROUPS, TAPE_DAYS, type Tape } from '../tape/index.js'
import type { Cap } from '../exchange/index.js'
import type { FullLanes } from './matched.js'
import type { ForecastMarket } from './question.js'
import type { GroupTotals } from './replay.js'
import { PASS_MINUTES, type Timeline } from './timeline.js'

/**
 * The compiled kernel and its memory: a copy of one tape, the tables of one question, and room for what is found. One of
 * them serves a thread; what it finds is copied out, and copied in again when it was overwritten meanwhile.
 */

interface Exports {
  matchRows: (block: number) => number
  replayRows: (block: number) => void
  standRows: (block: number) => void
}

/** What the kernel finds of a line: the arrays of a plain match. */
export interface KernelRows {
  people: Uint32Array
  starts: Uint32Array
  rows: Uint32Array
  need: Uint32Array
  pay: Uint32Array
  minute: Uint16Array
  visits: Uint32Array
  group: Uint8Array
}

const PAGE = 65_536
const BLOCK_BYTES = 512
const LONGEST_SLOTS = 28 * 24
const POP_GROUPS = FORMATS.indexOf('pop') * BRANCHES.length
const MEASURES_KEPT = 7
const TOTALS = MEASURES_KEPT * GROUPS + 3 + 10

/** Places in the block, in the order that the kernel reads. */
const SLOT = {
  peopleCount: 0, words: 1, starts: 2, group: 3, path: 4, device: 5, page: 6, state: 7, sincePop: 8, minute: 9, rival: 10,
  postal: 11, demographic: 12, tongue: 13, job: 14, profile: 15, employer: 16, cell: 17, fixed: 18, pathFails: 19, deviceFails: 20, pageFails: 21, stateFails: 22,
  floors: 23, firstPrice: 24, groupByPath: 25, clicks: 26, opened: 27, deviceType: 28, postalCountry: 29, leastSincePop: 30, popGroups: 31,
  outPeople: 32, outStarts: 33, outRows: 34, outNeed: 35, outPay: 36, outMinute: 37, outVisits: 38, outGroup: 39, byGroup: 40,
  persons: 41, bid: 42, data: 43, time: 44, slotOf: 45, repeats: 46, firstMinute: 47, span: 48, slots: 49, caps: 50, capTimes: 51, capMinutes: 52, gap: 53, full: 54, every: 55, isFlight: 56,
  slotSpend: 57, slotWins: 58, totals: 59, views: 60, conversions: 61, entries: 62, peopleFound: 63, second: 64, standing: 65
} as const

let compiled: WebAssembly.Module | undefined
function kernelModule(): WebAssembly.Module {
  return (compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNEL_BASE64), (letter) => letter.charCodeAt(0))))
}

export class ForecastKernel {
  private readonly memory: WebAssembly.Memory
  private readonly exports: Exports
  private readonly places = new Map<keyof typeof SLOT, number>()
  private readonly block: Uint32Array
  /** Whose rows lie in memory now. */
  private loaded: KernelRows | null = null

  constructor(readonly tape: Tape, readonly market: ForecastMarket) {
    const { rows, words, starts, group, rowCount, peopleCount } = tape
    const { inventory, benchmarks, firstPrice, groupByPath } = market
    const constants: [keyof typeof SLOT, ArrayBufferView][] = [
      ['words', words], ['starts', starts], ['group', group], ['path', rows.path], ['device', rows.device], ['page', rows.page], ['state', rows.state], ['sincePop', rows.sincePop], ['minute', rows.minute], ['rival', rows.rival], ['second', rows.second],
      ['floors', inventory.floors], ['firstPrice', firstPrice], ['groupByPath', Uint8Array.from(groupByPath)], ['clicks', benchmarks.clicks], ['opened', benchmarks.opened], ['deviceType', DEVICE_TYPE], ['postalCountry', POSTAL_COUNTRY],
      ['views', benchmarks.views], ['conversions', benchmarks.conversions]
    ]
    const rooms: [keyof typeof SLOT, number][] = [
      ['postal', 4 * 16_384], ['demographic', 4 * 256], ['tongue', 4 * 64], ['job', 4 * 32], ['profile', 4 * 4096], ['employer', 4 * 512], ['cell', 4 * 128 * 64], ['fixed', 4 * 128 * 64],
      ['pathFails', 4 * inventory.floors.length], ['deviceFails', 4 * DEVICE_TYPE.length], ['pageFails', 4 * inventory.pages.count], ['stateFails', 4 * 512],
      ['outPeople', 4 * peopleCount], ['outStarts', 4 * (peopleCount + 1)], ['outRows', 4 * rowCount], ['outNeed', 4 * rowCount], ['outPay', 4 * rowCount], ['outMinute', 2 * rowCount], ['outVisits', 4 * rowCount], ['outGroup', rowCount],
      ['byGroup', 8 * 2 * GROUPS], ['time', 4 * PASS_MINUTES], ['slotOf', 2 * PASS_MINUTES], ['capTimes', 4 * 32], ['capMinutes', 4 * 32], ['slotSpend', 8 * GROUPS * LONGEST_SLOTS], ['slotWins', 8 * GROUPS * LONGEST_SLOTS],
      ['totals', 8 * TOTALS], ['entries', 3 * 16_384], ['standing', 8 * 3 * GROUPS]
    ]
    let at = 1024 + BLOCK_BYTES
    const take = (name: keyof typeof SLOT, bytes: number) => {
      at += (16 - (at % 16)) % 16
      this.places.set(name, at)
      at += bytes
    }
    for (const [name, view] of constants) take(name, view.byteLength)
    for (const [name, bytes] of rooms) take(name, bytes)
    this.memory = new WebAssembly.Memory({ initial: Math.ceil(at / PAGE), maximum: 65_536 })
    this.exports = new WebAssembly.Instance(kernelModule(), { env: { memory: this.memory } }).exports as unknown as Exports
    this.block = new Uint32Array(this.memory.buffer, 1024, BLOCK_BYTES / 4)
    for (const [name, place] of this.places) this.block[SLOT[name]] = place
    for (const [name, view] of constants) new Uint8Array(this.memory.buffer, this.place(name), view.byteLength).set(new Uint8Array(view.buffer, view.byteOffset, view.byteLength))
    this.block[SLOT.peopleCount] = peopleCount
    this.block[SLOT.popGroups] = POP_GROUPS
    this.block[SLOT.full] = 0
  }

  private place(name: keyof typeof SLOT): number {
    return this.places.get(name) as number
  }

  private write(name: keyof typeof SLOT, view: ArrayBufferView): void {
    new Uint8Array(this.memory.buffer, this.place(name), view.byteLength).set(new Uint8Array(view.buffer, view.byteOffset, view.byteLength))
  }

  /** Matches a plain line; the arrays are copies. */
  match(lanes: FullLanes, leastSincePop: number): KernelRows & { byGroup: Float64Array } {
    this.write('postal', lanes.postal)
    this.write('demographic', lanes.demographic)
    this.write('tongue', lanes.tongue)
    this.write('job', lanes.job)
    this.write('profile', lanes.profile)
    this.write('employer', lanes.employer)
    this.write('cell', lanes.cell)
    this.write('fixed', lanes.fixed)
    this.write('pathFails', lanes.path)
    this.write('deviceFails', lanes.device)
    this.write('pageFails', lanes.page)
    this.write('stateFails', lanes.state)
    this.block[SLOT.leastSincePop] = leastSincePop
    const { buffer } = this.memory
    const byGroup = new Float64Array(buffer, this.place('byGroup'), 2 * GROUPS).fill(0)
    const total = this.exports.matchRows(1024)
    const people = this.block[SLOT.peopleFound]
    const found = {
      people: new Uint32Array(buffer, this.place('outPeople'), people).slice(), starts: new Uint32Array(buffer, this.place('outStarts'), people + 1).slice(),
      rows: new Uint32Array(buffer, this.place('outRows'), total).slice(), need: new Uint32Array(buffer, this.place('outNeed'), total).slice(), pay: new Uint32Array(buffer, this.place('outPay'), total).slice(),
      minute: new Uint16Array(buffer, this.place('outMinute'), total).slice(), visits: new Uint32Array(buffer, this.place('outVisits'), total).slice(), group: new Uint8Array(buffer, this.place('outGroup'), total).slice(), byGroup: byGroup.slice()
    }
    this.loaded = found
    return found
  }

  /** Puts a match back into memory when another has taken its place. */
  private load(rows: KernelRows): void {
    if (this.loaded?.need === rows.need && this.loaded.people === rows.people) return
    this.write('outPeople', rows.people)
    this.write('outStarts', rows.starts)
    this.write('outRows', rows.rows)
    this.write('outNeed', rows.need)
    this.write('outPay', rows.pay)
    this.write('outMinute', rows.minute)
    this.write('outVisits', rows.visits)
    this.write('outGroup', rows.group)
    this.loaded = rows
  }

  /** Standing of matched rows at a bid: at or over the floor, first, second, by group. */
  standing(rows: KernelRows, bid: number): { eligible: Float64Array; first: Float64Array; second: Float64Array } {
    this.load(rows)
    const out = new Float64Array(this.memory.buffer, this.place('standing'), 3 * GROUPS).fill(0)
    this.block[SLOT.persons] = rows.people.length
    this.block[SLOT.bid] = Math.min(bid, 0xfffffffe)
    this.exports.standRows(1024)
    return { eligible: out.slice(0, GROUPS), first: out.slice(GROUPS, 2 * GROUPS), second: out.slice(2 * GROUPS) }
  }

  /** Replays a plain line at a bid in micros an impression. */
  replay(rows: KernelRows, bid: number, dataMicros: number, timeline: Timeline, caps: readonly Cap[], gapMinutes: number, full: boolean, every: number) {
    this.load(rows)
    const { buffer } = this.memory
    const { time, clock, firstMinute, repeats, days, kind } = timeline
    const slots = days * 24
    const groups = full ? GROUPS : 1
    this.write('time', time)
    const slotOf = new Int16Array(buffer, this.place('slotOf'), PASS_MINUTES)
    for (let minute = 0; minute < PASS_MINUTES; minute++) slotOf[minute] = clock[minute] < 0 ? -1 : (clock[minute] / 60) | 0
    this.write('capTimes', Int32Array.from(caps, (cap) => cap.times))
    this.write('capMinutes', Int32Array.from(caps, (cap) => cap.hours * 60))
    const slotSpend = new Float64Array(buffer, this.place('slotSpend'), groups * slots).fill(0)
    const slotWins = new Float64Array(buffer, this.place('slotWins'), groups * slots).fill(0)
    const totals = new Float64Array(buffer, this.place('totals'), TOTALS).fill(0)
    const set = (name: keyof typeof SLOT, value: number) => (this.block[SLOT[name]] = value)
    set('persons', rows.people.length)
    set('bid', Math.min(bid, 0xfffffffe))
    set('data', dataMicros)
    set('repeats', repeats)
    set('firstMinute', firstMinute)
    set('span', timeline.span)
    set('slots', slots)
    set('caps', caps.length)
    set('gap', gapMinutes)
    set('full', full ? 1 : 0)
    set('every', every)
    set('isFlight', kind === 'flight' ? 1 : 0)
    this.exports.replayRows(1024)
    const measure = (n: number, scale = 1) => Float64Array.from({ length: groups }, (_, g) => totals[n * GROUPS + g] / scale)
    const byGroup: GroupTotals = { wins: measure(0), spend: measure(1), reach: measure(2), clearing: measure(3), views: measure(4, 1e6), visits: measure(5, 1e6), conversions: measure(6, 1e6) }
    const after = MEASURES_KEPT * GROUPS
    return { wins: totals[after], reach: totals[after + 1], squares: totals[after + 2], frequency: Array.from(totals.subarray(after + 3, after + 13)), slotSpend: slotSpend.slice(), slotWins: slotWins.slice(), byGroup }
  }
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

/** Most rows that one person can have in a kernel's replay: what the kernel keeps room for. */
export const KERNEL_ENTRIES = 2 * TAPE_DAYS * 63
