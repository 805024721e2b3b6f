import { inProject } from '../project.mjs'
import { seeded } from '../seeded.mjs'
import { quantile, report, round } from './measure.mjs'

export const DAY = 60
export const START = DAY * 24
const ROUNDS = 3
const SIZES = [10, 50, 100, 1000, 5000]
const MIX = 'traders: one country, device class and format each; about 0.25 % match; budgets for 10 to 15 % of traffic; seed 5'

/**
 * Lines as traders have them: one country, one device class, one format; half with an age band and a category.
 * @param {any} core @param {number} count
 */
export function traders(core, count) {
  const random = seeded(5)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const include = (/** @type {string} */ dimension, /** @type {string[]} */ values) => ({ dimension, mode: 'include', values })
  const weights = core.COUNTRIES.map((/** @type {any} */ country) => country.weight)
  const all = weights.reduce((/** @type {number} */ sum, /** @type {number} */ weight) => sum + weight, 0)
  const country = () => {
    let left = random() * all
    return core.COUNTRIES.find((/** @type {any} */ country) => (left -= country.weight) < 0) ?? core.COUNTRIES[0]
  }
  return Array.from({ length: count }, (_, n) => {
    const format = core.FORMATS[below(5)]
    const devices = format === 'video' ? ['phone', 'desktop', 'TV'] : ['phone', 'phone', 'desktop', 'tablet']
    const shapes = core.shapesOf(format).map((/** @type {string} */ shape) => core.SHAPES.indexOf(shape))
    const restrictions = [include('where', [country().code]), include('device', [devices[below(devices.length)]])]
    if (below(2)) restrictions.push(include('age', core.AGES.slice(below(4), 4 + below(4))))
    if (below(3) === 0)
      restrictions.push(
        include('category', [core.BRANCHES[below(core.BRANCHES.length)].name, core.BRANCHES[below(core.BRANCHES.length)].name])
      )
    return {
      line: n + 1,
      revision: n + 1,
      campaign: 1,
      targeting: { restrictions },
      shapes,
      price: { model: 'CPM', bidMicros: (600 + below(2400)) * 1000, maxMicros: null },
      zone: 'UTC',
      startHour: START,
      endHour: START + 30 * 24,
      liveFromHour: START,
      limits: { ...core.NO_LIMITS, dailyMicros: 150_000 + below(600_000) },
      pacing: 'even',
      caps: [{ times: 3, hours: 24 }],
      ads: shapes.map((/** @type {number} */ shape) => ({ ad: n * 20 + shape, shape, weight: 1 })),
      demandMicros: 1
    }
  })
}

/**
 * Matching without sets: for every lane that any line reads a table of bytes, value x line, so that lines lie side by side.
 * @param {any} core @param {readonly any[]} compiled @param {readonly Uint8Array[]} paths @param {number} pages
 */
function flatTables(core, compiled, paths, pages) {
  const count = compiled.length
  const table = (/** @type {number} */ size, /** @type {(line: number, value: number) => boolean} */ fails) => {
    const bytes = new Uint8Array(size * count)
    for (let value = 0; value < size; value++) for (let l = 0; l < count; l++) if (fails(l, value)) bytes[value * count + l] = 1
    return bytes
  }
  const ofLane = (/** @type {string} */ lane, /** @type {number} */ size) =>
    compiled.some((line) => line.lanes[lane]) ? table(size, (l, value) => (compiled[l].lanes[lane]?.[value] ?? 0) !== 0) : null
  const path = table(paths[0].length, (l, value) => paths[l][value] === 0)
  const [postal, device, demographic, page] = [
    ofLane('postal', core.POSTALS.length),
    ofLane('device', core.DEVICE_CODES),
    ofLane('demographic', core.DEMOGRAPHICS),
    ofLane('page', pages)
  ]
  return (/** @type {Int32Array} */ words, /** @type {any} */ rows, /** @type {number} */ from, /** @type {number} */ to) => {
    let found = 0
    for (let i = from; i < to; i++) {
      const word = rows.person[i] * 4
      const [p, q, d, a, g] = [
        rows.path[i] * count,
        core.postalOf(words[word]) * count,
        rows.device[i] * count,
        core.demographicOf(words[word + 1]) * count,
        rows.page[i] * count
      ]
      for (let l = 0; l < count; l++) {
        if (postal && postal[q + l] !== 0) continue
        if (path[p + l] !== 0) continue
        if (device && device[d + l] !== 0) continue
        if (demographic && demographic[a + l] !== 0) continue
        if (page && page[g + l] !== 0) continue
        found++
      }
    }
    return found
  }
}

