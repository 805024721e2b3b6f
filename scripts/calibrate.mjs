import { mkdirSync, writeFileSync } from 'node:fs'
import { buildServer } from './compile.mjs'
import { inProject } from './project.mjs'
import { report, round } from './bench/measure.mjs'
import { calibrateCampaigns, printCampaigns } from './calibrate/campaigns.mjs'
import { randomAds, randomLine } from './calibrate/random-line.mjs'
import { seeded } from './seeded.mjs'

/**
 * `npm run calibrate [delivery] [periods] [lines]`: whether ranges hold. Random lines over all formats are forecast from the tape,
 * and then every one is run alone over all people of the next seven days; nothing of the truth is on the tape. With `delivery`
 * the truth is what the exchange delivers to lines that were put live, each an organisation of its own. With `ads` at the end every line
 * has three to six ads, most of them with bids, caps or targeting of their own.
 *
 * `npm run calibrate campaigns [seed] [periods]`: whole campaigns with budgets, rates that are learned and lines that compete, as
 * forecast when they go live and after three days. Two periods say in minutes what twenty say well.
 */
const GIVEN = process.argv.slice(2).filter((argument) => argument !== '--')
const WITH_ADS = GIVEN.at(-1) === 'ads'
const ARGUMENTS = WITH_ADS ? GIVEN.slice(0, -1) : GIVEN
const AGAINST = ARGUMENTS[0] === 'delivery' ? 'delivery' : 'replay'
const [periodsText, linesText] = ARGUMENTS.slice(AGAINST === 'delivery' ? 1 : 0)
const PERIODS = Number(periodsText ?? 6)
const LINES = Number(linesText ?? 50)
/** Rows of the tape that a line matches in both weeks, a stratum each. */
const STRATA = [
  [20, 300],
  [300, 3_000],
  [3_000, 30_000],
  [30_000, 400_000]
]
/** Days between two periods: far enough that their weeks do not overlap. */
const APART = 23

await buildServer()
/** @type {any} */
const core = {}
for (const part of [
  'market',
  'exchange',
  'tape',
  'forecast',
  'response',
  'targeting',
  'dimensions',
  'taxonomy',
  'pricing',
  'places',
  'time'
])
  Object.assign(core, await import(inProject(`core/dist/${part}/index.js`)))
const { FORMATS, NO_LIMITS } = core
const KNOWN = Object.fromEntries(core.RATE_KINDS.map((/** @type {string} */ kind) => [kind, { factor: 1, sd: 0 }]))
const never = () => false
const size = process.env.TIN_HARBOR_PEOPLE ? { ...core.TENTH, people: Number(process.env.TIN_HARBOR_PEOPLE) } : core.FULL
const world = core.makeWorld(size)
const market = core.forecastMarket(
  { inventory: world.inventory, profiles: world.profiles, measures: core.publishMeasures(world.seed, world.inventory) },
  core.makeBenchmarks(world.inventory)
)

if (ARGUMENTS[0] === 'campaigns') {
  const found = calibrateCampaigns({ core, world, market }, { seed: Number(ARGUMENTS[1] ?? 1), periods: Number(ARGUMENTS[2] ?? 20) })
  mkdirSync(inProject('.bench'), { recursive: true })
  writeFileSync(inProject('.bench/calibration-campaigns-lines.json'), JSON.stringify(found))
  printCampaigns(found, report)
  process.exit(0)
}

/** People looked at together: a tape of them fits into memory, one of everybody does not. */
const SHARD = 150_000

/**
 * Adds what one shard of all people brings to each line, replayed with the same rules alone.
 * @param {any[]} lines @param {any} whole a tape of the shard whose second week is the one to come
 */
function addTruth(lines, whole) {
  for (const line of lines) {
    const matched = core.matchTape(line.question, whole, market, never)
    const { wins, reach } = core.replay(
      { tape: whole, market, question: line.question, matched, base: core.baseOf(line.question) },
      core.weekTimeline(whole, 1, 0),
      { full: false },
      never
    )
    line.truth += wins
    line.trueReach += reach
  }
}

