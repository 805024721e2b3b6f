import { failed, superseded } from '../http/errors.js'
import type { OpportunityAsked, RecordsWork } from './messages.js'
import type { CancelWord } from '../threads/cancel-word.js'
import type { SharedWorld } from '../threads/shared-world.js'
import type { Thread } from '../threads/thread.js'
import { GivenUpError, RequestFailedError } from '../threads/thread-errors.js'
import type { Answers, Asks, Requests } from '../threads/thread-messages.js'
import type { Threads } from '../threads/threads.js'

type Logs = OpportunityAsked['logs'][number][]

/** The thread that reads the past; one question after the other. It is started when first asked, and anew when it died. */
export class RecordsDesk {
  private readonly thread: Thread<RecordsWork>

  /** @param ready settles once the world's people are filled in */
  constructor(
    threads: Threads,
    world: SharedWorld,
    private readonly ready: Promise<void>
  ) {
    this.thread = threads.make<RecordsWork>('records', { data: world })
  }

  /** @param word set when nobody waits any more: what was not begun by then is not read */
  async ask<K extends Requests<RecordsWork>>(
    kind: K,
    asks: Asks<RecordsWork, K> & { logs: Logs },
    word?: CancelWord
  ): Promise<Answers<RecordsWork, K>> {
    await this.ready
    // Hours of the log are handed over, not copied.
    const transfer = asks.logs.flatMap((log) => [log.data.buffer as ArrayBuffer, log.events.buffer as ArrayBuffer])
    try {
      return await this.thread.request(kind, asks, { transfer, cancel: word })
    } catch (error) {
      if (error instanceof GivenUpError) throw superseded()
      const told = error instanceof RequestFailedError ? (error.told ?? 'The past could not be read.') : null
      throw failed('records-failed', told ?? 'The thread that reads the past ended; try again.', error)
    }
  }

  async close(): Promise<void> {
    await this.thread.close()
  }
}
