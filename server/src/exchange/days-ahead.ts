import { opportunitiesOver, type MarketDay } from '@tin-harbor/core/market'
import type { DayWork } from './messages.js'
import type { SharedWorld } from '../threads/shared-world.js'
import { droppedShared } from '../threads/shared-memory.js'
import type { Thread } from '../threads/thread.js'
import type { Threads } from '../threads/threads.js'

/** Threads that make days, so that the next is there when the last is sold. */
const MAKERS = 2
/** A thread that has made nothing for so long is ended: what it needed for a day is memory that others can use. */
const IDLE_MS = 15_000
/** Times a day is tried when its thread dies. */
const TRIES = 2

interface Maker {
  thread: Thread<DayWork>
  busy: number
  idle: ReturnType<typeof setTimeout> | undefined
}

/** Market days made by threads of their own, at most one ahead of the day that is sold. */
export class DaysAhead {
  private makers: Maker[] = []
  private readonly days = new Map<number, Promise<MarketDay>>()
  /**
   * Memory of days that were sold, for the next ones: nothing tells a thread that it holds shared memory of others, so that it
   * would let it go late or never.
   */
  private free: SharedArrayBuffer[] = []

  constructor(
    private readonly threads: Threads,
    private readonly world: SharedWorld
  ) {}

  /** The day, and the start of the next ones before `until`; days before it are forgotten, and their rows must not be read any more. */
  get(day: number, until: number): Promise<MarketDay> {
    for (const [known, made] of this.days) if (known < day) this.letGo(known, made)
    for (let next = day; next < Math.min(until, day + MAKERS); next++) this.begin(next)
    return this.days.get(day) ?? this.begin(day)
  }

  private begin(day: number): Promise<MarketDay> {
    const known = this.days.get(day)
    if (known) return known
    const made = this.make(day)
    this.days.set(day, made)
    // Whoever waits hears that it failed; whoever asks again has it tried again.
    made.catch(() => this.days.get(day) === made && this.days.delete(day))
    return made
  }

  private letGo(day: number, made: Promise<MarketDay>): void {
    this.days.delete(day)
    made.then(
      ({ rows }) => this.free.push(rows.key.buffer as SharedArrayBuffer),
      () => undefined
    )
  }

  private async make(day: number): Promise<MarketDay> {
    const maker = this.maker()
    clearTimeout(maker.idle)
    maker.busy++
    try {
      const memory = this.free.pop() ?? null
      const { buffer, count, hourStart } = await maker.thread.request('day', { day, memory }, { tries: TRIES })
      // The market grows: what was too small for the day is of no more use.
      if (memory && buffer.byteLength !== memory.byteLength) droppedShared(memory.byteLength)
      return { rows: opportunitiesOver(buffer, count), hourStart }
    } finally {
      if (--maker.busy === 0) maker.idle = setTimeout(() => this.end(maker), IDLE_MS)
    }
  }

  /** The least busy thread; started when first needed. */
  private maker(): Maker {
    const free = this.makers.find((maker) => maker.busy === 0)
    if (free) return free
    if (this.makers.length < MAKERS) {
      const thread = this.threads.make<DayWork>('day', { data: this.world })
      this.makers.push({ thread, busy: 0, idle: undefined })
      return this.makers[this.makers.length - 1]
    }
    return this.makers.reduce((least, other) => (other.busy < least.busy ? other : least))
  }

  private end(maker: Maker): void {
    this.makers = this.makers.filter((other) => other !== maker)
    void maker.thread.close()
    if (this.makers.length > 0) return
    droppedShared(this.free.reduce((bytes, memory) => bytes + memory.byteLength, 0))
    this.free = []
  }
}
