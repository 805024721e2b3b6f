import { afterAll, beforeAll, expect, it } from 'vitest'
import { DIMENSION_KINDS, type Dimension } from '@tin-harbor/core/dimensions'
import { POSTALS, CITIES, COUNTRIES } from '@tin-harbor/core/places'
import { allRoutes } from '../src/all-routes.js'
import { FEW_FIELDS, type Route } from '../src/http/registry.js'
import { DEMO_PASSWORD } from '../src/demo/scenario.js'
import { ADMIN, lineDraft, readyLine, testServer, type TestServer } from './support/server.js'
import { basesOf, type Base, type Known } from './support/fuzzer.js'

/**
 * Longest that any body may keep everybody else waiting, on a processor that parses a megabyte in `PARSED_MS`; on a slower one, or while
 * others have it, as much longer as that takes longer. And how often one that did is tried again.
 */
const MOST_MS = 200
const PARSED_MS = 20
const TRIES = 8
const MEGABYTE = 1024 * 1024

let server: TestServer
let known: Known
let cookie = ''

beforeAll(async () => {
  server = await testServer('holding')
  const admin = await server.as(ADMIN)
  const { lineId, campaignId, version } = await readyLine(admin)
  const list = await admin('POST', '/lists', {
    advertiserId: null,
    list: { name: 'Words', kind: 'keywords', values: ['telescope'], group: null }
  })
  known = { advertiserId: 3, campaignId, lineId, version, listId: list.body.id, adId: 1, creativeId: 1 }
  const session = await server.nobody('POST', '/session', { email: ADMIN, password: DEMO_PASSWORD })
  cookie = (session.headers.get('set-cookie') ?? '').split(';')[0]
})
afterAll(() => server.close())

const SPEED = JSON.stringify(Array.from({ length: 40_000 }, (_, n) => ({ n, words: `value ${n}` })))
/** By how much the processor is slower just now than one on which the bound is meant. */
function slowness(): number {
  const took = Array.from({ length: 5 }, () => {
    const began = performance.now()
    JSON.parse(SPEED)
    return performance.now() - began
  })
  return Math.max(1, took.sort((a, b) => a - b)[2] / PARSED_MS)
}

const filled = (piece: string, bytes: number, between = ',') =>
  Array.from({ length: Math.floor(bytes / (piece.length + 1)) }, () => piece).join(between)

/** The body with something in the place of each list and each text of it, one after the other, as long as `bytes` allow. */
function* grown(body: unknown, bytes: number): Generator<string> {
  const whole = JSON.stringify(body)
  const spots = new Set<string>()
  JSON.stringify(body, (key, value: unknown) => {
    if (key && (Array.isArray(value) || typeof value === 'string')) spots.add(`"${key}":${JSON.stringify(value)}`)
    return value
  })
  const room = bytes - whole.length - 50
  const fills = [`[${filled('7', room)}]`, `[${filled('"a"', room)}]`, `[${filled('{}', room)}]`, `"${'a,'.repeat(room / 2)}"`]
  // Two of them in each place, in turn: four would find the same and take twice as long.
  for (const [n, spot] of [...spots].entries())
    for (const fill of [fills[n % 4], fills[(n + 1) % 4]]) yield whole.replace(spot, () => spot.slice(0, spot.indexOf(':') + 1) + fill)
}

/** Bodies that are of no form at all. */
const wholes = (bytes: number) => [
  `[${filled('7', bytes - 2)}]`,
  `{${Array.from({ length: Math.floor(bytes / 12) }, (_, n) => `"k${n}":1`).join(',')}}`,
  '['.repeat(bytes / 2) + ']'.repeat(bytes / 2),
  `{"a":"${'x'.repeat(bytes - 10)}"}`
]