/**
 * Runs all lines through the exchange for a week, each as if alone, and counts what it delivered.
 * @param {any[]} lines @param {number} nowHour
 */
function addDelivery(lines, nowHour) {
  const rules = lines.map(({ question }, n) => ({
    line: n + 1,
    revision: n + 1,
    campaign: 1,
    targeting: question.targeting,
    shapes: question.shapes,
    price: question.price,
    hours: question.hours,
    zone: question.zone,
    startHour: question.startHour,
    endHour: question.endHour,
    liveFromHour: question.startHour,
    limits: NO_LIMITS,
    pacing: 'even',
    caps: question.caps,
    demandMicros: 1,
    ads:
      question.ads?.map((/** @type {any} */ ad) => ({ ...ad, ad: n * 100 + ad.ad })) ??
      question.shapes.map((/** @type {number} */ shape) => ({ ad: n * 100 + shape, shape, weight: 1 }))
  }))
  const exchange = new core.Exchange(
    world,
    { publication: 1, lines: rules, campaigns: [], apart: true },
    { hour: nowHour, balanceMicros: 9e15, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() }
  )
  const people = lines.map(() => new Set())
  for (let hour = 0; hour < 7 * 24; hour++) {
    const facts = exchange.runHour()
    const log = core.openLog(facts.log, facts.wins, facts.crc)
    for (let i = 0; i < log.count; i++) {
      lines[log.line[i] - 1].truth++
      people[log.line[i] - 1].add(log.person[i])
    }
  }
  lines.forEach((line, n) => (line.trueReach = people[n].size))
}

/**
 * @type {{ stratum: number, format: string, capped: boolean, wins: number, low: number, high: number, truth: number,
 * reach: any, trueReach: number }[]}
 */
const found = []
for (let period = 0; period < PERIODS; period++) {
  const lastDay = 59 + period * APART
  const began = performance.now()
  const tape = core.buildTape(world, lastDay)
  /** @type {any[]} */
  const lines = []
  const random = seeded(9000 + period)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const nowHour = (lastDay + 1) * 24
  const counts = STRATA.map(() => 0)
  const wanted = STRATA.map((_, stratum) => Math.floor(LINES / 4) + (stratum < LINES % 4 ? 1 : 0))
  for (let tries = 0; tries < LINES * 60 && counts.some((count, stratum) => count < wanted[stratum]); tries++) {
    const { format, question } = randomLine(core, below, nowHour, { wide: below(4), days: 7 })
    // A replay knows the chance of what is paid for; the exchange learns what it is for this line.
    if (AGAINST === 'replay') question.history = { rates: KNOWN, learned: null, passed: [] }
    const matched = core.matchTape(question, tape, market, never)
    const stratum = STRATA.findIndex(([low, high]) => matched.rows.length >= low && matched.rows.length < high)
    if (stratum < 0 || counts[stratum] >= wanted[stratum]) continue
    counts[stratum]++
    // A bid somewhere between one in ten and nine in ten.
    const bases = [...matched.base].filter((base) => base < core.NEVER).sort((a, b) => a - b)
    if (bases.length === 0) continue
    const base = bases[Math.floor(bases.length * (0.1 + 0.8 * random()))]
    question.price.bidMicros = question.price.model === 'CPM' ? base * 1000 : base
    if (WITH_ADS) question.ads = randomAds(core, below, question)
    const work = core.workOut(question, tape, market, never, WITH_ADS ? undefined : matched)
    const { flight } = core.mainFigures(work, never)
    lines.push({
      question,
      stratum,
      format,
      capped: question.caps.length > 0,
      wins: flight.wins.value,
      low: flight.wins.low,
      high: flight.wins.high,
      truth: 0,
      reach: flight.reach,
      trueReach: 0,
      sd: work.sd
    })
  }
  if (AGAINST === 'delivery') addDelivery(lines, nowHour)
  else
    for (let from = 0; from < world.people; from += SHARD) {
      const numbers = Uint32Array.from({ length: Math.min(SHARD, world.people - from) }, (_, n) => from + n)
      addTruth(lines, core.buildTape(world, lastDay + 7, undefined, numbers))
    }
  found.push(...lines)
  console.log(`period ${period + 1}: ${counts.join(' + ')} lines, ${((performance.now() - began) / 1000).toFixed(0)} s`)
}

