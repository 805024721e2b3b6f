import { randomBytes } from 'node:crypto'
import type { IncomingMessage, ServerResponse } from 'node:http'
import type { Logger } from 'pino'
import type { Sequelize } from 'sequelize'
import { PLAYED_EVENTS } from '@tin-harbor/core/creative'
import { now } from '../security/sessions.js'
import { HitKeyRow } from './hit-model.js'
import { HitIds, type Leads, type Passed } from './ids.js'
import { Journal, leftJournals } from './journal.js'
import type { Impressions } from './impressions.js'
import { keepTold } from './taking.js'
import { toldLine, toldOf, type Taking, type Told } from './told.js'
import { TrackerEnds } from './tracker-ends.js'

/** What may be told of an impression. */
const HIT_EVENTS: ReadonlySet<string> = new Set([
  ...PLAYED_EVENTS,
  'impression',
  'viewable',
  'viewed',
  'click',
  'companion',
  'end-card',
  'overlay',
  'error'
])

/** Where players tell what they did: `/e/ID?event=NAME`; and where a click leads on from: `/c/ID`. */
const [EVENT_PATH, CLICK_PATH] = ['/e/', '/c/']
const TAKE_MS = 100
const TAKE_MOST = 2000
/** After a database that was away. */
const AGAIN_MS = 1000
const KEY_DAYS = 30
const DAY = 86_400
/** From which size on a journal of which all was taken gives way to a new one. */
const JOURNAL_BYTES = 32 * 1024 * 1024
/** Hits that wait for the database; more would fill the memory, and are on the disk. */
const MOST_WAITING = 200_000

/**
 * Takes what players and pages tell. A hit is on the disk before it is answered, and goes to the database with others: a server that is
 * killed between reads its journal when it starts again.
 */
export class HitDesk {
  private readonly trackers = new TrackerEnds(
    (told) => this.tell(told),
    (click) => click !== '' && this.ids.read(click) !== null
  )
  private ready: Told[] = []
  private taking: Promise<void> | null = null
  private timer: ReturnType<typeof setTimeout> | undefined
  private isClosed = false

  private constructor(
    private readonly to: Taking,
    private readonly log: Logger,
    private readonly folder: string,
    private journal: Journal,
    private readonly leads: Leads
  ) {}

  get ids(): HitIds {
    return this.to.ids
  }

  /** Begins a journal, after taking what others left. @param folder of journals */
  static async open(
    { sequelize, log, impressions, leads }: { sequelize: Sequelize; log: Logger; impressions: Impressions; leads: Leads },
    folder: string
  ): Promise<HitDesk> {
    const taking = { sequelize, impressions, ids: new HitIds(await keysOf(sequelize)) }
    const journal = await Journal.begin(folder)
    for (const { lines, remove } of await leftJournals(folder, journal.path)) {
      for (let n = 0; n < lines.length; n += TAKE_MOST) await keepTold(taking, lines.slice(n, n + TAKE_MOST).map(toldOf))
      await remove()
    }
    return new HitDesk(taking, log, folder, journal, leads)
  }

  /** A showing of an ad in a preview, signed: each is one of its own. */
  previewOf(ad: number): string {
    return this.ids.sign({ kind: 'preview', ad, nonce: randomBytes(6).toString('hex') })
  }

  /** Where a click on an ad in a preview is followed. */
  clickOf(ad: number): string {
    return `${CLICK_PATH}${this.previewOf(ad)}`
  }

  /** Answers what is told; false for every other address. It stands before the framework, which takes longer than the disk. */
  handle(req: IncomingMessage, res: ServerResponse): boolean {
    const { url = '' } = req
    const answered = url.startsWith(EVENT_PATH)
      ? this.answer(url, res)
      : url.startsWith(CLICK_PATH)
        ? this.lead(url, res)
        : this.trackers.answer(req, res)
    if (!answered) return false
    void answered.catch((err: unknown) => {
      this.log.error({ err }, 'a hit could not be kept')
      // It was not kept, so whoever tells it may tell it again.
      res.writeHead(503, { 'retry-after': '1' }).end()
    })
    return true
  }