/** A line that takes as much as it may: every dimension with all the values that it knows, over and over where they are few. */
function fullLine(bytes: number) {
  const values: Partial<Record<Dimension, string[]>> = {
    where: POSTALS.slice(0, 9000).map((postal) => `post:${COUNTRIES[CITIES[postal.city].country].code} ${postal.code}`),
    placement: Array.from({ length: 10_000 }, (_, n) => String(n % 1200)),
    property: Array.from({ length: 10_000 }, (_, n) => String(n % 320)),
    'address range': Array.from({ length: 9000 }, (_, n) => `${1 + (n >> 8)}.${n & 255}.0.0/22`),
    system: Array.from({ length: 9000 }, (_, n) => `${DIMENSION_KINDS.system.values?.[0] ?? ''}>=${n % 90}`)
  }
  const restrictions = (Object.keys(DIMENSION_KINDS) as Dimension[])
    .filter((dimension) => dimension !== 'size')
    .flatMap((dimension) => {
      const { values: listed = ['2020', '60', 'telescope', '1'], mode = 'exclude', isKnown } = DIMENSION_KINDS[dimension]
      const fitting = (values[dimension] ?? listed).filter(isKnown)
      return fitting.length === 0
        ? []
        : [{ dimension, mode, values: Array.from({ length: 10_000 }, (_, n) => fitting[n % fitting.length]) }]
    })
    .slice(0, 30)
  const line = lineDraft({ targeting: { restrictions } } as never)
  while (JSON.stringify(line).length > bytes - 200)
    for (const restriction of restrictions)
      restriction.values = restriction.values.slice(0, Math.max(1, Math.floor(restriction.values.length * 0.8)))
  return line
}

/** Sends it, and tells the longest that the server's one thread did nothing else meanwhile. */
async function heldBy({ method, path }: Base, text: string): Promise<number> {
  const body = Buffer.from(text)
  const run = async () => {
    let longest = 0
    let last = performance.now()
    const beat = setInterval(() => {
      const now = performance.now()
      longest = Math.max(longest, now - last)
      last = now
    }, 2)
    const response = await fetch(`${server.address}/api${path}`, {
      method,
      body,
      headers: { origin: server.address, cookie, 'content-type': 'application/json' },
      signal: AbortSignal.timeout(20_000)
    })
    const answer = await response.text()
    await new Promise((resolve) => setTimeout(resolve, 5))
    clearInterval(beat)
    expect(answer.length).toBeLessThan(response.status >= 400 ? 50_000 : Infinity)
    expect(response.status).toBeLessThan(500)
    return longest
  }
  let least = Infinity
  for (let n = 0; n < TRIES && least > 0.75 * MOST_MS; n++) {
    const took = await run()
    least = Math.min(least, took < MOST_MS ? took : took / slowness())
  }
  return least
}

it('no body of a megabyte, refused or taken, keeps everybody else waiting for 200 ms', { timeout: 300_000 }, async () => {
  const held = new Map<string, number>()
  const note = (base: Base, ms: number) => {
    const name = `${base.method} ${base.path.replace(/\d+/g, 'N')}`
    held.set(name, Math.max(held.get(name) ?? 0, ms))
  }
  const routes = allRoutes(server.deps)
  for (const base of basesOf(known).filter((one) => one.body !== undefined)) {
    const shape = base.path.replace(/\d+/g, ':')
    const { limit = FEW_FIELDS, body } = routes.find(
      (one) => one.method.toUpperCase() === base.method && one.path.replace(/:\w+/g, ':') === shape
    ) as Route
    if (!body) continue
    // Longer ones are only counted; those that a route takes it looks at.
    for (const text of [wholes(MEGABYTE)[0], ...wholes(limit)]) note(base, await heldBy(base, text))
    let n = 0
    for (const text of grown(base.body, limit)) if (n++ % (limit <= FEW_FIELDS ? 3 : 16) === 0) note(base, await heldBy(base, text))
  }
  const full = fullLine(512 * 1024)
  const { lineId, campaignId } = known
  for (const base of [
    { method: 'POST', path: `/lines/${lineId}/preflight`, body: { line: full } },
    { method: 'POST', path: '/forecast', body: { page: 'full', number: 1, campaignId, lineId, line: full } },
    { method: 'POST', path: `/campaigns/${campaignId}/lines`, body: full },
    {
      method: 'POST',
      path: '/market/survey',
      body: {
        page: 'full',
        sentence: { formats: ['display'], targeting: full.targeting, hours: null },
        by: [],
        without: null,
        bidMicros: 1
      }
    },
    { method: 'POST', path: '/lists/read', body: { kind: 'places', text: filled('post:GB AB1', 390_000, '\n'), has: [] } },
    { method: 'POST', path: '/lists/read', body: { kind: 'keywords', text: '"'.repeat(399_999), has: [] } }
  ] as Base[])
    note(base, await heldBy(base, JSON.stringify(base.body)))
  const sorted = [...held].sort(([, a], [, b]) => b - a)
  process.stdout.write(`longest that a body held everybody: ${sorted.map(([name, ms]) => `${name} ${Math.round(ms)} ms`).join(', ')}\n`)
  expect(sorted.filter(([, ms]) => ms >= MOST_MS)).toEqual([])
})
