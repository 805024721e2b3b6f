import { fork } from 'node:child_process'
import { createHash } from 'node:crypto'
import { createServer } from 'node:net'
import { existsSync } from 'node:fs'
import { bar, say } from './console.mjs'
import { SetUpError, checkNode, dataFolder, installDatabase, installFilms, installPackages } from './install.mjs'
import { inProject } from './project.mjs'
import { buildPages, buildServer } from './compile.mjs'
import { lookAfter, startDatabase, takeTurn } from './database.mjs'

const FIRST_PORT = Number(process.env.PORT ?? 4870)
/** Ports that are tried, one after the other. */
const PORTS = 50
const DATABASE = { schema: 'tin_harbor' }
const STEPS = { tape: 'recording two weeks of the market', history: 'running four weeks of the demo', database: 'opening the database' }

/** @param {number} port @returns {Promise<boolean>} */
function isFree(port) {
  return new Promise((resolve) => {
    const probe = createServer().once('error', () => resolve(false))
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)))
  })
}

/** @returns {Promise<number>} */
async function pagePort() {
  for (let port = FIRST_PORT; port < FIRST_PORT + PORTS; port++) if (await isFree(port)) return port
  throw new SetUpError(`No port from ${FIRST_PORT} to ${FIRST_PORT + PORTS - 1} is free.`)
}

/** @type {import('./database.mjs').Database | null} */
let database = null
/** @type {import('node:child_process').ChildProcess | null} */
let server = null
let ending = false
let endCare = () => {}

/** Ends server, then database, then this process. @param {number} code */
async function end(code) {
  if (ending) return
  ending = true
  endCare()
  const child = server
  if (child && child.exitCode === null && child.signalCode === null) {
    const gone = new Promise((resolve) => child.once('exit', resolve))
    child.kill('SIGTERM')
    await Promise.race([gone, new Promise((resolve) => setTimeout(resolve, 8000))])
    child.kill('SIGKILL')
  }
  await database?.stop()
  process.exit(code)
}

process
  .on('SIGINT', () => void end(0))
  .on('SIGTERM', () => void end(0))
  .on('SIGHUP', () => void end(0))
// npm passes signals on to nobody: when it is gone, so are we.
const parent = process.ppid
setInterval(() => {
  if (process.ppid !== parent) void end(0)
}, 500).unref()

/** @param {string} address */
async function tellAddress(address) {
  const { DEMO_PASSWORD } = await import(inProject('server/dist/demo/scenario.js'))
  const { FULL_SCENARIO } = await import(inProject('server/dist/demo/full-scenario.js'))
  say(`ready: ${address}`)
  console.log('\n          Sign in as one of the demo team; the password of all is', DEMO_PASSWORD)
  for (const { email, role } of FULL_SCENARIO.users) console.log(`            ${email.padEnd(24)} ${role}`)
  console.log('\n          Ctrl C stops everything.')
}

async function main() {
  checkNode()
  if (!existsSync(inProject('package-lock.json'))) throw new SetUpError('package-lock.json is missing; this is not a whole checkout.')
  const folder = dataFolder('demo')
  // Started twice at once, the second waits: it then finds all built and the database running.
  const endTurn = await takeTurn(folder, say)
  await installPackages()
  await installDatabase()
  await installFilms()
  // The database starts while the sources are looked at.
  const starting = startDatabase(folder, DATABASE)
  starting.catch(() => undefined)
  await buildServer()
  await buildPages()
  database = await starting
  endTurn()
  endCare = lookAfter(folder, database, DATABASE, say)
  const port = await pagePort()
  const instance = createHash('sha256').update(folder).digest('hex').slice(0, 8)
  server = fork(inProject('server/dist/main.js'), [], {
    execArgv: ['--max-old-space-size=4096'],
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    env: {
      ...process.env,
      TZ: 'UTC',
      DATABASE_URL: database.url,
      PORT: String(port),
      TIN_HARBOR_PORTS: String(PORTS),
      TIN_HARBOR_INSTANCE: instance,
      TIN_HARBOR_PAGES: inProject('web/dist'),
      TIN_HARBOR_TAPES: folder,
      TIN_HARBOR_LOG: process.env.TIN_HARBOR_LOG ?? 'warn'
    }
  })
  server.on('message', (/** @type {any} */ message) => {
    if (message.step && message.step !== 'database') bar(STEPS[/** @type {keyof typeof STEPS} */ (message.step)], message.share)
    if (message.ready) void tellAddress(message.ready)
    if (message.failed) say(`the server could not start: ${message.failed}`)
  })
  server.on('exit', (code) => {
    if (!ending) say(`the server ended (${code ?? 'killed'})`)
    void end(code ?? 1)
  })
}

main().catch((error) => {
  say(error instanceof SetUpError ? error.message : String(error?.stack ?? error))
  void end(1)
})
