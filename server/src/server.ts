import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { pino, type Logger } from 'pino'
import { dayOfHour } from '@tin-harbor/core/time'
import { makeApplication } from './application.js'
import type { Configuration } from './configuration.js'
import { openDatabase } from './database/open.js'
import { setUpDemo } from './demo/demo.js'
import { ForecastPool } from './jobs/forecast-pool.js'
import { MarketRunner } from './jobs/market-runner.js'
import { TapeBuilder } from './jobs/tape-builder.js'
import type { SharedTape } from './jobs/messages.js'
import { makeCatalogue } from './services/catalogue.js'
import type { Deps } from './services/deps.js'
import { EventHub } from './services/events.js'
import { balance } from './services/opening.js'
import { readMarket } from './services/publications.js'

export interface RunningServer {
  deps: Deps
  address: string
  close: () => Promise<void>
}

/** What the start has to tell while it works: a step and how far it is, 0 to 1. */
export type StartProgress = (step: string, share: number) => void

/** Starts everything the server is made of. */
export async function startServer(configuration: Configuration, progress: StartProgress = () => undefined, log: Logger = pino({ level: configuration.logLevel })): Promise<RunningServer> {
  progress('database', 0)
  const { sequelize, applied } = await openDatabase(configuration.databaseUrl)
  if (applied.length > 0) log.info({ applied }, 'migrated')
  const tapes = new TapeBuilder(configuration.world)
  const world = await tapes.world
  const pool = new ForecastPool(world)
  const runner = new MarketRunner(sequelize, world, log.child({ part: 'market' }), 0)
  const events = new EventHub()
  const deps: Deps = { configuration, sequelize, log, pool, runner, tapes, events, catalogue: makeCatalogue(configuration.world) }
  tapes.on('tape', (tape: SharedTape, milliseconds: number) => {
    pool.setTape(tape)
    events.send({ kind: 'tape', ready: true, firstDay: tape.head.firstDay, share: 1 })
    log.info({ rows: tape.head.rowCount, milliseconds: Math.round(milliseconds) }, 'tape built')
  })
  tapes.on('progress', (share: number) => {
    if (!tapes.current) events.send({ kind: 'tape', ready: false, firstDay: null, share })
  })
  runner.on('finished', () => void readMarket().then(({ hour }) => tapes.build(dayOfHour(hour) - 1)).catch((error: unknown) => log.error({ error }, 'no new tape')))
  await setUpDemo(deps, progress)
  const state = await readMarket()
  runner.status = { ...runner.status, hour: state.hour, fromHour: state.hour, targetHour: state.hour }
  tellPages(deps)
  tapes.build(dayOfHour(state.hour) - 1)
  runner.watch()
  const server = createServer(makeApplication(deps))
  await listen(server, configuration.port)
  await runner.resume()
  const { port } = server.address() as AddressInfo
  return { deps, address: `http://127.0.0.1:${port}`, close: () => close(server, deps) }
}

/** Every change of the run goes to all pages, with the balance it leaves. */
function tellPages({ runner, events, sequelize, log }: Deps): void {
  const tell = () => void balance(sequelize)
    .then((balanceMicros) => events.send({ kind: 'market', ...runner.status, balanceMicros }))
    .catch(() => log.warn('the balance could not be read'))
  runner.on('status', tell)
  tell()
}

function listen(server: Server, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', () => {
      server.off('error', reject)
      resolve()
    })
  })
}

async function close(server: Server, { runner, pool, tapes, events, sequelize }: Deps): Promise<void> {
  events.close()
  server.close()
  server.closeAllConnections()
  await runner.close()
  await pool.close()
  await tapes.close()
  await sequelize.close()
}
