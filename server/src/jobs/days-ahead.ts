import type { Worker } from 'node:worker_threads'
import { opportunitiesOver, type MarketDay } from '@tin-harbor/core/market'
import type { DayWanted, SharedDay, SharedWorld } from './messages.js'
import { droppedShared } from './shared-memory.js'
import { startWorker } from './threads.js'

/** Threads that make days, so that the next is there when the last is sold. */
const MAKERS = 2
/** A thread that has made nothing for so long is ended: what it needed for a day is memory that others can use. */
const IDLE_MS = 15_000

interface Maker {
  worker: Worker
  busy: number
  idle: ReturnType<typeof setTimeout> | undefined
}

/** Market days made by threads of their own, at most one ahead of the day that is sold. */
export class DaysAhead {
  private makers: Maker[] = []
  private readonly days = new Map<number, Promise<MarketDay>>()
  private readonly waiting = new Map<number, (day: SharedDay) => void>()
  /**
   * Memory of days that were sold, for the next ones: nothing tells a thread that it holds shared memory of others, so that it
   * would let it go late or never.
   */
  private free: SharedArrayBuffer[] = []

  constructor(private readonly world: SharedWorld) {}

  /** The day, and the start of the next ones before `until`; days before it are forgotten, and their rows must not be read any more. */
  get(day: number, until: number): Promise<MarketDay> {
    for (const [known, made] of this.days) if (known < day) this.letGo(known, made)
    for (let next = day; next < Math.min(until, day + MAKERS); next++) if (!this.days.has(next)) this.days.set(next, this.make(next))
    return this.days.get(day) ?? this.make(day)
  }

  private letGo(day: number, made: Promise<MarketDay>): void {
    this.days.delete(day)
    void made.then(({ rows }) => this.free.push(rows.key.buffer as SharedArrayBuffer))
  }

  private make(day: number): Promise<MarketDay> {
    const maker = this.maker()
    clearTimeout(maker.idle)
    maker.busy++
    return new Promise((resolve) => {
      const memory = this.free.pop() ?? null
      this.waiting.set(day, ({ buffer, count, hourStart }) => {
        // The market grows: what was too small for the day is of no more use.
        if (memory && buffer.byteLength !== memory.byteLength) droppedShared(memory.byteLength)
        if (--maker.busy === 0) maker.idle = setTimeout(() => this.end(maker), IDLE_MS)
        resolve({ rows: opportunitiesOver(buffer, count), hourStart })
      })
      maker.worker.postMessage({ day, memory } satisfies DayWanted)
    })
  }

  /** The least busy thread; started when first needed. */
  private maker(): Maker {
    const free = this.makers.find((maker) => maker.busy === 0)
    if (free) return free
    if (this.makers.length < MAKERS) {
      const worker = startWorker('day', this.world)
      worker.on('message', (day: SharedDay) => {
        const take = this.waiting.get(day.day)
        this.waiting.delete(day.day)
        take?.(day)
      })
      // Without its makers a market thread is of no use: its runner starts another.
      worker.on('error', (error) => {
        throw error
      })
      this.makers.push({ worker, busy: 0, idle: undefined })
      return this.makers[this.makers.length - 1]
    }
    return this.makers.reduce((least, other) => (other.busy < least.busy ? other : least))
  }

  private end(maker: Maker): void {
    this.makers = this.makers.filter((other) => other !== maker)
    void maker.worker.terminate()
    if (this.makers.length > 0) return
    droppedShared(this.free.reduce((bytes, memory) => bytes + memory.byteLength, 0))
    this.free = []
  }
}
