import { Worker, type TransferListItem } from 'node:worker_threads'
import type { CancelWord } from './cancel-word.js'
import type { Answers, Asks, FromThread, Notice, Notices, Requests, Tells, Threaded, ToThread } from './thread-messages.js'
import { GivenUpError, RequestFailedError, ThreadAwayError, ThreadDiedError, receivedError } from './thread-errors.js'

/** Deaths without an answer between them after which a thread stays away for a while, so that what kills it is not tried for ever. */
const MOST_DEATHS = 3
/** How long it then stays away. */
const AWAY_MS = 60_000

/** A thread as those see it who count threads. */
export interface AnyThread {
  readonly name: string
  readonly running: Worker | null
  /** Since it last answered. */
  readonly deathsInTurn: number
  /** Threads of its own that run, by name. */
  readonly own: ReadonlyMap<string, number>
}

/** Who counts threads and is told of their deaths. */
export interface ThreadKeeper {
  started: (thread: AnyThread) => void
  ended: (thread: AnyThread) => void
  died: (name: string, error: unknown, isAway: boolean) => void
}

export interface ThreadOptions<T extends Threaded> {
  /** The compiled file of the thread. */
  file: URL
  data: unknown
  /** Whether it is started at once, and anew as soon as it dies, rather than when it is next asked. */
  isKept?: boolean
  /** What it is told first, each time it is started. */
  greet?: () => Notice<T>[]
  /** Told of each death, before anything is asked again. */
  onDeath?: (error: unknown, isAway: boolean) => void
}

export interface RequestOptions<T extends Threaded, K extends Requests<T>> {
  cancel?: CancelWord
  /** Called with what is told before the answer. */
  onTold?: (told: Tells<T, K>) => void
  /** Times it is asked when the thread dies over it; what was told may come again. What is handed over cannot be asked twice. */
  tries?: number
  transfer?: readonly TransferListItem[]
}

interface Waiting {
  message: ToThread
  tries: number
  options: RequestOptions<never, never>
  resolve: (answer: never) => void
  reject: (error: Error) => void
}

/**
 * A thread and whoever waits for it. When it dies, by whatever way, its requests are asked once more where they may be, and are
 * rejected with a ThreadDiedError otherwise; it is started anew, but not for ever.
 */
export class Thread<T extends Threaded> {
  private current: Worker | null = null
  private readonly waiting = new Map<number, Waiting>()
  private next = 1
  deathsInTurn = 0
  readonly own = new Map<string, number>()
  private lastDeath = { when: 0, error: undefined as unknown }
  private closed = false

  constructor(
    readonly name: string,
    private readonly options: ThreadOptions<T>,
    private readonly keeper: ThreadKeeper
  ) {
    if (options.isKept) this.worker()
  }

  /** The running thread; null when none was needed yet, or when it died. */
  get running(): Worker | null {
    return this.current
  }

  get isAway(): boolean {
    return this.deathsInTurn > MOST_DEATHS && performance.now() - this.lastDeath.when < AWAY_MS
  }

  /**
   * Asks the thread, which is started when it is not running. Rejects with a RequestFailedError, GivenUpError, ThreadDiedError or
   * ThreadAwayError.
   */
  request<K extends Requests<T>>(kind: K, asks: Asks<T, K>, options: RequestOptions<T, K> = {}): Promise<Answers<T, K>> {
    return new Promise((resolve, reject) => {
      const id = this.next++
      const message: ToThread = { id, kind, asks, cancel: options.cancel?.buffer ?? null }
      this.post({ message, tries: options.transfer ? 1 : (options.tries ?? 1), options: options as Waiting['options'], resolve, reject })
    })
  }

  /** Tells a thread that runs; one that does not is told by `greet` when it is started. */
  notify<K extends keyof Notices<T> & string>(kind: K, body: Notices<T>[K]): void {
    this.current?.postMessage({ id: 0, kind, asks: body, cancel: null } satisfies ToThread)
  }

  private post(request: Waiting): void {
    if (request.options.cancel?.isSet) return request.reject(new GivenUpError())
    if (this.closed) return request.reject(new ThreadDiedError(this.name, new Error('It was closed.')))
    if (this.isAway) return request.reject(new ThreadAwayError(this.name, this.lastDeath.error))
    request.tries--
    this.waiting.set(request.message.id, request)
    try {
      this.worker().postMessage(request.message, request.options.transfer ?? [])
    } catch (error) {
      this.waiting.delete(request.message.id)
      request.reject(error as Error)
    }
  }

  private worker(): Worker {
    if (this.current) return this.current
    const worker = new Worker(this.options.file, { workerData: this.options.data, execArgv: [] })
    this.current = worker
    this.keeper.started(this)
    let error: unknown = null
    worker.on('message', (message: FromThread) => this.onMessage(message))
    worker.on('error', (thrown) => (error = thrown))
    // An answer that cannot be read would be waited for in vain.
    worker.on('messageerror', (thrown) => {
      error = thrown
      void worker.terminate()
    })
    worker.on('exit', (code) => this.onExit(worker, error ?? new Error(`The ${this.name} thread ended with ${code}.`)))
    for (const { kind, body } of this.options.greet?.() ?? []) this.notify(kind, body)
    return worker
  }

  private onMessage(message: FromThread): void {
    if (message.kind === 'own') {
      this.own.set(message.thread, message.running)
      return
    }
    if (message.kind === 'death') return this.keeper.died(message.thread, receivedError(message.error), message.isAway)
    const request = this.waiting.get(message.id)
    if (!request) return
    if (message.kind === 'told') return request.options.onTold?.(message.told as never)
    this.waiting.delete(message.id)
    this.deathsInTurn = 0
    if (message.kind === 'answer') request.resolve(message.answer as never)
    else if (message.kind === 'given-up') request.reject(new GivenUpError())
    else request.reject(new RequestFailedError(message.error.message, message.error.told, receivedError(message.error)))
  }

  private onExit(worker: Worker, error: unknown): void {
    if (this.current !== worker) return
    this.current = null
    this.own.clear()
    this.keeper.ended(this)
    const requests = [...this.waiting.values()]
    this.waiting.clear()
    if (!this.closed) {
      this.deathsInTurn++
      this.lastDeath = { when: performance.now(), error }
      this.keeper.died(this.name, error, this.isAway)
      this.options.onDeath?.(error, this.isAway)
      if (this.options.isKept && !this.isAway) this.worker()
    }
    for (const request of requests) {
      if (request.tries > 0) this.post(request)
      else request.reject(new ThreadDiedError(this.name, error))
    }
  }

  /** Ends the thread; what still waits is rejected. */
  async close(): Promise<void> {
    this.closed = true
    await this.current?.terminate()
  }
}
