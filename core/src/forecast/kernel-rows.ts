import type { KernelTerms } from './kernel-terms.js'
import { BY_RIVAL, FIRST, NEED } from './kernel-layout.js'
import { BID_ITSELF } from './matched.js'
import type { Timeline } from './timeline.js'
import type { Replay } from './totals.js'

/** A plain line at a bid; with `full` groups are told apart, and views, visits and conversions expected. */
export interface KernelPlay extends KernelTerms {
  full: boolean
}

/** What the current bid wins of the two weeks, found while rows were matched. */
export interface EarlyWeeks extends KernelPlay {
  timelines: readonly [Timeline, Timeline]
}

/** What the compiled loops tell of a replay. */
export type KernelReplay = Omit<Replay, 'slots' | 'won' | 'aimed'>

/** A match as it lies in memory: people, the first of each one's rows, and of each row its place on the tape, price word and minute. */
export interface CopiedRows {
  people: Uint32Array
  starts: Uint32Array
  rows: Uint32Array
  words: Uint32Array
  minute: Uint16Array
}

/** Where a match lies. */
interface RowsMemory {
  copyOut(rows: KernelRows): CopiedRows
  /** What a row of the tape takes to win on the market, and what is paid for it. */
  priceWord(row: number): number
}

/**
 * Rows that a kernel matched. They stay in its memory as long as nothing else is matched; what is read of them is copied out
 * when it is first asked for.
 */
export class KernelRows {
  private copied: CopiedRows | null = null
  private needs: Uint32Array | null = null
  private pays: Uint32Array | null = null
  private released = false
  /** Matches that one of our own lines bids for, where any does. */
  private contested: Uint32Array | null = null

  constructor(
    private readonly memory: RowsMemory,
    readonly found: Readonly<{ count: number; persons: number; byGroup: Float64Array }>,
    readonly early: { of: EarlyWeeks; weeks: readonly [KernelReplay, KernelReplay] } | null,
    /** Least bid that gets a row of the tape before our own lines; null for no such line. */
    readonly own: Uint32Array | null
  ) {}

  get count(): number {
    return this.found.count
  }

  get persons(): number {
    return this.found.persons
  }

  get byGroup(): Float64Array {
    return this.found.byGroup
  }

  /** Places of the matches that one of our own lines bids for. @param rows of the tape, by match */
  contestedOf(rows: Uint32Array): Uint32Array {
    const { own } = this
    if (!own) return new Uint32Array(0)
    return (this.contested ??= Uint32Array.from(rows.keys()).filter((m) => own[rows[m]] > 0))
  }

  /** Nobody will ask for more than was copied already. */
  release(): void {
    this.released = true
  }

  /** Called before the memory is written over. */
  leave(): void {
    if (!this.released) this.arrays()
  }

  /** The arrays as they lie in the kernel's memory, copied out. */
  arrays(): CopiedRows {
    return (this.copied ??= this.memory.copyOut(this))
  }

  need(): Uint32Array {
    if (this.needs) return this.needs
    const { rows } = this.arrays()
    const needs = this.prices().map((word) => word & NEED)
    for (const m of this.contestedOf(rows)) needs[m] = Math.max(needs[m], this.own?.[rows[m]] ?? 0)
    return (this.needs = needs)
  }

  pay(): Uint32Array {
    return (this.pays ??= this.prices().map((word) => (word & FIRST ? BID_ITSELF : word & BY_RIVAL ? (word & NEED) - 1 : word & NEED)))
  }

  /** Price words of the market, whatever our own lines take. */
  private prices(): Uint32Array {
    const { rows, words } = this.arrays()
    if (!this.own) return words
    const prices = words.slice()
    for (const m of this.contestedOf(rows)) prices[m] = this.memory.priceWord(rows[m])
    return prices
  }

  /** Early figures of a replay, if they are those. */
  earlyOf(timeline: Timeline, asked: KernelPlay): KernelReplay | null {
    if (!this.early) return null
    const { timelines, ...played } = this.early.of
    const week = timelines.indexOf(timeline)
    return week >= 0 && sameKernelPlay(played, asked) ? this.early.weeks[week] : null
  }
}

function sameKernelPlay(a: KernelPlay, b: KernelPlay): boolean {
  const terms = ({ full, bid, data, caps, gapMinutes, rates }: KernelPlay) =>
    JSON.stringify([full, bid, data, caps.map(({ times, hours }) => [times, hours]), gapMinutes, rates])
  return terms(a) === terms(b)
}
