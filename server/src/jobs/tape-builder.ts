import { EventEmitter } from 'node:events'
import type { Worker } from 'node:worker_threads'
import type { WorldSize } from '@tin-harbor/core/market'
import { TAPE_DAYS } from '@tin-harbor/core/tape'
import type { FromTape, SharedTape, SharedWorld, ToTape } from './messages.js'
import { startWorker } from './threads.js'

/** Events: `progress` (share 0 to 1), `tape` (SharedTape). */
export class TapeBuilder extends EventEmitter {
  private readonly worker: Worker
  /** Settled once the people of the world are filled in. */
  readonly world: Promise<SharedWorld>
  private building: number | null = null
  private wanted: number | null = null
  current: SharedTape | null = null

  constructor(size: WorldSize) {
    super()
    this.worker = startWorker('tape', size)
    this.world = new Promise((resolve, reject) => {
      this.worker.on('error', reject)
      this.worker.on('message', (message: FromTape) => {
        if (message.kind === 'world') resolve({ size, people: message.people })
        else this.onMessage(message)
      })
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

  private onMessage(message: Exclude<FromTape, { kind: 'world' }>): void {
    if (message.kind === 'progress') {
      this.emit('progress', message.of > 0 ? message.done / message.of : 0)
      return
    }
    const built = this.building
    this.building = null
    this.current = message.tape
    this.emit('tape', message.tape, message.milliseconds)
    if (this.wanted !== null && this.wanted !== built) this.build(this.wanted)
    this.wanted = null
  }

  async close(): Promise<void> {
    await this.worker.terminate()
  }
}
