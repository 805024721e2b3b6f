import { parentPort } from 'node:worker_threads'
import { CancelWord } from './cancel-word.js'
import { sentError } from './thread-errors.js'
import type { Answers, Asks, FromThread, Notices, Requests, Tells, Threaded, ToThread } from './thread-messages.js'
import { Threads } from './threads.js'

/** What a request is answered with besides what it asks. */
export interface Asked<Told> {
  /** Whether nobody waits for the answer any more. */
  cancelled: () => boolean
  tell: (told: Told) => void
}

type Handlers<T extends Threaded> = {
  [K in Requests<T>]: (asks: Asks<T, K>, asked: Asked<Tells<T, K>>) => Answers<T, K> | Promise<Answers<T, K>>
}
type Hearers<T extends Threaded> = { [K in keyof Notices<T> & string]: (body: Notices<T>[K]) => void }

const port = parentPort
const say = (message: FromThread) => port?.postMessage(message)

/** Threads of this thread's own: how they fare is told to whoever started it. */
export const ownThreads = new Threads(
  (thread, error, isAway) => say({ kind: 'death', thread, error: sentError(error), isAway }),
  (thread, running) => say({ kind: 'own', thread, running })
)

/**
 * Answers requests in this thread. An error of a handler is told as such, or as given up when nobody waits; an error of a notice
 * ends the thread, which is then started anew.
 */
export function serve<T extends Threaded>(handlers: Handlers<T>, hearers: Hearers<T>): void {
  if (!port) throw new Error('This file is started as a worker.')
  port.on('message', ({ id, kind, asks, cancel }: ToThread) => {
    if (id === 0) return hearers[kind](asks as never)
    const word = cancel && new CancelWord(cancel)
    const cancelled = () => word !== null && word.isSet
    const fail = (error: unknown) => say(cancelled() ? { kind: 'given-up', id } : { kind: 'failed', id, error: sentError(error) })
    try {
      if (cancelled()) return say({ kind: 'given-up', id })
      const answer = handlers[kind](asks as never, { cancelled, tell: (told) => say({ kind: 'told', id, told }) })
      if (answer instanceof Promise) answer.then((answered) => say({ kind: 'answer', id, answer: answered }), fail)
      else say({ kind: 'answer', id, answer })
    } catch (error) {
      fail(error)
    }
  })
}
