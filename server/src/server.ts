import { mkdtempSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { AddressInfo } from 'node:net'
import type { Logger } from 'pino'
import type { Sequelize } from 'sequelize'
import { dayOfHour } from '@tin-harbor/core/time'
import { makeApplication } from './application.js'
import type { Configuration } from './configuration.js'
import { DatabaseWatch } from './database/watch.js'
import { openDatabase } from './database/open.js'
import { makeLog } from './log.js'
import { setUpDemo } from './demo/demo.js'
import { ContentStore } from './files/content-store.js'
import { namedContents } from './files/library.js'
import { HitDesk } from './hits/hit-desk.js'
import { FeedDesk } from './feeds/feed-desk.js'
import { FitDesk } from './files/fit-desk.js'
import { sweepWork } from './files/jail.js'
import { moveBlobs } from './files/moving.js'
import { Uploads } from './files/uploads.js'
import { Sandbox } from './sandbox/sandbox.js'
import { ForecastPool } from './forecasts/forecast-pool.js'
import { MarketRunner, type ToldBefore } from './exchange/market-runner.js'
import { RecordsDesk } from './results/records-desk.js'
import { TapeBuilder } from './tape/tape-builder.js'
import { Threads } from './threads/threads.js'
import type { WorldSize } from '@tin-harbor/core/market'
import type { SharedTape } from './threads/shared-world.js'
import { makeCatalogue } from './market/catalogue.js'
import type { Deps } from './deps.js'
import { collectAnswers } from './deals/deal-asks.js'
import { sweepKept } from './http/kept-answers.js'
import { EventHub } from './http/events.js'
import { TapeExposures } from './forecasts/exposures.js'
import { LiveLines } from './forecasts/live-lines.js'
import { SharesOfLines } from './forecasts/possible.js'
import type { StartProgress } from './start-progress.js'
import { Impressions } from './hits/impressions.js'
import { clickLeads } from './hits/leading.js'
import { ReviewDesk } from './review/review-desk.js'
import { startReviewer } from './standins/reviewer.js'
import { startPayments } from './standins/payments.js'
import { startSites } from './standins/sites.js'
import { startDealOffice } from './standins/deal-office.js'
import { startSellersWeb } from './standins/web-of-sellers.js'
import { fundsBy, fundsView } from './money/funds.js'
import { PostOffice } from './mail/post-office.js'
import { PaymentDesk } from './money/payment-desk.js'
import { readMarket } from './going-live/publications.js'

/** How long after one that failed a tape is tried again. */
const TAPE_AGAIN_MS = 120_000
/** Between two looks for contents that nothing names. */
const SWEEP_MS = 6 * 3_600_000
/** How long an idle connection is kept. */
const KEEP_ALIVE_MS = 65_000

export interface RunningServer {
  deps: Deps
  address: string
  close: () => Promise<void>
}

/** Starts everything the server is made of. */
export async function startServer(
  configuration: Configuration,
  progress: StartProgress = () => undefined,
  log: Logger = makeLog(configuration.logLevel)
): Promise<RunningServer> {
  progress('database', 0)
  const { sequelize, applied } = await openDatabase(configuration.databaseUrl)
  if (applied.length > 0) log.info({ applied }, 'migrated')
  const { store, uploads, hitFolder, paymentsFile } = openFiles(configuration, sequelize)
  await moveBlobs(sequelize, store)
  const threads = new Threads((thread, err, isAway) =>
    log.error({ err, thread }, isAway ? 'a thread died too often and stays away for a while' : 'a thread died and is started anew')
  )
  const catalogue = makeCatalogue(configuration.world)
  const { inventory, profiles } = catalogue
  const tapes = new TapeBuilder(threads, configuration.world, { inventory, profiles }, configuration.tapes)
  const pool = new ForecastPool(threads, tapes.world)
  const impressions = new Impressions(sequelize, catalogue, tapes.world, tapes.ready)
  const told: ToldBefore = {
    impressions,
    take: async () => {
      await deps.hits.take()
      await deps.reviews.ask()
      await deps.payments.settle()
    }
  }
  const runner = new MarketRunner(threads, sequelize, tapes, log.child({ part: 'market' }), told, 0)
  const events = new EventHub()
  const watch = new DatabaseWatch(configuration.databaseUrl)
  const sellersWeb = await startSellersWeb(configuration.world.seed, catalogue.inventory)
  const dealOffice = await startDealOffice(configuration.world.seed, catalogue.inventory)
  const sites = await startSites()
  // The demo's own history is of ads that were cleared long ago.
  const reviewer = await startReviewer(configuration.world.seed, { isAtOnce: true })
  const reviews = new ReviewDesk(sequelize, reviewer, log.child({ part: 'reviews' }))
  const exposures = new TapeExposures(sequelize, configuration.world)
  const liveLines = new LiveLines({ sequelize, exposures, pool, tapes })
  let tellFunds = (): void => undefined
  const payments = new PaymentDesk(sequelize, await startPayments(paymentsFile), log.child({ part: 'payments' }), () => tellFunds())
  const deps: Deps = {
    configuration,
    sequelize,
    log,
    threads,
    pool,
    runner,
    tapes,
    events,
    catalogue,
    watch,
    sellersWeb,
    dealOffice,
    exposures,
    liveLines,
    possible: new SharesOfLines({ sequelize, exposures, pool, tapes, runner, liveLines, log }, (since) =>
      events.send('possible', () => ({ kind: 'possible', since }))
    ),
    store,
    uploads,
    fits: new FitDesk(log),
    feeds: new FeedDesk(threads, sequelize, log),
    sites,
    reviews,
    payments,
    mail: await PostOffice.open(configuration.mail, log.child({ part: 'mail' })),
    hits: await HitDesk.open(
      { sequelize, log: log.child({ part: 'hits' }), impressions, leads: clickLeads(impressions, sites) },
      hitFolder
    ),
    sandbox: new Sandbox(store),
    records: new RecordsDesk(threads, tapes.world, tapes.ready)
  }
  followTapes(deps)
  const collect = collecting(deps)
  runner.on('hour', (hour: number) => {
    void collect(hour)
    deps.feeds.onHour(hour)
  })
  await setUpDemo(deps, progress)
  reviewer.isAtOnce = configuration.review === 'at once'
  const state = await readMarket()
  checkWorld(state, configuration.world)
  void collect(state.hour)
  deps.feeds.onHour(state.hour)
  runner.status = { ...runner.status, hour: state.hour, fromHour: state.hour, targetHour: state.hour }
  tellFunds = tellPages(deps)
  watch.start()
  tapes.build(dayOfHour(state.hour) - 1)
  runner.watch()
  const application = makeApplication(deps)
  const server = createServer((req, res) => {
    if (!deps.hits.handle(req, res)) application(req, res)
  })
  // Longer than a page is idle between two calls: one that ends just as a call begins takes the call with it.
  server.keepAliveTimeout = KEEP_ALIVE_MS
  await listen(server, configuration)
  await runner.resume()
  sweepFiles(deps)
  return { deps, address: atHome(server, deps), close: () => close(server, deps) }
}

/** Tells services where this server is. @returns its address */
function atHome(server: Server, { sites, payments }: Deps): string {
  const { port } = server.address() as AddressInfo
  const address = `http://127.0.0.1:${port}`
  sites.atHome(address)
  payments.service.tells(`${address}/api/payments/notices`)
  payments.watch()
  return address
}

/** Asks offices for what is due by an hour, one hour after the other: one that comes meanwhile is asked about after this one. */
function collecting(deps: Deps): (hour: number) => Promise<void> {
  let asking: Promise<void> = Promise.resolve()
  return (hour) =>
    (asking = asking
      .then(() => collectAnswers(deps, hour))
      .catch((error: unknown) => deps.log.error({ err: error }, 'no answers of deal offices')))
}

/** Each new tape goes to those who answer from it; pages hear of it, and of the one that is made. */
function followTapes(deps: Deps): void {
  const { tapes, pool, events, runner, log } = deps
  tapes.on('tape', (tape: SharedTape, milliseconds: number, how: string) => {
    pool.setTape(tape)
    deps.liveLines
      .current()
      .then(() => (events.isHeard ? deps.possible.current() : undefined))
      .catch((err: unknown) => log.error({ err }, 'what lines in force take, and get of the possible, is not known'))
    events.send('tape', () => ({ kind: 'tape', ready: true, firstDay: tape.head.firstDay, share: 1 }))
    log.info({ rows: tape.head.rowCount, milliseconds: Math.round(milliseconds) }, `tape ${how}`)
  })
  tapes.on('refused', (reason: string) => log.warn({ reason }, 'the tape in the file was not used; it is built anew'))
  tapes.on('trouble', (error: unknown) => {
    log.error({ err: error }, 'no tape could be made')
    if (!tapes.current) events.send('tape', () => ({ kind: 'tape', ready: false, firstDay: null, share: -1 }))
    // Of the day before the clock, which may have moved meanwhile.
    setTimeout(() => tapes.build(dayOfHour(runner.status.hour) - 1), TAPE_AGAIN_MS).unref()
  })
  tapes.on('progress', (share: number) => {
    if (!tapes.current) events.send('tape', () => ({ kind: 'tape', ready: false, firstDay: null, share }))
  })
  runner.on(
    'finished',
    () =>
      void readMarket()
        .then(({ hour }) => tapes.build(dayOfHour(hour) - 1))
        .catch((error: unknown) => log.error({ err: error }, 'no new tape'))
  )
}

/** The library lies beside the tapes: what is kept between starts is in one folder, in which `files` are the database's. */
function openFiles(
  { tapes }: Configuration,
  sequelize: Sequelize
): Pick<Deps, 'store' | 'uploads'> & { hitFolder: string; paymentsFile: string } {
  const folder = tapes === null ? mkdtempSync(join(tmpdir(), 'tin-harbor-files-')) : join(tapes, 'library')
  return {
    store: new ContentStore(join(folder, 'contents')),
    uploads: new Uploads(sequelize, join(folder, 'uploads')),
    hitFolder: join(folder, 'hits'),
    paymentsFile: join(folder, 'payments', 'book.jsonl')
  }
}

/** Contents that nothing names, uploads that nobody went on with, and answers that are old go. */
function sweepFiles({ store, uploads, sequelize, log }: Deps): void {
  const sweep = async () => {
    const contents = await store.sweep(await namedContents())
    const given = await uploads.sweep()
    await sweepWork()
    await sweepKept(sequelize)
    if (contents.length > 0 || given > 0) log.info({ contents: contents.length, uploads: given }, 'swept')
  }
  const look = () => void sweep().catch((err: unknown) => log.error({ err }, 'files could not be swept'))
  setInterval(look, SWEEP_MS).unref()
  look()
}

/** A database holds the history of one world; facts of another would name other placements and people. */
function checkWorld(state: WorldSize, { seed, people, sample }: WorldSize): void {
  if (state.seed === seed && state.people === people && state.sample === sample) return
  throw new Error(
    `This database holds a market of ${state.people} people and seed ${state.seed}; this program runs one of ${people} and seed ${seed}. Move the folder .data/demo away to begin anew, or set DATABASE_URL to another database.`
  )
}

/** Every change of the run goes to all pages, with the balance it leaves. @returns what tells them when money moved without one */
function tellPages({ runner, events, sequelize, log, watch }: Deps): () => void {
  const tell = () =>
    void fundsBy(sequelize)
      .then((known) =>
        events.send('market', (actor) => ({
          kind: 'market',
          ...runner.statusFor(actor),
          funds: fundsView(known.get(actor.organisationId))
        }))
      )
      .catch(() => log.warn('the balance could not be read'))
  runner.on('status', tell)
  watch.on('away', () => {
    log.warn('the database is away')
    events.send('database', () => ({ kind: 'database', away: true }))
  })
  watch.on('back', () => {
    log.warn('the database is back')
    events.send('database', () => ({ kind: 'database', away: false }))
    tell()
  })
  tell()
  return tell
}

/** Listens on the first port that is free. */
async function listen(server: Server, { port: first, ports }: Pick<Configuration, 'port' | 'ports'>): Promise<void> {
  for (let port = first; ; port++) {
    try {
      await new Promise<void>((resolve, reject) => {
        server.once('error', reject)
        server.listen(port, '127.0.0.1', () => {
          server.off('error', reject)
          resolve()
        })
      })
      return
    } catch (error) {
      if ((error as { code?: string }).code !== 'EADDRINUSE' || port + 1 >= first + ports) throw error
    }
  }
}

async function close(
  server: Server,
  { runner, watch, pool, tapes, events, records, feeds, hits, sites, reviews, payments, mail, sellersWeb, dealOffice, sequelize }: Deps
): Promise<void> {
  events.close()
  watch.close()
  server.close()
  server.closeAllConnections()
  await runner.close()
  await pool.close()
  await records.close()
  await feeds.close()
  await hits.close()
  await sellersWeb.close()
  await sites.close()
  await reviews.reviewer.close()
  await payments.close()
  await mail.close()
  await dealOffice.close()
  await tapes.close()
  await sequelize.close()
}
