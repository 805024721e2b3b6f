import type { Logger } from 'pino'
import type { FeedView } from '@tin-harbor/core/contract'
import type { Deps } from '../deps.js'
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
const LEAST_MS = 60_000
/** Times a reading is tried that somebody's edit overtook. */
const TRIES = 3

/** Reads feeds: at each market hour, at most once a minute, and when somebody asks. One after the other. */
export class FeedDesk {
  private readonly thread: Thread<FeedWork>
  private readonly readAt = new Map<number, number>()
  private turn: Promise<unknown> = Promise.resolve()
  private timer: ReturnType<typeof setTimeout> | undefined
  private hour: number | null = null
  private isClosed = false

  constructor(
    threads: Threads,
    private readonly sequelize: Deps['sequelize'],
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
    this.readAt.set(feedId, Date.now())
    for (let tries = 0; tries < TRIES; tries++) {
      const feed = await findFeed(feedId)
      let read: FeedRead
      try {
        read = await this.fetched(feed)
      } catch (error) {
        if (!(error instanceof NotFetched)) throw error
        await keepProblem(this.sequelize, feedId, error.message)
        return
      }
      if (await keepReading(this.sequelize, feed, read, now())) {
        await settleAds(this.sequelize, feedId)
        return
      }
    }
    throw conflict('The feed was changed again and again while it was read; read it once more.')
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
    const due = (await Feed.findAll({ attributes: ['id', 'readHour'], order: [['id', 'ASC']] })).filter(({ readHour }) => readHour !== hour)
    const waits = due.map(({ id }) => (this.readAt.get(id) ?? 0) + LEAST_MS - Date.now())
    for (const [n, { id }] of due.entries()) {
      if (this.isClosed) return
      if (waits[n] > 0) await settleAds(this.sequelize, id)
      else await this.readNow(id).catch((error: unknown) => this.log.error({ err: error, feed: id }, 'a feed could not be read'))
    }
    clearTimeout(this.timer)
    const next = Math.min(...waits.filter((wait) => wait > 0))
    if (next < Infinity && !this.isClosed) this.timer = setTimeout(() => this.onHour(this.hour ?? 0), next).unref()
  }

  async close(): Promise<void> {
    this.isClosed = true
    clearTimeout(this.timer)
    await this.thread.close()
    await this.turn
  }
}

const nothingIn = ({ broken: [first, ...others] }: FeedRead) =>
  `It has no item that makes an ad.${first ? ` Item ${first.nth}: ${first.says}${others.length > 0 ? ` And ${others.length} more.` : ''}` : ''}`
