import { randomUUID } from 'node:crypto'
import type { TestSent, TrackerSetUp } from '@tin-harbor/core/contract'
import type { HitDesk } from '../hits/hit-desk.js'
import { imageTag, scriptTag } from '../hits/site-script.js'
import { ToldConversionRow } from '../hits/told-conversion-model.js'
import { now } from '../security/sessions.js'
import { toldLast } from './tracker-log.js'
import type { Tracker } from './tracker-model.js'
import { postbackSignature, type SignedFields } from './trackers.js'

const ANSWERED_WITHIN_MS = 5000

function postback({ pathKey, secret }: Tracker, home: string, fields: SignedFields): string {
  return `${home}/p/${pathKey}?${new URLSearchParams({ ...fields, sign: postbackSignature(secret, fields) }).toString()}`
}

/** What is built into pages, or what a server sends, with an example of each field. */
export function setUpOf(tracker: Tracker, home: string): TrackerSetUp {
  const { reports, pathKey, secret } = tracker
  const example = { click: '1.i3k-2a.Zm9vYmFyYmF6cXV4', transaction: 'A-17', value: '249.00', currency: 'EUR', at: String(now()) }
  return {
    code: reports === 'script' ? scriptTag(home, pathKey) : reports === 'image' ? imageTag(home, pathKey) : null,
    postback: reports === 'server' ? postback(tracker, home, example) : null,
    secret: reports === 'server' ? secret : null
  }
}

/** Sends a conversion the way that the tracker is told by, over the network, and tells what was answered and noted. */
export async function sendTest(hits: HitDesk, tracker: Tracker, home: string): Promise<TestSent> {
  const { reports, pathKey, pages, name } = tracker
  const click = hits.testOf(tracker.id)
  const transaction = `test-${randomUUID().slice(0, 8)}`
  const value = ((tracker.valueMicros ?? 0) / 1e6).toFixed(2)
  const fields = { click, transaction, value, currency: '', at: String(now()) }
  // The page that our script would tell: one that is the event.
  const example = pages?.which === 'these' ? pages.paths[0].replaceAll('*', 'a') : '/'
  const page = {
    called: pages === null || pages.which === 'called' ? name : pages.which === 'cart' || pages.which === 'purchase' ? pages.which : '',
    page: `https://site.example${example}`,
    pages: String(pages?.leastPages ?? 1),
    seconds: String(pages?.leastSeconds ?? 0)
  }
  const sent =
    reports === 'server'
      ? postback(tracker, home, fields)
      : `${home}/t/${pathKey}${reports === 'image' ? '.gif' : ''}?${new URLSearchParams({ ...fields, ...(reports === 'script' ? page : {}) }).toString()}`
  const response = await fetch(sent, { signal: AbortSignal.timeout(ANSWERED_WITHIN_MS) })
  const type = response.headers.get('content-type') ?? ''
  const answer = type.startsWith('image/') ? 'an image of one pixel' : (await response.text()).slice(0, 500)
  await hits.take()
  const noted = await ToldConversionRow.findOne({ attributes: ['id'], where: { trackerId: tracker.id, transactionId: transaction } })
  return { sent, status: response.status, answer, noted: noted ? ((await toldLast({ told: noted.id })).at(0) ?? null) : null }
}
