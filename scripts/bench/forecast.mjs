import { blankQuestion } from '../blank-question.mjs'
import { inProject } from '../project.mjs'
import { quantile, report, round } from './measure.mjs'
import { anchorTimes, openDuck, questionSql } from './duck.mjs'

const ROUNDS = 15
const ANCHOR = { narrow: 101, wide: 229 }
const never = () => false

/**
 * The question a plain pass answers as well: over each of the two weeks of the tape, how much matches, is won, is spent
 * and is reached how often, with a rolling cap. No tables by person, no skipping of people: every row is looked at once.
 *
 * @param {any} tape @param {any} world @param {any} core @param {any} question
 */
function plainPass(tape, world, core, question) {
  const { COUNTRIES, POSTAL_COUNTRY, DEVICE_TYPES, DEVICE_TYPE, SHAPES, FIRST_PRICE, SOURCES } = core
  const wanted = Object.fromEntries(question.targeting.restrictions.map((/** @type {any} */ r) => [r.dimension, new Set(r.values)]))
  const [countries, devices, shapes] = [
    Uint8Array.from(COUNTRIES, (country) => (!wanted.where || wanted.where.has(country.code) ? 1 : 0)),
    Uint8Array.from(DEVICE_TYPES, (type) => (!wanted.device || wanted.device.has(type) ? 1 : 0)),
    Uint8Array.from(SHAPES, (shape, n) => (question.shapes.includes(n) && (!wanted.size || wanted.size.has(shape)) ? 1 : 0))
  ]
  const { path, device, rival, person, minute } = tape.rows
  const { floors, placements } = world.inventory
  const bid = Math.floor(question.price.bidMicros / 1000)
  const result = { matched: 0, wins: 0, spend: 0, reach: 0, frequency: new Array(10).fill(0) }
  /** @type {number[]} */
  let times = []
  let [last, lastWeek] = [-1, -1]
  const close = () => {
    if (times.length === 0) return
    result.reach++
    result.frequency[Math.min(10, times.length) - 1]++
    times = []
  }
  for (let i = 0; i < tape.rowCount; i++) {
    const p = person[i]
    const week = minute[i] < 10080 ? 0 : 1
    if (p !== last || week !== lastWeek) close()
    last = p
    lastWeek = week
    if (countries[POSTAL_COUNTRY[tape.words[p * 4] & 0x3fff]] === 0 || devices[DEVICE_TYPE[device[i]]] === 0) continue
    const pathIndex = path[i]
    if (shapes[placements[Math.floor(pathIndex / 6)].shape] === 0) continue
    result.matched++
    if (bid < floors[pathIndex] || bid <= rival[i]) continue
    if (
      question.caps.some(
        (/** @type {any} */ cap) => times.length >= cap.times && minute[i] - times[times.length - cap.times] < cap.hours * 60
      )
    )
      continue
    times.push(minute[i])
    result.wins++
    result.spend += FIRST_PRICE[pathIndex % SOURCES.length] === 1 ? bid : Math.max(floors[pathIndex], rival[i])
  }
  close()
  return result
}

/** @param {any} matched */
const sumRows = (matched) => matched.byGroup.reduce((/** @type {number} */ sum, /** @type {number} */ n) => sum + n, 0)

/** The same by our own parts. @param {any} tape @param {any} market @param {any} core @param {any} question @param {any} [kept] */
function ownPass(tape, market, core, question, kept) {
  const timelines = [0, 1].map((week) => core.weekTimeline(tape, week, 0))
  const matched = kept ?? core.matchTape(question, tape, market, never, { timelines, full: false, base: core.baseOf(question) })
  const play = { tape, market, question, matched, base: core.baseOf(question) }
  const weeks = timelines.map((timeline) => core.replay(play, timeline, { full: false }, never))
  const sum = (/** @type {string} */ key) => weeks[0][key] + weeks[1][key]
  const count = sumRows(matched)
  if (!kept) matched.kept?.release()
  return {
    matched: count,
    wins: sum('wins'),
    spend: core.sumOf(weeks[0].byGroup.spend) + core.sumOf(weeks[1].byGroup.spend),
    reach: sum('reach'),
    frequency: weeks[0].frequency.map((/** @type {number} */ n, /** @type {number} */ slot) => n + weeks[1].frequency[slot])
  }
}

