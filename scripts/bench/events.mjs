import http from 'node:http'
import { startDatabase } from '../database.mjs'
import { dataFolder } from '../install.mjs'
import { inProject } from '../project.mjs'
import { copyTemplate, demoTrader, makeTemplate, startTestServer } from '../test-server.mjs'
import { quantile, report, round } from './measure.mjs'

/** Open loop: each is sent when its time has come, whether those before it were answered or not. */
const A_SECOND = 1000
const SECONDS = 10
const KILLS = 10
/** Between two sends of a batch. */
const TICK_MS = 5

/**
 * Tells events by the clock, and says how long each took to be answered.
 * @param {string} address @param {() => string} nextPath @param {number} seconds
 * @returns {Promise<{ times: number[], answered: string[], failed: number }>}
 */
async function openLoop(address, nextPath, seconds) {
  const agent = new http.Agent({ keepAlive: true, maxSockets: 256 })
  const { hostname, port } = new URL(address)
  /** @type {number[]} */
  const times = []
  /** @type {string[]} */
  const answered = []
  let failed = 0
  const tell = (/** @type {number} */ due) =>
    new Promise((resolve) => {
      const path = nextPath()
      const request = http.get({ hostname, port, path, agent }, (answer) => {
        answer.resume()
        answer.on('end', () => {
          if (answer.statusCode === 302 || answer.statusCode === 202) {
            times.push(performance.now() - due)
            answered.push(path)
          } else failed++
          resolve(null)
        })
      })
      request.on('error', () => {
        failed++
        resolve(null)
      })
    })
  const began = performance.now()
  const all = []
  for (let sent = 0; sent < A_SECOND * seconds;) {
    const due = Math.min(A_SECOND * seconds, Math.floor(((performance.now() - began) * A_SECOND) / 1000))
    for (; sent < due; sent++) all.push(tell(began + (sent * 1000) / A_SECOND))
    await new Promise((resolve) => setTimeout(resolve, TICK_MS))
  }
  await Promise.all(all)
  agent.destroy()
  return { times, answered, failed }
}

/**
 * Clicks that are led on, through journal and database, while the market runs; postbacks until the database has them; and a server that is
 * killed ten times while it is told both.
 */
export async function benchEvents() {
  const { HitIds } = await import(inProject('server/dist/hits/ids.js'))
  const { postbackSignature } = await import(inProject('server/dist/advertisers/trackers.js'))
  const { createConnection } = await import('mariadb')
  const database = await startDatabase(dataFolder('bench'), { schema: 'bench', bufferMb: 256, forTests: true })
  const template = new URL(database.url)
  template.pathname = '/bench_events_template'
  await makeTemplate(template.href, '60000')
  const tapes = await copyTemplate(database.url, 'bench_events_template', 'bench_events')
  const url = new URL(database.url)
  url.pathname = '/bench_events'
  const begin = () => startTestServer(url.href, '60000', { fresh: false, tapes, checks: false })
  const { hostname, port, username, password } = url
  const connection = await createConnection({ host: hostname, port: Number(port), user: username, password, database: 'bench_events' })
  const idsNow = async () => {
    /** @type {{ id: number, secret: string }[]} */
    const keys = await connection.query('SELECT id, secret FROM hit_key ORDER BY id')
    return new HitIds(keys.map(({ id, secret }) => ({ id, secret: Buffer.from(secret, 'hex') })))
  }
  let nonce = 0
  const showing = (/** @type {any} */ ids) => ids.sign({ kind: 'preview', ad: 1, nonce: (nonce++).toString(36) })
  const clicksOf = (/** @type {any} */ ids) => () => `/c/${showing(ids)}`
  const [{ path_key: key, secret }] = await connection.query(
    "SELECT path_key, secret FROM tracker WHERE reports = 'server' ORDER BY id LIMIT 1"
  )
  const postbacksOf = (/** @type {any} */ ids) => () => {
    const fields = {
      click: showing(ids),
      transaction: `B-${nonce}`,
      value: '10',
      currency: 'EUR',
      at: String(Math.floor(Date.now() / 1000))
    }
    return `/p/${key}?${new URLSearchParams({ ...fields, sign: postbackSignature(secret, fields) })}`
  }
  /** @param {any} ids both by turns */
  const bothOf = (ids) => {
    const ways = [clicksOf(ids), postbacksOf(ids)]
    return () => ways[nonce % 2]()
  }
  let server = await begin()
  try {
    const ids = await idsNow()
    const next = clicksOf(ids)
    await openLoop(server.address, next, 2)
    const calm = await openLoop(server.address, next, SECONDS)
    const trader = await demoTrader(server.address)
    const running = trader.run(48)
    const busy = await openLoop(server.address, next, SECONDS)
    await running
    const began = performance.now()
    const told = await openLoop(server.address, postbacksOf(ids), SECONDS)
    const count = async () => Number((await connection.query('SELECT COUNT(*) AS n FROM told_conversion'))[0].n)
    while ((await count()) < told.answered.length) await new Promise((resolve) => setTimeout(resolve, 20))
    const keptSeconds = (performance.now() - began) / 1000
    const answered = [...calm.answered, ...busy.answered, ...told.answered]
    let failed = 0
    for (let kill = 0; kill < KILLS; kill++) {
      const under = openLoop(server.address, bothOf(await idsNow()), 1)
      await new Promise((resolve) => setTimeout(resolve, 200 + 60 * kill))
      process.kill(server.pid, 'SIGKILL')
      const life = await under
      answered.push(...life.answered)
      failed += life.failed
      server = await begin()
    }
    await new Promise((resolve) => setTimeout(resolve, 1000))
    /** @type {{ subject: string }[]} */
    const hits = await connection.query('SELECT subject FROM hit')
    /** @type {{ subject: string }[]} */
    const conversions = await connection.query('SELECT subject FROM told_conversion')
    const [clicks, sales] = [hits, conversions].map((rows) => new Set(rows.map(({ subject }) => subject)))
    const lost = answered.filter((path) => !(path.startsWith('/c/') ? clicks : sales).has(path.split('.')[1]))
    report('events', {
      clicksPerSecond: Math.round(busy.answered.length / SECONDS),
      clickP50Ms: round(quantile(busy.times, 0.5)),
      clickP99Ms: round(quantile(busy.times, 0.99)),
      calmP99Ms: round(quantile(calm.times, 0.99)),
      postbacksPerSecond: Math.round(told.answered.length / keptSeconds),
      postbackP99Ms: round(quantile(told.times, 0.99)),
      kills: KILLS,
      answered: answered.length,
      unansweredByKills: failed,
      lostAfterKill: lost.length,
      twice: hits.length - clicks.size + (conversions.length - sales.size)
    })
  } finally {
    await server.stop()
    await connection.end()
    await database.stop()
  }
}
