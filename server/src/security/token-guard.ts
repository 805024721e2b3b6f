import type { Request } from 'express'
import { LRUCache } from 'lru-cache'
import { AppError } from '../http/errors.js'
import { sessionToken } from './cookies.js'
import type { Actor } from './sessions.js'
import { actorOfToken } from './tokens.js'

/** Calls of one token in a minute. */
export const MOST_CALLS = 600
/** Wrong tokens of one address in a minute, after which it is told to wait. A right one is never held up by them. */
const MOST_WRONG = 60
const WINDOW_MS = 60_000
const MOST_KNOWN = 20_000

interface Counted {
  calls: number
  ends: number
}

/** Counts in windows of a minute, by name. */
class Counters {
  private readonly counts = new LRUCache<string, Counted>({ max: MOST_KNOWN })

  constructor(private readonly now: () => number) {}

  /** Counts one more. @returns how many there were in the window, and the seconds that are left of it */
  count(name: string): { calls: number; seconds: number } {
    const known = this.counts.get(name)
    const counted = known && known.ends > this.now() ? known : { calls: 0, ends: this.now() + WINDOW_MS }
    counted.calls++
    this.counts.set(name, counted)
    return { calls: counted.calls, seconds: Math.ceil((counted.ends - this.now()) / 1000) }
  }
}

/** Lets calls by token in: so many a minute, told as headers (draft-ietf-httpapi-ratelimit-headers-08), and slows down who guesses. */
export class TokenGuard {
  private readonly calls: Counters
  private readonly wrong: Counters

  constructor(now: () => number = Date.now) {
    this.calls = new Counters(now)
    this.wrong = new Counters(now)
  }

  /** Who a token acts for. @throws where it is none, comes with a cookie, or asks too often */
  async actorOf(req: Request, secret: string, instance: string): Promise<Actor> {
    if (sessionToken(req, instance) !== undefined) throw new AppError(400, 'two-keys', 'Send a token or a cookie, not both.')
    let actor: Actor
    try {
      actor = await actorOfToken(secret)
    } catch (error) {
      if (!(error instanceof AppError) || error.status !== 401) throw error
      const { calls, seconds } = this.wrong.count(req.ip ?? '')
      if (calls <= MOST_WRONG) throw error
      req.res?.set('retry-after', String(seconds))
      throw new AppError(429, 'too-many', `Too many wrong tokens; wait ${seconds} s.`)
    }
    const { calls, seconds } = this.calls.count(`${actor.token?.id ?? 0}`)
    const left = Math.max(0, MOST_CALLS - calls)
    req.res?.set('ratelimit-policy', `"calls";q=${MOST_CALLS};w=${WINDOW_MS / 1000}`).set('ratelimit', `"calls";r=${left};t=${seconds}`)
    if (calls > MOST_CALLS) {
      req.res?.set('retry-after', String(seconds))
      throw new AppError(429, 'too-many', `This token asked ${MOST_CALLS} times in a minute; wait ${seconds} s.`)
    }
    return actor
  }
}