export async function benchForecast() {
  /** @type {any} */
  const core = {}
  for (const part of ['market', 'tape', 'forecast', 'targeting', 'places', 'taxonomy', 'response', 'pricing'])
    Object.assign(core, await import(inProject(`core/dist/${part}/index.js`)))
  const world = core.makeWorld(core.FULL)
  const tape = core.buildTape(world, 59)
  const market = core.forecastMarket(
    { inventory: world.inventory, profiles: world.profiles, measures: core.publishMeasures(world.seed, world.inventory) },
    core.makeBenchmarks(world.inventory)
  )
  const include = (/** @type {string} */ dimension, /** @type {string[]} */ values) => ({ dimension, mode: 'include', values })
  const all = core.SHAPES.map((/** @type {string} */ _, /** @type {number} */ n) => n)
  const base = blankQuestion(core, { shapes: all })
  const cap = [{ times: 3, hours: 24 }]
  /** @type {Record<string, any>} */
  const questions = {
    narrow: {
      ...base,
      targeting: {
        restrictions: [
          include('where', ['PT', 'IE', 'AT']),
          include('device', ['phone']),
          include('size', ['300x250', '320x50', '320x100', 'native card'])
        ]
      }
    },
    wide: base,
    capped: { ...base, caps: cap }
  }
  const duck = await openDuck()
  const { rows } = tape
  const path = (/** @type {(path: number) => number} */ valueOf) => Uint16Array.from(rows.path, valueOf)
  await duck.load('tape', {
    person: { type: 'UINTEGER', values: rows.person },
    week: { type: 'UTINYINT', values: Uint8Array.from(rows.minute, (minute) => (minute < 10080 ? 0 : 1)) },
    minute: { type: 'USMALLINT', values: rows.minute },
    nth: { type: 'USMALLINT', values: Uint16Array.from(rows.person, (person, i) => i - tape.starts[person]) },
    country: { type: 'UTINYINT', values: Uint8Array.from(rows.person, (person) => core.POSTAL_COUNTRY[tape.words[person * 4] & 0x3fff]) },
    device: { type: 'UTINYINT', values: Uint8Array.from(rows.device, (device) => core.DEVICE_TYPE[device]) },
    shape: { type: 'UTINYINT', values: path((index) => world.inventory.placements[Math.floor(index / 6)].shape) },
    floor: { type: 'UINTEGER', values: Uint32Array.from(rows.path, (index) => world.inventory.floors[index]) },
    rival: { type: 'UINTEGER', values: rows.rival },
    first_price: { type: 'UTINYINT', values: path((index) => core.FIRST_PRICE[index % 6]) }
  })
  const setOf = (/** @type {any} */ question, /** @type {string} */ dimension, /** @type {string[]} */ names) => {
    const restriction = question.targeting.restrictions.find((/** @type {any} */ r) => r.dimension === dimension)
    return restriction ? restriction.values.map((/** @type {string} */ value) => names.indexOf(value)) : null
  }
  const sqlOf = (/** @type {any} */ question) =>
    questionSql({
      where: setOf(
        question,
        'where',
        core.COUNTRIES.map((/** @type {any} */ country) => country.code)
      ),
      device: setOf(question, 'device', core.DEVICE_TYPES),
      shape: setOf(question, 'size', core.SHAPES),
      bid: 1500,
      cap: question.caps.length > 0 ? { times: 3, minutes: 1440 } : null
    })
  for (const question of Object.values(questions)) {
    const [plain, own] = [plainPass(tape, world, core, question), ownPass(tape, market, core, question)]
    const [sql] = await duck.rows(sqlOf(question))
    const frequency = new Array(10).fill(0)
    for (const { key, value } of sql.frequency.entries) frequency[Number(key) - 1] = Number(value)
    const said = { matched: Number(sql.matched), wins: Number(sql.wins), spend: Number(sql.spend), reach: Number(sql.reach), frequency }
    if (JSON.stringify(plain) !== JSON.stringify(own) || JSON.stringify(said) !== JSON.stringify(own))
      throw new Error(`The answers differ: ${JSON.stringify(plain)}, ${JSON.stringify(own)} and ${JSON.stringify(said)}`)
  }
  /** @type {Record<string, () => unknown>} */
  const tasks = {}
  const keptNarrow = core.matchTape(questions.narrow, tape, market, never)
  const works = Object.fromEntries(Object.entries(questions).map(([name, question]) => [name, core.workOut(question, tape, market, never)]))
  for (const [name, question] of Object.entries(questions)) {
    tasks[`${name} own`] = () => ownPass(tape, market, core, question)
    tasks[`${name} plain`] = () => plainPass(tape, world, core, question)
    tasks[`${name} duck`] = () => duck.rows(sqlOf(question))
    tasks[`${name} full`] = () => {
      const work = core.workOut(question, tape, market, never)
      core.mainFigures(work, never)
      work.matched.kept?.release()
    }
  }
  const budget = { ...questions.narrow, caps: cap, limits: { ...core.NO_LIMITS, dailyMicros: 3_000_000 } }
  const budgetKept = core.matchTape(budget, tape, market, never)
  Object.assign(tasks, {
    'bid only': () => ownPass(tape, market, core, { ...questions.narrow, price: { ...base.price, bidMicros: 1_700_000 } }, keptNarrow),
    sieve: () => core.sieve(questions.narrow, tape, market, never),
    ladder: () => core.ladder(works.narrow, never),
    money: () => core.mainFigures(core.workOut(budget, tape, market, never, budgetKept), never)
  })
  /** @type {Record<string, number[]>} */
  const times = Object.fromEntries(Object.keys(tasks).map((name) => [name, []]))
  for (let n = 0; n <= ROUNDS; n++) {
    for (const [name, task] of Object.entries(tasks)) {
      const began = performance.now()
      await task()
      if (n > 0) times[name].push(performance.now() - began)
    }
  }
  const anchor = await anchorTimes(duck)
  duck.close()
  const median = (/** @type {string} */ name) => quantile(times[name], 0.5)
  const columnOf = (/** @type {string} */ name) => ({
    medianMs: round(median(`${name} own`)),
    p95Ms: round(quantile(times[`${name} own`], 0.95)),
    duckdbMs: round(median(`${name} duck`)),
    plainMs: round(median(`${name} plain`)),
    mainFiguresMs: round(median(`${name} full`))
  })
  const ratio = (/** @type {string} */ name, /** @type {string} */ other) => round(median(`${name} ${other}`) / median(`${name} own`))
  const isFair = anchor.narrow <= 1.3 * ANCHOR.narrow && anchor.wide <= 1.3 * ANCHOR.wide
  report('forecast', {
    rows: tape.rowCount,
    narrowShare: round((100 * keptNarrow.rows.length) / tape.rowCount),
    narrow: columnOf('narrow'),
    wide: columnOf('wide'),
    capped: columnOf('capped'),
    ratioNarrow: ratio('narrow', 'duck'),
    ratioWide: ratio('wide', 'duck'),
    ratioCapped: ratio('capped', 'duck'),
    ratioPlainNarrow: ratio('narrow', 'plain'),
    ratioPlainWide: ratio('wide', 'plain'),
    ratioPlainCapped: ratio('capped', 'plain'),
    ratioBidOnlyNarrow: round(median('narrow plain') / median('bid only')),
    bidOnlyMs: round(median('bid only')),
    anchorSqlMs: { narrow: round(anchor.narrow), wide: round(anchor.wide) },
    anchorMs: ANCHOR,
    sieveMs: round(median('sieve')),
    ladderMs: round(median('ladder')),
    moneyMs: round(median('money'))
  })
  console.log(
    isFair
      ? 'The SQL is within 1.3 times of its anchors.'
      : 'The SQL is slower than 1.3 times its anchors on this machine now: the ratios against it are void.'
  )
}
