import { fork } from 'node:child_process'
import { cpSync, mkdirSync, readFileSync, readdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { freePort } from './database.mjs'
import { inProject } from './project.mjs'

/** Opportunities enough for results by placement, and a demo that is made in a few seconds. */
const PEOPLE = '60000'

/** @param {string} url @param {(query: (sql: string) => Promise<any[]>) => Promise<void>} work */
async function withConnection(url, work) {
  const { createConnection } = await import('mariadb')
  const { hostname, port, username, password } = new URL(url)
  const connection = await createConnection({ host: hostname, port: Number(port), user: username, password })
  try {
    await work((sql) => connection.query(sql))
  } finally {
    await connection.end()
  }
}

/** @param {string} url whose schema is made anew @returns {Promise<void>} */
export const makeSchema = (url) =>
  withConnection(url, async (query) => {
    const name = new URL(url).pathname.slice(1)
    await query(`DROP DATABASE IF EXISTS \`${name}\``)
    await query(`CREATE DATABASE \`${name}\` CHARACTER SET utf8mb4`)
  })

/**
 * Copies a schema with its rows, whole tables with their keys.
 * @param {string} url of the server @param {string} from @param {string} to is made anew
 */
async function copySchema(url, from, to) {
  const target = new URL(url)
  target.pathname = `/${to}`
  await makeSchema(target.href)
  await withConnection(url, async (query) => {
    await query('SET foreign_key_checks = 0')
    await query(`USE \`${to}\``)
    for (const row of await query(`SHOW TABLES FROM \`${from}\``)) {
      const [table] = Object.values(row)
      const [made] = await query(`SHOW CREATE TABLE \`${from}\`.\`${table}\``)
      await query(made['Create Table'])
      await query(`INSERT INTO \`${table}\` SELECT * FROM \`${from}\`.\`${table}\``)
    }
  })
}

/** Drops a copy, its tape included. @param {string} url of the server @param {string} name */
export async function dropSchema(url, name) {
  rmSync(tapesOf(name), { recursive: true, force: true })
  await withConnection(url, async (query) => {
    await query(`DROP DATABASE IF EXISTS \`${name}\``)
  })
}

/** Where a server of tests finds the tape that was made once for all. @param {string} schema of its database */
const tapesOf = (schema) => inProject('.bench', 'tapes', schema)

/**
 * Makes the demo and its tape, once for all servers that begin with them: by copies, since each runs a market of its own.
 * @param {string} url of the database, whose schema is made anew @param {string} [people] of the world
 */
export async function makeTemplate(url, people) {
  const folder = tapesOf(new URL(url).pathname.slice(1))
  rmSync(folder, { recursive: true, force: true })
  mkdirSync(folder, { recursive: true })
  const server = await startTestServer(url, people, { tapes: folder })
  try {
    for (const began = Date.now(); !(await isTapeThere(folder, server.address));) {
      if (Date.now() - began > 120_000) throw new Error('The tape of the tests was not made in two minutes.')
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
  } finally {
    await server.stop()
  }
}

/**
 * Whether the tape in a folder is the one that a server begins with: one of a day before would be made anew by each.
 * @param {string} folder @param {string} address of the server that writes it
 */
async function isTapeThere(folder, address) {
  const name = readdirSync(folder).find((one) => one.endsWith('.tape'))
  if (!name) return false
  const [seed, people, sample] = name.replace('.tape', '').split('-').map(Number)
  const { TAPE_DAYS, openTapeFile } = await import(inProject('core/dist/tape/index.js'))
  const { hour } = /** @type {{ hour: number }} */ (await (await fetch(`${address}/healthz`)).json())
  const data = readFileSync(join(folder, name))
  const buffer = new SharedArrayBuffer(data.length)
  new Uint8Array(buffer).set(data)
  return openTapeFile(buffer, { seed, people, sample }).firstDay + TAPE_DAYS === Math.floor(hour / 24)
}

/**
 * Copies the demo and the tape of a template.
 * @param {string} url of the server @param {string} from @param {string} to is made anew
 * @returns {Promise<string>} folder of the tape
 */
export async function copyTemplate(url, from, to) {
  await copySchema(url, from, to)
  rmSync(tapesOf(to), { recursive: true, force: true })
  cpSync(tapesOf(from), tapesOf(to), { recursive: true })
  return tapesOf(to)
}

/**
 * A server with pages, for the browser tests.
 * @param {string} url of the database
 * @param {string} [people] of the world
 * @param {{ fresh?: boolean, tapes?: string | null, demo?: 'full' | 'small', checks?: boolean,
 *   review?: 'working hours' | 'at once' }} [how]
 * `fresh: false` goes on with the schema as it is, which is made anew otherwise; `checks: false` for what is timed, as users have it
 * @returns {Promise<{ address: string, pid: number, stop: () => Promise<void> }>}
 */
export async function startTestServer(
  url,
  people = PEOPLE,
  { fresh = true, tapes = null, demo = 'small', checks = true, review = 'at once' } = {}
) {
  if (fresh) await makeSchema(url)
  const child = fork(inProject('server/dist/main.js'), [], {
    execArgv: [],
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    env: {
      ...process.env,
      TZ: 'UTC',
      DATABASE_URL: url,
      PORT: String(await freePort()),
      TIN_HARBOR_INSTANCE: 'test',
      TIN_HARBOR_PEOPLE: people,
      TIN_HARBOR_DEMO: demo,
      TIN_HARBOR_REVIEW: review,
      TIN_HARBOR_PAGES: inProject('web/dist'),
      TIN_HARBOR_LOG: 'silent',
      ...(checks ? { TIN_HARBOR_CHECKS_ANSWERS: 'yes' } : {}),
      ...(tapes === null ? {} : { TIN_HARBOR_TAPES: tapes })
    }
  })
  const address = await new Promise((resolve, reject) => {
    child.on('message', (/** @type {any} */ message) => {
      if (message.ready) resolve(message.ready)
      if (message.failed) reject(new Error(message.failed))
    })
    child.once('exit', (code) => reject(new Error(`The server ended early (${code}).`)))
  })
  return {
    address,
    pid: child.pid ?? 0,
    stop: async () => {
      const gone = new Promise((resolve) => child.once('exit', resolve))
      child.kill('SIGTERM')
      await gone
    }
  }
}

/**
 * A trader of the demo, signed in to a server, who can run its market.
 * @param {string} address
 */
export async function demoTrader(address) {
  const { DEMO_PASSWORD } = await import(inProject('server/dist/demo/scenario.js'))
  const headers = { origin: address, 'content-type': 'application/json' }
  const session = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ email: 'ines@wharfside.example', password: DEMO_PASSWORD })
  })
  const signed = { ...headers, cookie: (session.headers.get('set-cookie') ?? '').split(';')[0] }
  const read = async (/** @type {string} */ path) => {
    const answer = await fetch(`${address}/api/${path}`, { headers: signed })
    if (!answer.ok) throw new Error(await answer.text())
    return answer.json()
  }
  return {
    /** With which calls are signed. */
    headers: signed,
    read,
    /** Runs the market for some hours. @param {number} hours @returns {Promise<number>} milliseconds it took */
    run: async (hours) => {
      const began = performance.now()
      const answer = await fetch(`${address}/api/market/run`, { method: 'POST', headers: signed, body: JSON.stringify({ hours }) })
      if (!answer.ok) throw new Error(await answer.text())
      while ((await read('market')).run.running) await new Promise((resolve) => setTimeout(resolve, 50))
      return performance.now() - began
    }
  }
}
