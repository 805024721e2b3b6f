import type { SentError } from './thread-errors.js'

/** What a thread can be asked, by name, with what it tells meanwhile and answers; and what it can be told without an answer. */
export interface Threaded {
  requests: Record<string, { asks: unknown; tells: unknown; answers: unknown }>
  notices: Record<string, unknown>
}

export type Requests<T extends Threaded> = keyof T['requests'] & string
export type Asks<T extends Threaded, K extends Requests<T>> = T['requests'][K]['asks']
export type Tells<T extends Threaded, K extends Requests<T>> = T['requests'][K]['tells']
export type Answers<T extends Threaded, K extends Requests<T>> = T['requests'][K]['answers']
export type Notices<T extends Threaded> = T['notices']
export type Notice<T extends Threaded> = { [K in keyof Notices<T> & string]: { kind: K; body: Notices<T>[K] } }[keyof Notices<T> & string]

/** A request, or a notice when `id` is 0. */
export interface ToThread {
  id: number
  kind: string
  asks: unknown
  cancel: SharedArrayBuffer | null
}

export type FromThread =
  | { kind: 'told'; id: number; told: unknown }
  | { kind: 'answer'; id: number; answer: unknown }
  | { kind: 'given-up'; id: number }
  | { kind: 'failed'; id: number; error: SentError }
  /** Threads of the thread's own: how many of a name run now, and the death of one. */
  | { kind: 'own'; thread: string; running: number }
  | { kind: 'death'; thread: string; error: SentError; isAway: boolean }
