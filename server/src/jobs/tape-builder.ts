import { EventEmitter } from 'node:events'
import type { Worker } from 'node:worker_threads'
import { peopleBytes, type WorldSize } from '@tin-harbor/core/market'
import { TAPE_DAYS } from '@tin-harbor/core/tape'
import type { FromTape, PeopleShare, SharedTape, SharedWorld, TapeThread, ToTape } from './messages.js'
import { droppedShared } from './shared-memory.js'
import { startWorker } from './threads.js'

/** Threads that fill in the people of a world; it is the same world on any number. */
const FILLERS = 2

/** Deaths of the thread after which nobody starts it again, so that a tape that kills it is not tried for ever. */
const MOST_DEATHS = 3
/** Times a share of the people is tried. */
const FILLS = 2

/**
 * Has the world's people filled in and tapes made, in threads of their own. A thread that dies is started anew and asked for the tape
 * once more. Events: `progress` (share 0 to 1), `tape` (SharedTape, milliseconds, how it was made), `refused` (why a file was not used),
 * `trouble` (error of a thread that died; whether it is started again).
 */
export class TapeBuilder extends EventEmitter {
  private worker: Worker
  /** The world's memory; its people are there once `ready` settles. */
  readonly world: SharedWorld
  readonly ready: Promise<void>
  private building: number | null = null
  private wanted: number | null = null
  private deaths = 0
  private isFilled = false
  private closed = false
  current: SharedTape | null = null

  constructor(
    size: WorldSize,
    private readonly folder: string | null = null
  ) {
    super()
    this.world = { size, people: new SharedArrayBuffer(peopleBytes(size.people)) }
    this.worker = this.start()
    const share = (n: number) => Math.floor((size.people * n) / FILLERS)
    this.ready = Promise.all(Array.from({ length: FILLERS }, (_, n) => this.fill(share(n), share(n + 1)))).then(() => {
      this.isFilled = true
      this.worker.postMessage({ kind: 'people' } satisfies ToTape)
    })
    // Whoever waits for it hears of a failure; nobody has to.
    this.ready.catch(() => undefined)
  }

  private start(): Worker {
    const worker = startWorker('tape', { ...this.world, folder: this.folder } satisfies TapeThread)
    let why: unknown = null
    worker.on('message', (message: FromTape) => this.onMessage(message))
    worker.on('error', (error) => (why = error))
    worker.on('exit', (code) => this.onExit(why ?? new Error(`The tape thread ended (${code}).`)))
    return worker
  }

  private onExit(error: unknown): void {
    if (this.closed) return
    const again = ++this.deaths <= MOST_DEATHS
    this.emit('trouble', error, again)
    const { building, wanted } = this
    this.building = this.wanted = null
    if (!again) return
    this.worker = this.start()
    if (this.isFilled) this.worker.postMessage({ kind: 'people' } satisfies ToTape)
    const last = wanted ?? building
    if (last !== null) this.build(last)
  }

  private async fill(from: number, to: number): Promise<void> {
    for (let tries = 1; ; tries++) {
      try {
        await new Promise<void>((resolve, reject) => {
          startWorker('people', { ...this.world, from, to } satisfies PeopleShare)
            .once('message', () => resolve())
            .once('error', reject)
            .once('exit', () => reject(new Error('A thread that fills in people ended.')))
        })
        return
      } catch (error) {
        if (tries >= FILLS || this.closed) throw error
      }
    }
  }

  /** Builds the tape that ends with `lastDay`; the old one serves until the new one is whole. */
  build(lastDay: number): void {
    if (this.deaths > MOST_DEATHS) return
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
    this.deaths = 0
    const built = this.building
    this.building = null
    if (this.current) droppedShared(this.current.buffer.byteLength)
    this.current = message.tape
    this.emit('tape', message.tape, message.milliseconds, message.how)
    if (this.wanted !== null && this.wanted !== built) this.build(this.wanted)
    this.wanted = null
  }

  async close(): Promise<void> {
    this.closed = true
    await this.worker.terminate()
  }
}
