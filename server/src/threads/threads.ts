import type { Threaded } from './thread-messages.js'
import { Thread, type AnyThread, type ThreadKeeper, type ThreadOptions } from './thread.js'

/** Told of each death, by the thread's name, and whether it now stays away for a while. */
export type OnDeath = (thread: string, error: unknown, isAway: boolean) => void

/** How threads of one name fare. */
export interface ThreadCounts {
  running: number
  /** Since the start. */
  deaths: number
}

/** Each runs the file of its name, of the room whose work it does, as the build bundled it. */
const NAMES = ['people', 'day', 'tape', 'forecast', 'market', 'records', 'feed'] as const
export type ThreadName = (typeof NAMES)[number]

/** Told how many threads of a name run, when that changes. */
export type OnRunning = (thread: string, running: number) => void

/** All threads of a process: started here, counted here, and their deaths told. */
export class Threads implements ThreadKeeper {
  private readonly alive = new Set<AnyThread>()
  private readonly deaths = new Map<string, number>()

  constructor(
    private readonly onDeath: OnDeath = () => undefined,
    private readonly onRunning: OnRunning = () => undefined
  ) {}

  /**
   * Makes a thread of this program; always from the bundled file, since workers do not start from TypeScript under a test runner.
   * The compiled folder is named in full, so that it is found from `src` as well.
   */
  make<T extends Threaded>(name: ThreadName, options: Omit<ThreadOptions<T>, 'file'>): Thread<T> {
    return new Thread<T>(name, { ...options, file: new URL(`../../dist/bundled/${name}.worker.js`, import.meta.url) }, this)
  }

  started(thread: AnyThread): void {
    this.alive.add(thread)
    this.onRunning(thread.name, this.runningOf(thread.name))
  }

  ended(thread: AnyThread): void {
    this.alive.delete(thread)
    this.onRunning(thread.name, this.runningOf(thread.name))
  }

  died(thread: string, error: unknown, isAway: boolean): void {
    this.deaths.set(thread, (this.deaths.get(thread) ?? 0) + 1)
    this.onDeath(thread, error, isAway)
  }

  /** Those that run, for counting and for tests that kill them. */
  running(): readonly AnyThread[] {
    return [...this.alive]
  }

  /** Of a name, those of threads included. */
  private runningOf(name: string): number {
    return this.running().reduce((sum, thread) => sum + (thread.name === name ? 1 : 0) + (thread.own.get(name) ?? 0), 0)
  }

  counts(): Record<string, ThreadCounts> {
    const names = [...new Set<string>([...NAMES, ...this.deaths.keys()])]
    return Object.fromEntries(names.map((name) => [name, { running: this.runningOf(name), deaths: this.deaths.get(name) ?? 0 }]))
  }
}
