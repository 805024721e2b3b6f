import { seeded } from '../../../scripts/seeded.mjs'
import { campaignDraft, lineDraft } from './server.js'

/** A call that is right, from which malformed ones are made. */
export interface Base {
  method: 'POST' | 'PUT' | 'GET' | 'DELETE'
  path: string
  body?: unknown
}

/** A malformed call, ready to be sent. */
export interface Call {
  method: string
  path: string
  /** Text of the body, whatever it is; null for none. */
  text: string | null
  type: string
}

/** Numbers of objects that are there. */
export interface Known {
  advertiserId: number
  campaignId: number
  lineId: number
  version: number
  listId: number
  adId: number
  creativeId: number
}

/** One right call of every route that takes a body or an address with questions. */
export function basesOf({ advertiserId, campaignId, lineId, version, listId }: Known): Base[] {
  const line = lineDraft({
    hours: { clock: 'viewer', perMille: Array.from({ length: 168 }, (_, n) => (n % 24 > 6 ? 1000 : 0)) },
    gapMinutes: 30,
    price: {
      model: 'CPM',
      bidMicros: 2_500_000,
      maxMicros: 3_000_000,
      adjustments: [{ dimension: 'device', value: 'phone', perMille: 1200, ownMicros: null }],
      repeatDiscount: 100,
      steps: [{ after: 'days live', from: 3, bidMicros: 2_000_000 }]
    },
    targeting: {
      restrictions: [
        { dimension: 'where', mode: 'include', values: ['GB'] },
        { dimension: 'keyword', mode: 'exclude', values: ['telescope'], list: listId },
        {
          dimension: 'segments',
          mode: 'include',
          values: [],
          group: { join: 'or', parts: ['in-market: cars', { join: 'not', parts: ['x'] }] }
        }
      ]
    }
  })
  const sentence = {
    formats: ['display'],
    targeting: { restrictions: [{ dimension: 'device', mode: 'include', values: ['phone'] }] },
    hours: null
  }
  const list = { name: 'Words', kind: 'keywords', values: ['telescope'], group: null }
  return [
    { method: 'POST', path: '/session', body: { email: 'nobody@x.example', password: 'x' } },
    {
      method: 'POST',
      path: '/market/survey',
      body: { page: 'fuzz', sentence, by: ['country'], compare: [1], without: null, bidMicros: 1_000_000 }
    },
    { method: 'POST', path: '/market/run', body: { hours: 1 } },
    { method: 'POST', path: '/market/run', body: { to: 5, secondsAnHour: 1 } },
    {
      method: 'POST',
      path: `/advertisers/${advertiserId}/campaigns`,
      body: campaignDraft({ caps: [{ times: 2, hours: 24 }], target: { measure: 'CPA', value: 1 }, linkTail: 'a=b', note: 'x\ny' })
    },
    { method: 'PUT', path: `/campaigns/${campaignId}`, body: { version, campaign: campaignDraft() } },
    { method: 'PUT', path: `/campaigns/${campaignId}/daily-budgets`, body: { parts: [{ line: lineId, version, dailyMicros: 300_000 }] } },
    { method: 'POST', path: `/campaigns/${campaignId}/lines`, body: line },
    { method: 'PUT', path: `/lines/${lineId}`, body: { version, line } },
    { method: 'POST', path: `/lines/${lineId}/preflight`, body: { line } },
    { method: 'POST', path: `/lines/${lineId}/copy`, body: { name: 'x', campaignId: null } },
    { method: 'POST', path: `/lines/${lineId}/campaign`, body: { campaignId } },
    { method: 'POST', path: `/lines/${lineId}/label`, body: { tags: ['x'], template: false } },
    { method: 'POST', path: `/lines/${lineId}/live`, body: { version, token: 'fuzz-token' } },
    { method: 'POST', path: `/lines/${lineId}/move`, body: { move: 'pause' } },
    { method: 'POST', path: `/lines/${lineId}/left-out`, body: { placements: ['a.example: page head'], out: true } },
    { method: 'POST', path: `/lines/${lineId}/ads`, body: { creatives: [1] } },
    { method: 'POST', path: `/lines/${lineId}/creatives`, body: { file: 'x' } },
    { method: 'POST', path: `/lines/${lineId}/here`, body: {} },
    { method: 'POST', path: '/forecast', body: { page: 'fuzz', number: 1, campaignId, lineId, line } },
    { method: 'POST', path: '/lists', body: { advertiserId: null, list } },
    {
      method: 'PUT',
      path: `/lists/${listId}`,
      body: { version: 1, rename: { from: 'Words', to: 'Words' }, add: ['eclipse'], remove: ['telescope'] }
    },
    { method: 'DELETE', path: '/lists/99999' },
    { method: 'POST', path: '/lists/read', body: { kind: 'keywords', text: 'telescope, "star chart"', has: ['eclipse'] } },
    {
      method: 'POST',
      path: '/deals/asks',
      body: {
        publisher: 1,
        format: 'display',
        kind: 'floor',
        priceMicros: 1_000_000,
        volume: 1000,
        about: 'science',
        videoKind: null,
        note: ''
      }
    },
    { method: 'POST', path: '/deals/asks/1/take', body: {} },
    { method: 'POST', path: '/slips', body: { name: 'x', items: [{ line: lineId, fields: ['pacing', 'price.bidMicros'] }] } },
    { method: 'POST', path: '/slips/live', body: { name: 'x', items: [{ line: lineId, fields: ['pacing'] }], token: 'fuzz-slip' } },
    { method: 'POST', path: '/slips/1/live', body: { token: 'fuzz-slip' } },
    { method: 'DELETE', path: '/slips/99999' },
    { method: 'GET', path: '/reports?by=line&from=2026-02-16&to=2026-03-01&windowHours=24' },
    { method: 'GET', path: `/campaigns/${campaignId}/shop-visits?from=2026-02-16&to=2026-03-01&line=${lineId}` },
    { method: 'GET', path: `/lines/${lineId}/trace?from=1300&to=1400` },
    { method: 'GET', path: `/opportunity?hour=1400&nth=2&line=${lineId}&sought=won&after=-1` },
    { method: 'GET', path: `/lines/${lineId}/results?from=2026-02-16&to=2026-03-01` },
    { method: 'GET', path: '/market/property?property=3' },
    { method: 'POST', path: `/lines/${lineId}/ads/removed`, body: { ads: [1] } }
  ]
}