  private async answer(url: string, res: ServerResponse): Promise<void> {
    const [path, query = ''] = url.split('?')
    const subject = this.ids.read(path.slice(EVENT_PATH.length))
    const event = new URLSearchParams(query).get('event') ?? 'impression'
    if (!subject || !HIT_EVENTS.has(event)) {
      refuse(res, subject ? 'Nothing is known by this event.' : 'No id of ours.')
      return
    }
    await this.tell({ subject, event, toldAt: now() })
    // Players of other sites tell it too.
    res.writeHead(204, { 'cache-control': 'no-store', 'access-control-allow-origin': '*' }).end()
  }

  /** Leads whoever clicked on to the page of the ad, once the click is on the disk. */
  private async lead(url: string, res: ServerResponse): Promise<void> {
    const [id, query = ''] = url.slice(CLICK_PATH.length).split('?')
    const subject = this.ids.read(id)
    const location = subject && (await this.leads(subject, id, passedIn(query)))
    if (!subject || location === null) {
      refuse(res, subject ? 'What was shown is not there any more.' : 'No id of ours.')
      return
    }
    await this.tell({ subject, event: 'click', toldAt: now() })
    res.writeHead(302, { location, 'cache-control': 'no-store', 'referrer-policy': 'no-referrer' }).end()
  }

  /** Where a click on an impression of the log is followed. */
  clickOn(hour: number, place: number): string {
    return `${CLICK_PATH}${this.ids.sign({ kind: 'impression', hour, place })}`
  }

  /** A click of a test of a tracker. */
  testOf(tracker: number): string {
    return this.ids.sign({ kind: 'test', tracker, nonce: randomBytes(6).toString('hex') })
  }

  /** Settles once it is on the disk. */
  async tell(told: Told): Promise<void> {
    if (this.ready.length > MOST_WAITING) throw new Error('Too many hits wait for the database.')
    await this.journal.append(toldLine(told))
    this.ready.push(told)
    this.soon(TAKE_MS)
  }

  private soon(milliseconds: number): void {
    if (this.isClosed || this.timer) return
    this.timer = setTimeout(() => {
      this.timer = undefined
      void this.take()
    }, milliseconds).unref()
  }

  /** Takes all that waits into the database. */
  async take(): Promise<void> {
    if (this.taking) return this.taking
    this.taking = this.takeAll().finally(() => (this.taking = null))
    return this.taking
  }

  private async takeAll(): Promise<void> {
    try {
      await this.takeReady()
      if (this.journal.size < JOURNAL_BYTES) return
      // What is told from now on goes to a new one; the old one goes once all that it has was taken.
      const old = this.journal
      this.journal = await Journal.begin(this.folder)
      await old.close()
      await this.takeReady()
      await old.remove()
    } catch (error) {
      this.log.warn({ err: error }, 'hits wait: the database is away')
      this.soon(AGAIN_MS)
    }
  }

  private async takeReady(): Promise<void> {
    while (this.ready.length > 0) {
      const told = this.ready.slice(0, TAKE_MOST)
      await keepTold(this.to, told)
      this.ready = this.ready.slice(told.length)
    }
  }

  async close(): Promise<void> {
    this.isClosed = true
    clearTimeout(this.timer)
    await this.take()
    await this.journal.close()
  }
}

/** Letters of a consent string that are passed on. */
const MOST_PASSED = 2000
/** Parameters in which pages hand consent on, as they are usually called. */
const PASSED = { gdpr: 'GDPR', gdpr_consent: 'GDPR_CONSENT', gpp: 'GPP' } as const

function passedIn(query: string): Passed {
  const params = new URLSearchParams(query)
  return Object.fromEntries(Object.entries(PASSED).map(([name, macro]) => [macro, (params.get(name) ?? '').slice(0, MOST_PASSED)]))
}

function refuse(res: ServerResponse, says: string): void {
  res.writeHead(404, { 'content-type': 'text/plain; charset=utf-8', 'cache-control': 'no-store' }).end(says)
}

/** Keys, the newest last; one is made where there is none, or the newest is a month old. */
async function keysOf(sequelize: Sequelize): Promise<{ id: number; secret: Buffer }[]> {
  const read = () => HitKeyRow.findAll({ order: [['id', 'ASC']] })
  let keys = await read()
  if ((keys.at(-1)?.madeAt ?? 0) < now() - KEY_DAYS * DAY) {
    await sequelize.transaction((transaction) =>
      HitKeyRow.create({ secret: randomBytes(32).toString('hex'), madeAt: now() }, { transaction })
    )
    keys = await read()
  }
  return keys.map(({ id, secret }) => ({ id, secret: Buffer.from(secret, 'hex') }))
}
