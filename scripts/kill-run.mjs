import { fork } from 'node:child_process'
import { createHash } from 'node:crypto'
import { rmSync } from 'node:fs'
import { freePort, isAlive, startDatabase } from './database.mjs'
import { dataFolder } from './install.mjs'
import { inProject } from './project.mjs'
import { seeded } from './seeded.mjs'

/**
 * A run of the market that is killed again and again, and one that is not: their facts must be equal to the micro.
 *
 * @typedef {object} KillReport
 * @property {number} kills how often a process was killed while the market ran
 * @property {number} lost hours that are missing
 * @property {number} doubled hours that are there twice, by log rows or spend
 * @property {number} ledgerOffMicros difference of the ledgers' sums
 * @property {boolean} equal whether all facts, roll-ups, outcomes, ledger and clock are equal
 */

const PEOPLE = '20000'
const INSTANCE = 'kills'
/** Times a life is given before it is killed. */
const SHORTEST_LIFE_MS = 60
const LONGEST_LIFE_MS = 900

/**
 * @param {string} url @param {number} port
 * @returns {Promise<import('node:child_process').ChildProcess>} a server that is ready
 */
function startServer(url, port) {
  return new Promise((resolve, reject) => {
    const child = fork(inProject('server/dist/main.js'), [], {
      execArgv: [],
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      env: {
        ...process.env,
        TZ: 'UTC',
        DATABASE_URL: url,
        PORT: String(port),
        TIN_HARBOR_INSTANCE: INSTANCE,
        TIN_HARBOR_PEOPLE: PEOPLE,
        TIN_HARBOR_DEMO: 'small',
        TIN_HARBOR_LOG: 'silent'
      }
    })
    child.on('message', (/** @type {any} */ message) => {
      if (message.ready) resolve(child)
      if (message.failed) reject(new Error(message.failed))
    })
    child.once('exit', (code) => reject(new Error(`The server ended early (${code}).`)))
  })
}

/** @param {import('node:child_process').ChildProcess} child @param {NodeJS.Signals} signal */
async function endServer(child, signal) {
  const gone = new Promise((resolve) => child.once('exit', resolve))
  child.kill(signal)
  await gone
}

/** Starts a run as a trader would. @param {number} port @param {number} hours */
async function startRun(port, hours) {
  const { DEMO_PASSWORD } = await import(inProject('server/dist/demo/scenario.js'))
  const base = `http://127.0.0.1:${port}`
  const headers = { origin: base, 'content-type': 'application/json' }
  const session = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ email: 'ines@wharfside.example', password: DEMO_PASSWORD })
  })
  const cookie = (session.headers.get('set-cookie') ?? '').split(';')[0]
  const run = await fetch(`${base}/api/market/run`, { method: 'POST', headers: { ...headers, cookie }, body: JSON.stringify({ hours }) })
  if (!run.ok) throw new Error(`The run did not start: ${await run.text()}`)
}

/** @param {string} url */
async function connect(url) {
  const { createConnection } = await import('mariadb')
  const { hostname, port, username, password, pathname } = new URL(url)
  return createConnection({
    host: hostname,
    port: Number(port),
    user: username,
    password,
    database: pathname.slice(1),
    bigIntAsNumber: true
  })
}