const deep = (depth: number, leaf: unknown): unknown => (depth === 0 ? leaf : [deep(depth - 1, leaf)])
const HOSTILE: readonly unknown[] = [
  null,
  true,
  false,
  0,
  -1,
  1,
  1.5,
  -0,
  1e308,
  -1e308,
  2 ** 31,
  2 ** 53,
  2 ** 53 + 2,
  1e-7,
  '',
  ' ',
  'x',
  '0',
  '-1',
  'null',
  'constructor',
  '__proto__',
  'toString',
  'hasOwnProperty',
  'length',
  '\u0000',
  'a\u0000b',
  '\ud800',
  '\udc00x',
  '\u202ex',
  '\ufeff',
  'é'.repeat(60),
  '𝒳',
  "'; DROP TABLE line; --",
  '<script>alert(1)</script>',
  '=1+1',
  '../../etc/passwd',
  '${7*7}',
  '%00',
  'x'.repeat(5000),
  '2026-02-30',
  '0000-00-00',
  '9999-12-31',
  'Infinity',
  'NaN',
  '1e5',
  '10.0.0.0/0',
  'near:91,181,-5',
  'post:XX 0',
  'city:',
  '>=',
  [],
  [null],
  [[]],
  [{}],
  ['constructor'],
  {},
  { toString: 1 },
  { length: 5 },
  { constructor: 1 },
  { then: 1 },
  { valueOf: null },
  deep(40, 1),
  deep(200, {}),
  new Array(300).fill(0),
  new Array(50).fill(null),
  { join: 'and', parts: [null] },
  { join: 'not', parts: deep(20, 'x') }
]
/** Those that an address can hold: halves of pairs cannot be written there. */
const PLAIN = HOSTILE.filter((value) => typeof value !== 'object')
  .map(String)
  .filter((text) => !/\p{Cs}/u.test(text))
