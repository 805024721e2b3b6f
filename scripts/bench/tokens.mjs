import http from 'node:http'
import { startDatabase } from '../database.mjs'
import { dataFolder } from '../install.mjs'
import { demoTrader, startTestServer } from '../test-server.mjs'
import { report, round } from './measure.mjs'

/** Callers at once, and for how long of each kind in turns: whatever else the machine does meets both. */
const CALLERS = 8
const TURNS = 6
const TURN_MS = 2_000
/** A token is let ask so often a minute; so many take turns. */
const A_TOKEN = 550
const PATH = '/api/lines?limit=20'

/** Calls a second of access tokens against those of one session, over the same connections, in one run. */
export async function benchTokens() {
  const database = await startDatabase(dataFolder('bench'), { schema: 'bench_tokens', bufferMb: 256, forTests: true })
  const server = await startTestServer(database.url, undefined, { checks: false })
  try {
    const trader = await demoTrader(server.address)
    const agent = new http.Agent({ keepAlive: true, maxSockets: CALLERS })
    const { hostname, port } = new URL(server.address)
    const call = (/** @type {Record<string, string>} */ headers) =>
      new Promise((resolve, reject) => {
        const request = http.get({ hostname, port, path: PATH, agent, headers }, (answer) => {
          answer.resume()
          answer.on('end', () => (answer.statusCode === 200 ? resolve(null) : reject(new Error(`Answered ${answer.statusCode}.`))))
        })
        request.on('error', reject)
      })
    /** @type {{ secret: string, calls: number }[]} */
    const tokens = []
    const newToken = async () => {
      const draft = { name: `bench ${tokens.length}`, rights: ['read'], advertisers: null, days: 1 }
      const answer = await fetch(`${server.address}/api/me/tokens`, {
        method: 'POST',
        headers: trader.headers,
        body: JSON.stringify(draft)
      })
      const { secret } = /** @type {{ secret: string }} */ (await answer.json())
      tokens.push({ secret, calls: 0 })
    }
    for (let n = 0; n < 48; n++) await newToken()
    const byToken = () => {
      const token = tokens.find(({ calls }) => calls < A_TOKEN)
      if (!token) throw new Error('All tokens have asked as often as they may.')
      token.calls++
      return { authorization: `Bearer ${token.secret}` }
    }
    const bySession = () => ({ cookie: trader.headers.cookie })
    /** @param {() => Record<string, string>} headers @returns {Promise<number>} calls a second */
    const measure = async (headers) => {
      const until = performance.now() + TURN_MS
      let calls = 0
      const caller = async () => {
        for (; performance.now() < until; calls++) await call(headers())
      }
      await Promise.all(Array.from({ length: CALLERS }, caller))
      return (calls * 1000) / TURN_MS
    }
    await measure(bySession)
    const rates = { token: 0, session: 0 }
    for (let turn = 0; turn < TURNS; turn++) {
      rates.session += (await measure(bySession)) / TURNS
      rates.token += (await measure(byToken)) / TURNS
    }
    agent.destroy()
    report('tokens', {
      tokenCallsPerSecond: round(rates.token),
      sessionCallsPerSecond: round(rates.session),
      ratio: round(rates.token / rates.session)
    })
  } finally {
    await server.stop()
    await database.stop()
  }
}
