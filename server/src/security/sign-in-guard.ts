import { LRUCache } from 'lru-cache'
import { AppError } from '../http/errors.js'

/** Wrong tries of an account that cost nothing, so that a slip of the finger does not. */
const FREE_TRIES = 3
const FIRST_WAIT_MS = 500
const LONGEST_WAIT_MS = 8_000
/** Tries of one account that wait at once. */
const MOST_WAITING = 3
/** After so long without a try an account begins anew. */
const FORGET_MS = 15 * 60_000
const MOST_ACCOUNTS = 10_000

interface Tries {
  wrong: number
  last: number
  waiting: number
}

const TOO_MANY = 'Too many tries to sign in with this address; wait a moment.'

/**
 * Slows tries to sign in down by account, from whichever addresses they come: each wrong one after the third makes the next wait twice as
 * long. Nobody is locked out by others' tries for more than the longest wait.
 */
export class SignInGuard {
  private readonly accounts = new LRUCache<string, Tries>({ max: MOST_ACCOUNTS })

  constructor(
    private readonly now: () => number = Date.now,
    private readonly sleep: (ms: number) => Promise<void> = (ms) => new Promise((resolve) => setTimeout(resolve, ms))
  ) {}

  /** Tries to sign in, after the wait that the account has earned. @throws too many where others wait already */
  async try<T>(email: string, signIn: () => Promise<T>): Promise<T> {
    const account = email.trim().toLowerCase()
    const tries = this.triesOf(account)
    const wait = tries.wrong < FREE_TRIES ? 0 : Math.min(FIRST_WAIT_MS * 2 ** (tries.wrong - FREE_TRIES), LONGEST_WAIT_MS)
    if (tries.waiting >= MOST_WAITING) throw new AppError(429, 'too-many', TOO_MANY, [{ field: 'password', message: TOO_MANY }])
    tries.waiting++
    try {
      if (wait > 0) await this.sleep(wait)
      const answer = await signIn()
      this.accounts.delete(account)
      return answer
    } catch (error) {
      if (error instanceof AppError && error.code === 'wrong-sign-in') tries.wrong++
      throw error
    } finally {
      tries.waiting--
      tries.last = this.now()
    }
  }

  private triesOf(account: string): Tries {
    const known = this.accounts.get(account)
    const tries = known && this.now() - known.last < FORGET_MS ? known : { wrong: 0, last: this.now(), waiting: known?.waiting ?? 0 }
    this.accounts.set(account, tries)
    return tries
  }
}