const KEYS = [
  'constructor',
  '__proto__',
  'toString',
  'prototype',
  'hasOwnProperty',
  'extra',
  '',
  ' ',
  'a.b',
  'a[0]',
  '"',
  '\u0000',
  'x'.repeat(300),
  'length',
  'then'
] as const

type Random = (below: number) => number
interface Spot {
  of: Record<string, unknown> | unknown[]
  key: string | number
}

function spotsOf(value: unknown, into: Spot[] = []): Spot[] {
  if (typeof value !== 'object' || value === null) return into
  for (const key of Array.isArray(value) ? value.keys() : Object.keys(value)) {
    into.push({ of: value as Spot['of'], key })
    spotsOf((value as Record<string, unknown>)[key as string], into)
  }
  return into
}

/** Own property whatever its name: an assignment to `__proto__` would be none. */
const put = (holder: Spot['of'], key: string | number, value: unknown) =>
  Object.defineProperty(holder, key, { value, enumerable: true, configurable: true, writable: true })

function takeOut(holder: Spot['of'], key: string | number): void {
  if (Array.isArray(holder)) holder.splice(Number(key), 1)
  else delete holder[key as string]
}

function mutate(body: unknown, below: Random): unknown {
  const copy = structuredClone(body)
  for (let n = 1 + below(3); n > 0; n--) {
    const spots = spotsOf(copy)
    if (spots.length === 0) return HOSTILE[below(HOSTILE.length)]
    const { of: holder, key } = spots[below(spots.length)]
    const kind = below(8)
    if (kind < 4) put(holder, key, structuredClone(HOSTILE[below(HOSTILE.length)]))
    else if (kind === 4) takeOut(holder, key)
    else if (kind === 5 && Array.isArray(holder)) holder.push(...(structuredClone(holder) as unknown[]))
    else if (kind === 5) put(holder, KEYS[below(KEYS.length)], structuredClone(HOSTILE[below(HOSTILE.length)]))
    else if (kind === 6) put(holder, key, { value: (holder as Record<string, unknown>)[key as string] })
    else put(holder, key, [(holder as Record<string, unknown>)[key as string]])
  }
  return below(40) === 0 ? HOSTILE[below(HOSTILE.length)] : copy
}

/** Breaks the text of a body as lost and turned bytes do. */
function garble(text: string, below: Random): string {
  const cut = below(text.length + 1)
  const kind = below(4)
  if (kind === 0) return text.slice(0, cut)
  if (kind === 1) return text.slice(0, cut) + '{["\u0000,:'[below(7)] + text.slice(cut)
  if (kind === 2) return `${text}${text}`
  return text.replace(/\d+/, '1e999')
}

function garbleAddress(path: string, below: Random): string {
  const hostile = () => encodeURIComponent(PLAIN[below(PLAIN.length)].slice(0, 200))
  const [head, question] = path.split('?')
  if (question === undefined || below(5) === 0) return `${head.replace(/\d+/, () => hostile() || '0')}${question ? `?${question}` : ''}`
  const parts = question.split('&')
  const cut = below(parts.length)
  const [name] = parts[cut].split('=')
  parts[cut] = [`${name}=${hostile()}`, `${name}=`, name, `${name}[]=1`, `${name}=1&${name}=2`, `${name}[x]=1`, `${name}=%ff`, ''][below(8)]
  return `${head}?${parts.join('&')}`
}

/** Malformed calls, the same ones for the same seed. */
export function* malformed(bases: readonly Base[], seed: number): Generator<Call> {
  const random = seeded(seed) as () => number
  const below: Random = (n) => Math.floor(random() * n)
  for (;;) {
    const base = bases[below(bases.length)]
    const path = base.body === undefined || below(12) === 0 ? garbleAddress(base.path, below) : base.path
    const json = base.body === undefined ? null : JSON.stringify(below(12) === 0 ? base.body : mutate(base.body, below))
    const type =
      below(60) === 0
        ? ['text/plain', 'multipart/form-data', 'multipart/form-data; boundary=x', 'application/json; charset=utf-7', ''][below(5)]
        : 'application/json'
    yield { method: base.method, path, text: json === null ? null : below(15) === 0 ? garble(json ?? '', below) : (json ?? ''), type }
  }
}