const share = (/** @type {typeof found} */ rows, /** @type {(row: typeof found[0]) => boolean} */ test) =>
  rows.length > 0 ? rows.filter(test).length / rows.length : NaN
const holds = (/** @type {typeof found[0]} */ row) => row.truth >= row.low && row.truth <= row.high
const reachHolds = (/** @type {typeof found[0]} */ row) => row.trueReach >= row.reach.low && row.trueReach <= row.reach.high
const median = (/** @type {number[]} */ values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN
const error = (/** @type {typeof found[0]} */ row) => Math.abs(row.wins / row.truth - 1)
const perCent = (/** @type {number} */ value) => `${(value * 100).toFixed(1).padStart(6)} %`
console.log('\nmatched rows on the tape      lines  range holds  reach holds  median error  median width')
for (const [stratum, [low, high]] of STRATA.entries()) {
  const rows = found.filter((row) => row.stratum === stratum)
  const sure = rows.filter((row) => row.truth > 0)
  console.log(
    `${String(low).padStart(8)} to ${String(high).padEnd(12)} ${String(rows.length).padStart(8)}     ${perCent(share(rows, holds))}     ${perCent(share(rows, reachHolds))}      ${perCent(median(sure.map(error)))}      ${perCent(median(sure.map((row) => (row.high - row.low) / Math.max(row.wins, 1))))}`
  )
}
for (const [name, rows] of /** @type {[string, typeof found][]} */ ([
  ...FORMATS.map((/** @type {string} */ format) => [format, found.filter((row) => row.format === format)]),
  ['with a cap', found.filter((row) => row.capped)],
  ['without a cap', found.filter((row) => !row.capped)]
])) {
  console.log(
    `${name.padEnd(28)} ${String(rows.length).padStart(5)}     ${perCent(share(rows, holds))}     ${perCent(share(rows, reachHolds))}`
  )
}
const BY_SIZE = [
  [0, 100],
  [100, 1000],
  [1000, 10_000],
  [10_000, Infinity]
]
const errorBySize = Object.fromEntries(
  BY_SIZE.map(([low, high]) => [
    `${low}+`,
    round(median(found.filter((row) => row.truth >= Math.max(1, low) && row.truth < high).map(error)))
  ])
)
const large = found.filter((row) => row.truth >= 1000)
const figures = {
  periods: PERIODS,
  lines: found.length,
  against: AGAINST,
  coverage80: round(share(found, holds)),
  reachCoverage80: round(share(found, reachHolds)),
  coverageByStratum: STRATA.map((_, stratum) =>
    round(
      share(
        found.filter((row) => row.stratum === stratum),
        holds
      )
    )
  ),
  largeLines: large.length,
  medianAbsError: Math.round(median(large.map(error)) * 10_000) / 10_000,
  medianWidth: round(median(large.map((row) => (row.high - row.low) / row.wins))),
  errorBySize
}
report(`calibration${AGAINST === 'delivery' ? '-delivery' : ''}${WITH_ADS ? '-ads' : ''}`, figures)
writeFileSync(inProject('.bench/calibration-lines.json'), JSON.stringify(found))
const met =
  figures.coverage80 >= 0.75 &&
  figures.coverage80 <= 0.9 &&
  figures.coverageByStratum.every((/** @type {number} */ value) => value >= 0.7 && value <= 0.95) &&
  figures.medianAbsError <= 0.1 &&
  figures.medianWidth <= 0.3
console.log(met ? 'All bounds are met.' : 'A bound is NOT met.')
if (!met) process.exitCode = 1
