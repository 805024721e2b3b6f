import { fork } from 'node:child_process'
import { freePort } from './database.mjs'
import { inProject } from './project.mjs'

/** Opportunities enough for results by placement, and a demo that is made in a few seconds. */
const PEOPLE = '60000'

/**
 * A server with pages on a fresh schema, for the browser tests.
 * @param {string} url of the database, whose schema is made anew
 * @param {string} [people] of the world
 * @returns {Promise<{ address: string, pid: number, stop: () => Promise<void> }>}
 */
export async function startTestServer(url, people = PEOPLE) {
  const { createConnection } = await import('mariadb')
  const { hostname, port, username, password, pathname } = new URL(url)
  const connection = await createConnection({ host: hostname, port: Number(port), user: username, password })
  await connection.query(`DROP DATABASE IF EXISTS \`${pathname.slice(1)}\``)
  await connection.query(`CREATE DATABASE \`${pathname.slice(1)}\` CHARACTER SET utf8mb4`)
  await connection.end()
  const child = fork(inProject('server/dist/main.js'), [], {
    execArgv: [], stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    env: { ...process.env, TZ: 'UTC', DATABASE_URL: url, PORT: String(await freePort()), TIN_HARBOR_INSTANCE: 'test', TIN_HARBOR_PEOPLE: people, TIN_HARBOR_PAGES: inProject('web/dist'), TIN_HARBOR_LOG: 'silent' }
  })
  const address = await new Promise((resolve, reject) => {
    child.on('message', (/** @type {any} */ message) => {
      if (message.ready) resolve(message.ready)
      if (message.failed) reject(new Error(message.failed))
    })
    child.once('exit', (code) => reject(new Error(`The server ended early (${code}).`)))
  })
  return {
    address, pid: child.pid ?? 0,
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
  const session = await fetch(`${address}/api/session`, { method: 'POST', headers, body: JSON.stringify({ email: 'ines@wharfside.example', password: DEMO_PASSWORD }) })
  const signed = { ...headers, cookie: (session.headers.get('set-cookie') ?? '').split(';')[0] }
  const read = async (/** @type {string} */ path) => {
    const answer = await fetch(`${address}/api/${path}`, { headers: signed })
    if (!answer.ok) throw new Error(await answer.text())
    return answer.json()
  }
  return {
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
