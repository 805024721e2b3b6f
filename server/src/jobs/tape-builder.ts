import { EventEmitter } from 'node:events'
import type { Worker } from 'node:worker_threads'
import { peopleBytes, type WorldSize } from '@tin-harbor/core/market'
import { TAPE_DAYS } from '@tin-harbor/core/tape'
import type { FromTape, PeopleShare, SharedTape, SharedWorld, TapeThread, ToTape } from './messages.js'
import { droppedShared } from './shared-memory.js'
import { startWorker } from './threads.js'

/** Threads that fill in the people of a world; it is the same world on any number. */
const FILLERS = 2

/**
 * Has the world's people filled in and tapes made, in threads of their own.
 * Events: `progress` (share 0 to 1), `tape` (SharedTape, milliseconds, how it was made), `refused` (why a file was not used).
 */
export class TapeBuilder extends EventEmitter {
  private readonly worker: Worker
  /** The world's memory; its people are there once `ready` settles. */
  readonly world: SharedWorld
  readonly ready: Promise<void>
  private building: number | null = null
  private wanted: number | null = null
  current: SharedTape | null = null

  constructor(size: WorldSize, folder: string | null = null) {
    super()
    this.world = { size, people: new SharedArrayBuffer(peopleBytes(size.people)) }
    this.worker = startWorker('tape', { ...this.world, folder } satisfies TapeThread)
    this.worker.on('message', (message: FromTape) => this.onMessage(message))
    const failed = new Promise<void>((_, reject) => this.worker.on('error', reject))
    const filled = Promise.all(Array.from({ length: FILLERS }, (_, n) => this.fill(Math.floor((size.people * n) / FILLERS), Math.floor((size.people * (n + 1)) / FILLERS))))
    this.ready = Promise.race([failed, filled.then(() => this.worker.postMessage({ kind: 'people' } satisfies ToTape))])
    // Whoever waits for it hears of a failure; nobody has to.
    this.ready.catch(() => undefined)
  }

  private fill(from: number, to: number): Promise<void> {
    return new Promise((resolve, reject) => {
      const worker = startWorker('people', { ...this.world, from, to } satisfies PeopleShare)
      worker.once('message', () => resolve()).once('error', reject)
    })
  }

  /** Builds the tape that ends with `lastDay`; the old one serves until the new one is whole. */
  build(lastDay: number): void {
    if (this.building === null && this.current && this.current.head.firstDay + TAPE_DAYS - 1 === lastDay) return
    if (this.building !== null) {
      this.wanted = lastDay
      return
    }
    this.building = lastDay
    this.worker.postMessage({ kind: 'build', lastDay } satisfies ToTape)
  }

  private onMessage(message: FromTape): void {
    if (message.kind === 'refused') {
      this.emit('refused', message.reason)
      return
    }
    if (message.kind === 'progress') {
      this.emit('progress', message.of > 0 ? message.done / message.of : 0)
      return
    }
    const built = this.building
    this.building = null
    if (this.current) droppedShared(this.current.buffer.byteLength)
    this.current = message.tape
    this.emit('tape', message.tape, message.milliseconds, message.how)
    if (this.wanted !== null && this.wanted !== built) this.build(this.wanted)
    this.wanted = null
  }

  async close(): Promise<void> {
    await this.worker.terminate()
  }
}