export async function benchMarket() {
  /** @type {any} */
  const core = {}
  for (const part of ['market', 'exchange', 'places', 'targeting', 'time', 'taxonomy'])
    Object.assign(core, await import(inProject(`core/dist/${part}/index.js`)))
  const world = core.makeWorld(core.FULL)
  const catalogue = core.catalogueOf(world)
  const made = core.makeDay(world, DAY)
  const { rows, hourStart } = made
  // Matching is timed over stretches spread over the day, in the order of the market.
  const stretches = [3, 9, 13, 18, 21].map((hour) => [hourStart[hour], hourStart[hour] + 20_000])
  const sizes = []
  let matchedPerOpportunity = 0
  for (const lines of SIZES) {
    const rules = traders(core, lines)
    const matcher = new core.Matcher(
      rules.map((rule) => rule.targeting),
      catalogue,
      rules.map((rule) => core.buyablePaths(rule, world.inventory))
    )
    const compiled = rules.map((rule) => core.compileTargeting(rule.targeting, catalogue))
    const paths = rules.map((rule) => core.buyablePaths(rule, world.inventory))
    const bySets = () => {
      let found = 0
      for (const [from, to] of stretches) {
        for (let i = from; i < to; i++) {
          if ((i - from) % core.BLOCK_ROWS === 0) matcher.locate(world.persons, rows, i, Math.min(to, i + core.BLOCK_ROWS))
          const n = matcher.match(world.persons, rows, i)
          for (let w = 0; w < n; w++) for (let bits = matcher.foundBits[w]; bits !== 0; bits &= bits - 1) found++
        }
      }
      return found
    }
    const flat = flatTables(core, compiled, paths, world.inventory.pages.count)
    /** The same by flat tables: a byte a line and value, one line after the other, the likeliest to fail first. */
    const byTables = (/** @type {number} */ part) => {
      let found = 0
      for (const [from, to] of stretches) found += flat(world.persons.words, rows, from, from + Math.floor((to - from) / part))
      return found
    }
    const part = lines >= 1000 ? 20 : 2
    if (lines <= 1000) {
      const [a, b] = [bySets(), byTables(1)]
      if (a !== b) throw new Error(`The two matchings differ: ${a} and ${b}.`)
    }
    const seen = stretches.reduce((sum, [from, to]) => sum + to - from, 0)
    /** @type {Record<string, number[]>} */
    const times = { sets: [], tables: [] }
    for (let round = 0; round < 5; round++) {
      let began = performance.now()
      const found = bySets()
      times.sets.push((performance.now() - began) / seen)
      if (lines === 1000) matchedPerOpportunity = round === 0 ? found / seen : matchedPerOpportunity
      began = performance.now()
      byTables(part)
      times.tables.push(((performance.now() - began) * part) / seen)
    }
    const { sets: bySet, tables: byTable } = times
    const [setMs, tableMs] = [quantile(bySet, 0.5), quantile(byTable, 0.5)]
    const perSecond = (/** @type {number} */ ms) => Math.round(1000 / ms)
    sizes.push({ lines, rules, matchPerSecond: perSecond(setMs), flatPerSecond: perSecond(tableMs), ratio: round(tableMs / setMs) })
  }
  const runs = runWhole(
    core,
    world,
    made,
    sizes.map(({ rules }) => rules)
  )
  const table = sizes.map(({ lines, matchPerSecond, flatPerSecond, ratio }, n) => ({
    lines,
    ...runs[n],
    matchPerSecond,
    flatPerSecond,
    ratio
  }))
  for (const row of table)
    console.log(
      `${String(row.lines).padStart(5)} lines: matched ${row.matchPerSecond} a second, by flat tables ${row.flatPerSecond}, ${row.ratio} times; whole run ${row.perSecond} opportunities a second, sold alone ${row.soldPerSecond}`
    )
  const week = await demoWeek()
  const costAgainst10 = (/** @type {'perSecond' | 'soldPerSecond'} */ what) =>
    round((table.find((one) => one.lines === 10)?.[what] ?? NaN) / (table.find((one) => one.lines === 1000)?.[what] ?? NaN))
  report('market', {
    mix: MIX,
    matchedPerOpportunity: Math.round(matchedPerOpportunity * 1000) / 1000,
    sizes: table,
    costAt1000Against10: costAgainst10('perSecond'),
    soldCostAt1000Against10: costAgainst10('soldPerSecond'),
    ...week,
    opportunitiesPerDay: made.rows.count
  })
}

