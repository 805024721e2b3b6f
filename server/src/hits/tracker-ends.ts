import { randomUUID, timingSafeEqual } from 'node:crypto'
import type { IncomingMessage, ServerResponse } from 'node:http'
import { LRUCache } from 'lru-cache'
import { pageProblem, type TrackerReports } from '@tin-harbor/core/buying'
import { InputError, parseInput, yup } from '@tin-harbor/core/input'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import { postbackSignature } from '../advertisers/trackers.js'
import { now } from '../security/sessions.js'
import { Organisation } from '../team/user-model.js'
import { siteScript } from './site-script.js'
import type { ToldConversion } from './told.js'

/** `/t/KEY.js`, `/t/KEY` and `/t/KEY.gif` of pages; `/p/KEY` of servers. */
const PAGE_PATH = '/t/'
const SERVER_PATH = '/p/'
const KEY = /^[0-9a-f]{18}$/
/** How long a tracker is used without looking whether it changed, and how many are remembered. */
const [LASTS_MS, MOST_TRACKERS] = [5000, 500]
const MOST_BYTES = 8 * 1024
/** A postback is told within a day of what it is about, by its own time; a little is given to clocks that go ahead. */
const [TOLD_WITHIN, AHEAD] = [86_400, 600]
/** Refused ones that are noted of a tracker in a minute; what comes beyond is refused, and not noted. */
const NOTED_A_MINUTE = 120
/** What the log has room for of one conversion, in units of the currency. */
const MOST_VALUE = 4000
const GIF = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64')

const said = (what: string, most: number) => yup.string().max(most, `${what} has at most ${most} letters.`).default('')
const value = yup
  .string()
  .default('')
  .matches(/^(\d{1,9}(\.\d{1,6})?)?$/, 'A value is an amount such as 249 or 249.90.')
  .test('most', `A value is at most ${MOST_VALUE.toLocaleString('en')}.`, (text) => Number(text) <= MOST_VALUE)
const whole = (what: string) =>
  yup
    .string()
    .default('')
    .matches(/^\d{0,10}$/, `${what} is a whole number.`)

/** What may be said of a conversion; anything else in the address is the page's own. */
const toldSchema = yup.object({
  click: said('A click id', 200),
  transaction: said('A transaction', 100),
  value,
  currency: yup
    .string()
    .default('')
    .matches(/^([A-Z]{3})?$/, 'A currency is three letters such as EUR.'),
  at: whole('The time'),
  sign: said('A signature', 64),
  called: said('What is called', 100),
  page: said('A page', 1000),
  pages: whole('Pages'),
  seconds: whole('Seconds')
})
type Said = yup.InferType<typeof toldSchema>
const FIELDS = Object.keys(toldSchema.fields)

interface Known {
  tracker: Tracker
  currency: string
}

/** What is answered, and what is kept of it; nothing where it was only looked at. */
interface Answer {
  status: number
  title: string
  field?: string
  keeps?: ToldConversion
}

/** Where conversions are told. What is kept is on the disk before it is answered. */
export class TrackerEnds {
  private readonly trackers = new LRUCache<string, Known>({ max: MOST_TRACKERS, ttl: LASTS_MS })
  private noted = { minute: 0, by: new Map<number, number>() }

  /**
   * @param tell settles once it is on the disk
   * @param isOurs whether a click id is one of ours
   */
  constructor(
    private readonly tell: (told: ToldConversion) => Promise<void>,
    private readonly isOurs: (click: string) => boolean
  ) {}

  /** Null for an address that is none of these. */
  answer(req: IncomingMessage, res: ServerResponse): Promise<void> | null {
    const { url = '' } = req
    if (url.startsWith(SERVER_PATH)) return this.ofServer(req, res, url)
    return url.startsWith(PAGE_PATH) ? this.ofPage(req, res, url) : null
  }

  private async known(key: string): Promise<Known | null> {
    if (!KEY.test(key)) return null
    const known = this.trackers.get(key)
    if (known) return known
    const tracker = await Tracker.findOne({ where: { pathKey: key } })
    if (!tracker) return null
    const { organisationId } = await Advertiser.findByPk(tracker.advertiserId, { rejectOnEmpty: true })
    const { currency } = await Organisation.findByPk(organisationId, { rejectOnEmpty: true })
    const found = { tracker, currency }
    this.trackers.set(key, found)
    return found
  }

  private async ofPage(req: IncomingMessage, res: ServerResponse, url: string): Promise<void> {
    const [path, query = ''] = url.slice(PAGE_PATH.length).split('?')
    const [, key, kind = ''] = /^([^.]*)(?:\.(js|gif))?$/.exec(path) ?? [undefined, '', '']
    const known = await this.known(key ?? '')
    if (!known) return say(res, { status: 404, title: 'No tracker of ours.' })
    if (kind === 'js') {
      const script = siteScript(`http://${req.headers.host ?? 'localhost'}`, known.tracker.pathKey)
      res.writeHead(200, { 'content-type': 'text/javascript; charset=utf-8', 'cache-control': 'max-age=300' }).end(script)
      return
    }
    const answer = this.read(new URLSearchParams(query), (fields) =>
      kind === 'gif' ? this.ofConversion(known, 'image', fields) : this.ofPageTold(known, fields)
    )
    if (answer.keeps) await this.tell(answer.keeps)
    if (answer.status >= 400) return say(res, answer)
    res.writeHead(200, { 'content-type': 'image/gif', 'cache-control': 'no-store', 'access-control-allow-origin': '*' }).end(GIF)
  }