/** @param {string} url @param {number} target */
async function waitForHour(url, target) {
  const connection = await connect(url)
  try {
    for (let n = 0; n < 3000; n++) {
      const [state] = await connection.query('SELECT hour, target_hour FROM market_state')
      if (state.hour >= target && state.target_hour === null) return
      if (state.target_hour === null) throw new Error(`The run stopped at hour ${state.hour}, before hour ${target}.`)
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
    throw new Error('The run did not reach its end.')
  } finally {
    await connection.end()
  }
}

const FACTS = [
  'SELECT hour, publication_id, opportunities, n, crc32, HEX(data) AS data, event_n, event_crc32, HEX(events) AS events FROM delivery_hour ORDER BY hour',
  'SELECT * FROM line_hour ORDER BY line_id, hour, ad_id, device',
  'SELECT * FROM line_day ORDER BY line_id, day, placement, ad_id',
  'SELECT * FROM outcome_hour ORDER BY line_id, hour, outcome',
  'SELECT * FROM short_hour ORDER BY line_id, hour, bin',
  'SELECT * FROM line_state ORDER BY line_id',
  'SELECT kind, hour, advertiser_id, amount_micros FROM ledger_entry ORDER BY kind, hour, advertiser_id',
  'SELECT hour, publication_id, target_hour FROM market_state',
  'SELECT id, state, version FROM line ORDER BY id'
]

/** @param {string} url */
async function factsOf(url) {
  const connection = await connect(url)
  const hash = createHash('sha256')
  for (const sql of FACTS)
    hash.update(JSON.stringify(await connection.query(sql), (_, value) => (typeof value === 'bigint' ? Number(value) : value)))
  const hours = await connection.query(
    'SELECT d.hour, d.n, (SELECT COALESCE(SUM(wins), 0) FROM line_hour h WHERE h.hour = d.hour) AS wins FROM delivery_hour d ORDER BY d.hour'
  )
  const [ledger] = await connection.query('SELECT SUM(amount_micros) AS sum FROM ledger_entry')
  await connection.end()
  return { digest: hash.digest('hex'), hours, ledger: Number(ledger.sum) }
}

/**
 * @param {{ kills: number, hours?: number, seed?: number, say?: (text: string) => void }} options
 * @returns {Promise<KillReport>}
 */
export async function killRun({ kills, hours = 240, seed = 1, say = () => {} }) {
  const folder = dataFolder('kills')
  rmSync(folder, { recursive: true, force: true })
  dataFolder('kills')
  const databasePort = await freePort()
  const port = await freePort()
  const start = (/** @type {string} */ schema) => startDatabase(folder, { schema, bufferMb: 128, port: databasePort, forTests: true })
  const random = seeded(seed)
  let target = 60 * 24 + 8 + hours
  let database = await start('stormy')
  try {
    let server = await startServer(database.url, port)
    await startRun(port, hours)
    let done = 0
    while (done < kills) {
      await new Promise((resolve) => setTimeout(resolve, SHORTEST_LIFE_MS + random() * (LONGEST_LIFE_MS - SHORTEST_LIFE_MS)))
      const connection = await connect(database.url)
      const [state] = await connection.query('SELECT hour, target_hour FROM market_state')
      await connection.end()
      if (state.target_hour === null) {
        if (state.hour < target) throw new Error(`The run stopped at hour ${state.hour}, before hour ${target}.`)
        // A fast machine was done before all kills were: the run goes on, and the calm one will run as far.
        target += hours
        await startRun(port, hours)
        continue
      }
      done++
      if (random() < 0.5) {
        await endServer(server, 'SIGKILL')
        server = await startServer(database.url, port)
      } else {
        const { pid } = database
        process.kill(pid, 'SIGKILL')
        while (isAlive(pid)) await new Promise((resolve) => setTimeout(resolve, 5))
        database = await start('stormy')
      }
      if (done % 5 === 0) say(`${done} kills, the clock at hour ${state.hour}`)
    }
    await waitForHour(database.url, target)
    await endServer(server, 'SIGTERM')
    const stormy = await factsOf(database.url)

    database = await start('calm')
    server = await startServer(database.url, port)
    await startRun(port, target - 60 * 24 - 8)
    await waitForHour(database.url, target)
    await endServer(server, 'SIGTERM')
    const calm = await factsOf(database.url)
    say(`a run to hour ${target} without kills: ${calm.digest.slice(0, 12)}; with them: ${stormy.digest.slice(0, 12)}`)
    const there = new Set(stormy.hours.map((/** @type {any} */ row) => row.hour))
    return {
      kills: done,
      lost: calm.hours.filter((/** @type {any} */ row) => !there.has(row.hour)).length,
      doubled: stormy.hours.filter((/** @type {any} */ row) => row.n !== Number(row.wins)).length,
      ledgerOffMicros: stormy.ledger - calm.ledger,
      equal: stormy.digest === calm.digest
    }
  } finally {
    await database.stop()
  }
}
