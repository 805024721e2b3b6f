import { buildServer } from './compile.mjs'
import { installPackages } from './install.mjs'
import { inProject } from './project.mjs'

/**
 * npm run day -- [market day] [people]: makes one day of the market, runs six lines through it, and prints checksums
 * and times. The same arguments print the same checksums on every machine.
 */
await installPackages()
await buildServer()
const { TENTH, makeDay, makeWorld, opportunityColumns, worldHash } = await import(inProject('core/dist/market/index.js'))
const { Exchange, ExposureBook, NO_LIMITS } = await import(inProject('core/dist/exchange/index.js'))
const { hashColumns } = await import(inProject('core/dist/random/index.js'))

const day = Number(process.argv[2] ?? 60)
const world = makeWorld({ ...TENTH, people: Number(process.argv[3] ?? TENTH.people) })
console.log(`world of ${world.people} people: ${worldHash(world)}`)
let began = performance.now()
const made = makeDay(world, day)
console.log(
  `day ${day}, ${made.rows.count} opportunities in ${(performance.now() - began).toFixed(0)} ms: ${hashColumns(opportunityColumns(made.rows))}`
)

const lines = ['PT', 'ES', 'FR', 'DE', 'GB', 'US'].map((country, n) => ({
  line: n + 1,
  revision: n + 1,
  campaign: 1,
  targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: [country] }] },
  price: { model: 'CPM', bidMicros: 1_000_000 + n * 250_000, maxMicros: null },
  zone: 'Europe/Lisbon',
  startHour: day * 24,
  endHour: day * 24 + 24,
  liveFromHour: day * 24,
  limits: { ...NO_LIMITS, dailyMicros: n % 2 ? 3_000_000 : null },
  pacing: n % 3 ? 'even' : 'fast',
  caps: n % 2 ? [{ times: 3, hours: 24 }] : [],
  ads: Array.from({ length: 8 }, (_, size) => ({ ad: n * 10 + size, shape: size, weight: 1 })),
  demandMicros: 1
}))
const exchange = new Exchange(
  world,
  { publication: 1, lines, campaigns: [] },
  { hour: day * 24, balanceMicros: 1e12, lines: new Map(), campaigns: new Map(), exposures: new ExposureBook() },
  () => made
)
began = performance.now()
const hours = Array.from({ length: 24 }, () => exchange.runHour())
const milliseconds = performance.now() - began
const wins = hours.reduce((sum, hour) => sum + hour.wins, 0)
const spend = hours.reduce((sum, hour) => sum + hour.spendMicros, 0)
console.log(
  `${wins} bought for ${(spend / 1e6).toFixed(6)} in ${milliseconds.toFixed(0)} ms, ${Math.round((made.rows.count / milliseconds) * 1000)} opportunities a second: ${hashColumns(hours.map((hour) => hour.log))}`
)
