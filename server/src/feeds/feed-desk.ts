import type { Logger } from 'pino'
import type { Sequelize } from 'sequelize'
import type { FeedView } from '@tin-harbor/core/contract'
import { conflict } from '../http/errors.js'
import { NotFetched, fetchPublic } from '../fetching/public-fetch.js'
import { now } from '../security/sessions.js'
import type { Thread } from '../threads/thread.js'
import { RequestFailedError } from '../threads/thread-errors.js'
import type { Threads } from '../threads/threads.js'
import { Feed } from './feed-model.js'
import { feedView, findFeed } from './feeds.js'
import { keepProblem, keepReading } from './keeping.js'
import type { FeedRead, FeedWork } from './messages.js'
import { settleAds } from './settling.js'

const TYPES = /^(application\/(rss\+xml|atom\+xml|xml|csv|octet-stream)|text\/(xml|csv|plain|html))$/
const MOST_BYTES = 24 * 1024 * 1024
const SECONDS = 30
/** Between two readings of a feed, however fast the market's hours pass. */
const LEAST_SECONDS = 60
const OUR_SIDE = 'Something went wrong on our side, and is noted in the log.'
/** Times a reading is tried that somebody's edit overtook. */
const TRIES = 3

/** Reads feeds: at each market hour, at most once a minute, and when somebody asks. One after the other. */
export class FeedDesk {
  private readonly thread: Thread<FeedWork>
  private turn: Promise<unknown> = Promise.resolve()
  private timer: ReturnType<typeof setTimeout> | undefined
  private hour: number | null = null
  private isClosed = false

  constructor(
    threads: Threads,
    private readonly sequelize: Sequelize,
    private readonly log: Logger
  ) {
    this.thread = threads.make<FeedWork>('feed', { data: null })
  }

  /** Reads a feed anew. What is wrong with the feed itself is told of it, and leaves its items as they are. */
  async read(feedId: number): Promise<FeedView> {
    await this.inTurn(() => this.readNow(feedId))
    return feedView(feedId)
  }

  /** Settles once what others ask for has been done. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const mine = this.turn.then(work)
    this.turn = mine.catch(() => undefined)
    return mine
  }

  private async readNow(feedId: number): Promise<void> {
    if (!(await this.kept(feedId))) throw conflict('The feed was changed again and again while it was read; read it once more.')
    await settleAds(this.sequelize, feedId)
  }

  /** Reads and keeps it, or why it cannot be read; false where edits overtook it each time. */
  private async kept(feedId: number): Promise<boolean> {
    for (let tries = 0; tries < TRIES; tries++) {
      const feed = await findFeed(feedId)
      try {
        if (await keepReading(this.sequelize, feed, await this.fetched(feed), now())) return true
      } catch (error) {
        if (!(error instanceof NotFetched)) throw error
        await keepProblem(this.sequelize, feedId, error.message, now())
        return true
      }
    }
    return false
  }

  /** @throws NotFetched with what is wrong, in words */
  private async fetched({ draft }: Feed): Promise<FeedRead> {
    const { body } = await fetchPublic(draft.address, { types: TYPES, mostBytes: MOST_BYTES, seconds: SECONDS })
    try {
      const data = new Uint8Array(body)
      const read = await this.thread.request('read', { data, draft }, { transfer: [data.buffer] })
      if (read.items.length === 0) throw new NotFetched(nothingIn(read))
      return read
    } catch (error) {
      if (error instanceof RequestFailedError && error.told !== null) throw new NotFetched(error.told)
      throw error
    }
  }

  /** At each market hour, and at the start. Hours that pass within a minute are one. */
  onHour(hour: number): void {
    this.hour = hour
    if (this.isClosed) return
    void this.inTurn(() => this.readDue()).catch((error: unknown) => this.log.error({ err: error }, 'feeds could not be read'))
  }

  private async readDue(): Promise<void> {
    const { hour } = this
    const attributes = ['id', 'readHour', 'readAt', 'unsettled']
    const due = (await Feed.findAll({ attributes, order: [['id', 'ASC']] })).filter(
      ({ readHour, unsettled }) => readHour !== hour || unsettled
    )
    let next = Infinity
    for (const { id, readAt, readHour, unsettled } of due) {
      if (this.isClosed) return
      const wait = (readAt ?? 0) + LEAST_SECONDS - now()
      if (readHour !== hour && wait <= 0) await this.readAlone(id)
      else {
        if (unsettled) await settleAds(this.sequelize, id)
        if (readHour !== hour) next = Math.min(next, wait)
      }
    }
    clearTimeout(this.timer)
    if (next < Infinity && !this.isClosed) this.timer = setTimeout(() => this.onHour(this.hour ?? 0), next * 1000).unref()
  }

  /** Reads one of many: what goes wrong on our side with it keeps none of the others. */
  private async readAlone(id: number): Promise<void> {
    try {
      await this.readNow(id)
    } catch (error) {
      this.log.error({ err: error, feed: id }, 'a feed could not be read')
      await keepProblem(this.sequelize, id, OUR_SIDE, now())
    }
  }

  async close(): Promise<void> {
    this.isClosed = true
    clearTimeout(this.timer)
    await this.thread.close()
    await this.turn
  }
}

function nothingIn({ broken: [first, ...others] }: FeedRead): string {
  if (!first) return 'It has no item that makes an ad.'
  const more = others.length > 0 ? ` And ${others.length} more.` : ''
  return `It has no item that makes an ad. Item ${first.nth}: ${first.says}${more}`
}