/**
 * Whole runs of a day on one thread, without a database: its opportunities are made, matched and sold, and the hours' facts packed.
 * Sizes take turns, so that what else the machine does falls on all of them. Beside it what selling alone takes, of a
 * day that was made before.
 * @param {any} core @param {any} world @param {any} made @param {readonly any[][]} publications
 */
function runWhole(core, world, made, publications) {
  const day = (/** @type {any[]} */ lines, /** @type {boolean} */ isMade) => {
    const opening = { hour: START, balanceMicros: 1e13, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() }
    const publication = {
      publication: 1,
      lines,
      campaigns: [{ campaign: 1, zone: 'UTC', startHour: 0, endHour: null, limits: core.NO_LIMITS }]
    }
    const exchange = new core.Exchange(world, publication, opening, isMade ? () => made : () => core.makeDay(world, DAY))
    const began = performance.now()
    for (let hour = 0; hour < 24; hour++) exchange.runHour()
    return performance.now() - began
  }
  const times = publications.map(() => ({ whole: /** @type {number[]} */ ([]), sold: /** @type {number[]} */ ([]) }))
  for (let round = 0; round < ROUNDS; round++) {
    publications.forEach((lines, n) => {
      times[n].whole.push(day(lines, false))
      times[n].sold.push(day(lines, true))
    })
  }
  const perSecond = (/** @type {number[]} */ ms) => Math.round(made.rows.count / (quantile(ms, 0.5) / 1000))
  return times.map(({ whole, sold }) => ({ perSecond: perSecond(whole), soldPerSecond: perSecond(sold) }))
}

/** A day and a week of the demo with database and threads, on a server of its own. */
async function demoWeek() {
  const { startDatabase } = await import('../database.mjs')
  const { dataFolder } = await import('../install.mjs')
  const { demoTrader, startTestServer } = await import('../test-server.mjs')
  const database = await startDatabase(dataFolder('bench'), { schema: 'bench_market', bufferMb: 256, forTests: true })
  const server = await startTestServer(database.url, '', { checks: false })
  try {
    const trader = await demoTrader(server.address)
    const dayMs = await trader.run(24)
    const weekMs = await trader.run(7 * 24)
    const reads = []
    for (let n = 0; n < 24; n++) {
      const began = performance.now()
      await trader.read(`reports?by=${['placement', 'country', 'device', 'age', 'category', 'hour'][n % 6]}&from=2026-02-16&to=2026-03-15`)
      reads.push(performance.now() - began)
    }
    return {
      dayMs: Math.round(dayMs),
      weekMs: Math.round(weekMs),
      reportP50Ms: round(quantile(reads, 0.5)),
      reportP95Ms: round(quantile(reads, 0.95))
    }
  } finally {
    await server.stop()
    await database.stop()
  }
}
