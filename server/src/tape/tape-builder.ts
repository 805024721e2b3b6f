import { EventEmitter } from 'node:events'
import { peopleBytes, type Given, type WorldSize } from '@tin-harbor/core/market'
import { TAPE_DAYS } from '@tin-harbor/core/tape'
import type { PeopleWork, TapeThread, TapeWork } from './messages.js'
import type { SharedPeople, SharedTape, SharedWorld } from '../threads/shared-world.js'
import { droppedShared } from '../threads/shared-memory.js'
import type { Thread } from '../threads/thread.js'
import type { Threads } from '../threads/threads.js'

/** Threads that fill in the people of a world; it is the same world on any number. */
const FILLERS = 2
/** Times a share of the people, and a tape, is tried when the thread dies over it. */
const FILLS = 2
const BUILDS = 4

/**
 * Has the world's people filled in and tapes made, in threads of their own. Events: `progress` (share 0 to 1), `tape` (SharedTape,
 * milliseconds, how it was made), `refused` (why a file was not used), `trouble` (error of a tape that could not be made).
 */
export class TapeBuilder extends EventEmitter {
  private readonly thread: Thread<TapeWork>
  /** The world's memory; its people are there once `ready` settles. */
  readonly world: SharedWorld
  readonly ready: Promise<void>
  private building: number | null = null
  private wanted: number | null = null
  private isFilled = false
  private closed = false
  current: SharedTape | null = null

  constructor(
    private readonly threads: Threads,
    size: WorldSize,
    given: Given,
    folder: string | null = null
  ) {
    super()
    this.world = { size, people: new SharedArrayBuffer(peopleBytes(size.people)), given }
    this.thread = threads.make<TapeWork>('tape', {
      data: { ...this.world, folder } satisfies TapeThread,
      isKept: true,
      greet: () => (this.isFilled ? [{ kind: 'people', body: null }] : [])
    })
    const share = (n: number) => Math.floor((size.people * n) / FILLERS)
    this.ready = Promise.all(Array.from({ length: FILLERS }, (_, n) => this.fill(share(n), share(n + 1)))).then(() => {
      this.isFilled = true
      this.thread.notify('people', null)
    })
    // Whoever waits for it hears of a failure; nobody has to.
    this.ready.catch(() => undefined)
  }

  private async fill(from: number, to: number): Promise<void> {
    const { size, people } = this.world
    const filler = this.threads.make<PeopleWork>('people', { data: { size, people } satisfies SharedPeople })
    try {
      await filler.request('fill', { from, to }, { tries: FILLS })
    } finally {
      await filler.close()
    }
  }

  /** Builds the tape that ends with `lastDay`; the old one serves until the new one is whole. */
  build(lastDay: number): void {
    if (this.closed) return
    if (this.building === null && this.current && this.current.head.firstDay + TAPE_DAYS - 1 === lastDay) return
    if (this.building !== null) {
      this.wanted = lastDay
      return
    }
    this.building = lastDay
    void this.thread
      .request('build', { lastDay }, { tries: BUILDS, onTold: (told) => this.onTold(told) })
      .catch((error: unknown) => this.closed || this.emit('trouble', error))
      .then(() => {
        const { wanted } = this
        this.building = this.wanted = null
        if (wanted !== null && wanted !== lastDay) this.build(wanted)
      })
  }

  private onTold(told: TapeWork['requests']['build']['tells']): void {
    if (told.kind === 'refused') this.emit('refused', told.reason)
    else if (told.kind === 'progress') this.emit('progress', told.of > 0 ? told.done / told.of : 0)
    else {
      if (this.current) droppedShared(this.current.buffer.byteLength)
      this.current = told.tape
      this.emit('tape', told.tape, told.milliseconds, told.how)
    }
  }

  async close(): Promise<void> {
    this.closed = true
    await this.thread.close()
  }
}
