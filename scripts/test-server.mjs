import { fork } from 'node:child_process'
import { freePort } from './database.mjs'
import { inProject } from './project.mjs'

/** Opportunities enough for results by placement, and a demo that is made in a few seconds. */
const PEOPLE = '60000'

/**
 * A server with pages on a fresh schema, for the browser tests.
 * @param {string} url of the database, whose schema is made anew
 * @param {string} [people] of the world
 * @returns {Promise<{ address: string, stop: () => Promise<void> }>}
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
    address,
    stop: async () => {
      const gone = new Promise((resolve) => child.once('exit', resolve))
      child.kill('SIGTERM')
      await gone
    }
  }
}