  private async ofServer(req: IncomingMessage, res: ServerResponse, url: string): Promise<void> {
    const [key, query = ''] = url.slice(SERVER_PATH.length).split('?')
    const known = await this.known(key)
    if (!known) return say(res, { status: 404, title: 'No tracker of ours.' })
    const body = await bodyOf(req)
    if (body === null) return say(res, { status: 413, title: `A postback has at most ${MOST_BYTES / 1024} kB.` })
    const fields = new URLSearchParams(query)
    for (const [name, text] of new URLSearchParams(body)) fields.set(name, text)
    const answer = this.read(fields, (one) => this.ofPostback(known, one))
    if (answer.keeps) await this.tell(answer.keeps)
    say(res, answer)
  }

  /** Reads what is said, and answers with what is wrong of it. */
  private read(params: URLSearchParams, answer: (fields: Said) => Answer): Answer {
    try {
      const fields = Object.fromEntries(FIELDS.flatMap((name) => (params.has(name) ? [[name, params.get(name)]] : [])))
      return answer(parseInput(toldSchema, fields))
    } catch (error) {
      if (!(error instanceof InputError)) throw error
      const [{ field, message }] = error.issues
      return { status: 422, title: message, field }
    }
  }

  /** A page that our script tells: most are no event, of which nothing is kept. */
  private ofPageTold(known: Known, fields: Said): Answer {
    const { tracker } = known
    const page = {
      path: pathOf(fields.page),
      called: fields.called,
      pages: Number(fields.pages || 1),
      seconds: Number(fields.seconds || 0)
    }
    const problem = pageProblem({ name: tracker.name, pages: tracker.pages ?? undefined }, page)
    return problem === null ? this.ofConversion(known, 'script', fields) : { status: 200, title: problem }
  }

  private ofConversion({ tracker, currency }: Known, how: TrackerReports, fields: Said): Answer {
    if (how !== tracker.reports)
      return { status: 409, title: `This tracker is told by ${WORDS[tracker.reports]}, and not by ${WORDS[how]}.`, field: 'how' }
    const keeps = conversionOf(tracker, how, fields)
    if (fields.currency !== '' && fields.currency !== currency)
      return this.refused(
        tracker,
        { status: 422, title: `Values are in ${currency}; this one is in ${fields.currency}.`, field: 'currency' },
        {
          ...keeps,
          valueMicros: 0,
          refused: { outcome: 'currency', says: `${fields.value || 'no value'} in ${fields.currency}; values are in ${currency}` }
        }
      )
    const answer = { status: 202, title: 'Kept.' }
    // Whoever has no click of ours may say it as often as they like: so many of them are noted.
    return this.isOurs(fields.click) ? { ...answer, keeps } : this.refused(tracker, answer, keeps)
  }

  private ofPostback(known: Known, fields: Said): Answer {
    const { tracker } = known
    const keeps = conversionOf(tracker, 'server', fields)
    const { click, transaction, currency } = fields
    const should = Buffer.from(postbackSignature(tracker.secret, { click, transaction, value: fields.value, currency, at: fields.at }))
    const is = Buffer.from(fields.sign)
    if (is.length !== should.length || !timingSafeEqual(is, should))
      return this.refused(
        tracker,
        { status: 403, title: 'The signature does not fit what is said.', field: 'sign' },
        {
          ...keeps,
          refused: { outcome: 'forged', says: fields.sign === '' ? 'without a signature' : 'The signature does not fit what is said.' }
        }
      )
    const age = now() - Number(fields.at || 0)
    if (fields.at === '' || age > TOLD_WITHIN || age < -AHEAD)
      return this.refused(
        tracker,
        {
          status: 422,
          title:
            fields.at === ''
              ? 'A postback says when it was made, in seconds since 1970.'
              : 'A postback is told within a day, by its own time.',
          field: 'at'
        },
        {
          ...keeps,
          refused: { outcome: 'old', says: fields.at === '' ? 'without its time' : `${Math.round(Math.abs(age) / 3600)} hours off` }
        }
      )
    return this.ofConversion(known, 'server', fields)
  }

  /** Of no use, and noted for whoever looks why; a flood is not. */
  private refused(tracker: Tracker, answer: Answer, keeps: ToldConversion): Answer {
    const minute = Math.floor(now() / 60)
    if (this.noted.minute !== minute) this.noted = { minute, by: new Map() }
    const n = (this.noted.by.get(tracker.id) ?? 0) + 1
    this.noted.by.set(tracker.id, n)
    return n > NOTED_A_MINUTE ? answer : { ...answer, keeps }
  }
}

const WORDS: Readonly<Record<TrackerReports, string>> = { script: 'our script', image: 'an image', server: 'a server' }

const conversionOf = (tracker: Tracker, how: TrackerReports, { click, transaction, value: told, page }: Said): ToldConversion => ({
  told: randomUUID(),
  tracker: tracker.id,
  how,
  click,
  transaction,
  valueMicros: told === '' ? null : Math.round(Number(told) * 1e6),
  page,
  toldAt: now(),
  refused: null
})

function pathOf(page: string): string {
  return URL.canParse(page) ? new URL(page).pathname : ''
}

/** A body of at most so many bytes; null for a longer one. */
async function bodyOf(req: IncomingMessage): Promise<string | null> {
  const parts: Buffer[] = []
  let bytes = 0
  for await (const part of req as AsyncIterable<Buffer>) {
    bytes += part.length
    if (bytes <= MOST_BYTES) parts.push(part)
  }
  return bytes > MOST_BYTES ? null : Buffer.concat(parts).toString('utf8')
}

function say(res: ServerResponse, { status, title, field }: Answer): void {
  res.writeHead(status, {
    'content-type': status >= 400 ? 'application/problem+json' : 'application/json',
    'cache-control': 'no-store',
    'access-control-allow-origin': '*'
  })
  res.end(JSON.stringify({ title, ...(field === undefined ? {} : { field }) }))
}
