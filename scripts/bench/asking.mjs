import { startDatabase } from '../database.mjs'
import { dataFolder } from '../install.mjs'
import { inProject } from '../project.mjs'
import { demoTrader, startTestServer } from '../test-server.mjs'
import { quantile, report, round } from './measure.mjs'

/** Lines on the slip that is timed. */
const SLIP_LINES = 41

/**
 * One question for a forecast; tells when its first part and its last came.
 * @param {string} address @param {Record<string, string>} headers @param {object} question @param {AbortSignal} [signal]
 */
async function ask(address, headers, question, signal) {
  const began = performance.now()
  const answer = await fetch(`${address}/api/forecast`, { method: 'POST', headers, body: JSON.stringify(question), signal })
  const reader = answer.body?.getReader()
  let first = 0
  for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) first ||= performance.now() - began
  return { status: answer.status, firstMs: first, wholeMs: performance.now() - began }
}

/** How forecasts are waited for: one, many at once, after many that were given up; and a slip of many lines. */
export async function benchAsking() {
  const { DEMO_PASSWORD } = await import(inProject('server/dist/demo/scenario.js'))
  const { TEAM } = await import(inProject('server/dist/demo/small-scenario.js'))
  const database = await startDatabase(dataFolder('bench'), { schema: 'bench', bufferMb: 256, forTests: true })
  const url = new URL(database.url)
  url.pathname = '/bench_asking'
  const server = await startTestServer(url.href, '', { checks: false })
  const { address } = server
  try {
    const sign = async (/** @type {string} */ email) => {
      const headers = { origin: address, 'content-type': 'application/json' }
      const session = await fetch(`${address}/api/session`, {
        method: 'POST',
        headers,
        body: JSON.stringify({ email, password: DEMO_PASSWORD })
      })
      return { ...headers, cookie: (session.headers.get('set-cookie') ?? '').split(';')[0] }
    }
    const people = await Promise.all(
      TEAM.filter((/** @type {{ role: string }} */ { role }) => role !== 'reader').map((/** @type {{ email: string }} */ { email }) =>
        sign(email)
      )
    )
    const trader = await demoTrader(address)
    const { draft, campaignId, id } = await trader.read('lines/1003')
    let number = 0
    /** Each question is another: a bid and a country of its own. */
    const question = (/** @type {number} */ n) => ({
      page: `bench-${n}`,
      number: ++number,
      campaignId,
      lineId: id,
      line: {
        ...draft,
        price: { ...draft.price, bidMicros: 2_000_000 + n * 1000, maxMicros: null },
        targeting: {
          restrictions: [
            { dimension: 'where', mode: 'include', values: [['DE', 'FR', 'GB', 'US', 'ES', 'IT'][n % 6]] },
            ...draft.targeting.restrictions.filter((/** @type {{ dimension: string }} */ { dimension }) => dimension !== 'where')
          ]
        }
      }
    })
    const many = async (/** @type {number} */ count) => {
      const answers = await Promise.all(Array.from({ length: count }, (_, n) => ask(address, people[n % people.length], question(n))))
      const given = answers.filter(({ status }) => status === 200)
      return {
        first: quantile(
          given.map(({ firstMs }) => firstMs),
          0.5
        ),
        last: quantile(
          given.map(({ wholeMs }) => wholeMs),
          0.5
        ),
        refused: answers.length - given.length
      }
    }
    for (let n = 0; n < 6; n++) await many(2)
    const one = { first: /** @type {number[]} */ ([]), last: /** @type {number[]} */ ([]) }
    for (let n = 0; n < 15; n++) {
      const { first, last } = await many(1)
      one.first.push(first)
      one.last.push(last)
    }
    const twenty = await many(20)
    const twoHundred = await many(200)
    // Given up within 300 ms, as a hand that types does; who asks next must not wait for them.
    await Promise.all(
      Array.from({ length: 200 }, (_, n) =>
        ask(address, people[0], question(1000 + n), AbortSignal.timeout(5 + (n % 290))).catch(() => null)
      )
    )
    const after = await ask(address, people[1], question(5000))
    const lines = await Promise.all(
      Array.from({ length: SLIP_LINES }, async (_, n) =>
        (
          await fetch(`${address}/api/lines/${id}/copy`, {
            method: 'POST',
            headers: people[0],
            body: JSON.stringify({ name: `Slip ${n}`, campaignId })
          })
        ).json()
      )
    )
    // They go live as they are, and then each has an edit.
    const items = lines.map((line) => ({ line: line.id, fields: ['whole line'] }))
    const live = await fetch(`${address}/api/slips/live`, {
      method: 'POST',
      headers: people[0],
      body: JSON.stringify({ name: 'Bench', items, token: 'bench-slip-1' })
    })
    if (!live.ok) throw new Error(await live.text())
    for (const { id: line } of lines) {
      const { version, draft: now } = await trader.read(`lines/${line}`)
      await fetch(`${address}/api/lines/${line}`, {
        method: 'PUT',
        headers: people[0],
        body: JSON.stringify({
          version,
          line: { ...now, price: { ...now.price, bidMicros: now.price.bidMicros + 1000 * (line % 50) + 1000 } }
        })
      })
    }
    const slipBegan = performance.now()
    const { staged } = await trader.read('slips')
    const slipMs = performance.now() - slipBegan
    await trader.read('slips/expected')
    const expectedMs = performance.now() - slipBegan
    const againBegan = performance.now()
    await trader.read('slips')
    report('asking', {
      firstPartMs: { one: round(quantile(one.first, 0.5)), twenty: round(twenty.first), twoHundred: round(twoHundred.first) },
      wholeMs: { one: round(quantile(one.last, 0.5)), twenty: round(twenty.last), twoHundred: round(twoHundred.last) },
      refused: twoHundred.refused,
      afterGivenUpMs: round(after.firstMs),
      slipLines: staged.length,
      slipMs: round(slipMs),
      slipForecastsMs: round(expectedMs),
      slipAgainMs: round(performance.now() - againBegan)
    })
  } finally {
    await server.stop()
    await database.stop()
  }
}
