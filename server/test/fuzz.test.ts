import { afterAll, beforeAll, expect, it } from 'vitest'
import { DEMO_PASSWORD } from '../src/demo/scenario.js'
import { ADMIN, readyLine, testServer, type TestServer } from './support/server.js'
import { basesOf, malformed, type Base, type Call } from './support/fuzzer.js'

/** `npm run fuzz -- N SEED` tries more, and others. */
const TRIES = Number(process.env.TIN_HARBOR_FUZZ ?? 500)
const SEED = Number(process.env.TIN_HARBOR_FUZZ_SEED ?? 11)
const AT_ONCE = 4

let server: TestServer
let bases: Base[]
let cookie = ''

beforeAll(async () => {
  server = await testServer('fuzz')
  const admin = await server.as(ADMIN)
  const { lineId, campaignId, version } = await readyLine(admin)
  const list = await admin('POST', '/lists', {
    advertiserId: null,
    list: { name: 'Words', kind: 'keywords', values: ['telescope', 'eclipse'], group: null }
  })
  const { body } = await admin('GET', `/lines/${lineId}`)
  bases = basesOf({
    advertiserId: 3,
    campaignId,
    lineId,
    version,
    listId: list.body.id,
    adId: body.ads[0].id,
    creativeId: body.ads[0].creativeId
  })
  const session = await server.nobody('POST', '/session', { email: ADMIN, password: DEMO_PASSWORD })
  cookie = (session.headers.get('set-cookie') ?? '').split(';')[0]
})
afterAll(() => server.close())

/** How the library that checks inputs would say it. */
const LIBRARY =
  /must be a `|must match the following|is a required field|must be defined|cannot be null|must be one of the following|greater than|less than or equal|field must have|must be at (least|most) \d|must be an integer|unspecified keys|final value|is invalid$|must match the configured/i

/** What is wrong with an answer; null when nothing is. */
function complaint(status: number, text: string): string | null {
  if (status >= 500) return `answered ${status}`
  if (status < 400 || ![400, 413, 415, 422].includes(status)) return null
  if (text.length > 20_000) return `answered ${text.length} bytes`
  const { issues = [], title = '' } = JSON.parse(text) as { issues?: { field: string; message: string }[]; title?: string }
  if (issues.length === 0) return `named no field: ${title}`
  const odd = issues.find(({ field, message }) => !field || !message || LIBRARY.test(message) || message.length > 500)
  return odd ? `said ${JSON.stringify(odd)}` : issues.length > 20 ? `named ${issues.length} problems` : null
}

async function send({ method, path, text, type }: Call): Promise<{ status: number; text: string }> {
  const response = await fetch(`${server.address}/api${path}`, {
    method,
    body: text === null ? undefined : text,
    headers: { origin: server.address, cookie, ...(text === null || type === '' ? {} : { 'content-type': type }) }
  })
  return { status: response.status, text: await response.text() }
}

it(`${TRIES} malformed bodies get no 500, and every problem a field and our words`, { timeout: 300_000 + TRIES * 60 }, async () => {
  const calls = malformed(bases, SEED)
  const wrong: string[] = []
  const statuses = new Map<number, number>()
  let left = TRIES
  const work = async () => {
    while (left-- > 0) {
      const call = calls.next().value as Call
      const { status, text } = await send(call)
      statuses.set(status, (statuses.get(status) ?? 0) + 1)
      const said = complaint(status, text)
      if (said && wrong.length < 20)
        wrong.push(`${call.method} ${call.path.slice(0, 120)} ${call.type}: ${said}\n    ${(call.text ?? '').slice(0, 600)}`)
      // One that happens to be right must not keep the market running.
      if (status === 204 && call.path === '/market/run') await send({ method: 'DELETE', path: '/market/run', text: null, type: '' })
    }
  }
  await Promise.all(Array.from({ length: AT_ONCE }, work))
  process.stdout.write(
    `malformed bodies, seed ${SEED}: ${[...statuses]
      .sort(([a], [b]) => a - b)
      .map(([status, n]) => `${status}: ${n}`)
      .join(', ')}\n`
  )
  expect(wrong.join('\n')).toBe('')
  expect(statuses.get(422) ?? 0).toBeGreaterThan(TRIES / 3)
})
