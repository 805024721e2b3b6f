import { blankQuestion } from '../blank-question.mjs'

const START = 60 * 24
const DAYS = 14
const never = () => false

/** What one win is worth to a goal by true rates. @param {any} truth @param {string} measure */
const worthBy = (truth, measure) => {
  const event = { views: 'view', visits: 'click', conversions: 'conversion' }[measure]
  return (/** @type {any} */ log, /** @type {number} */ i, /** @type {number} */ hour) => (event ? truth.of(log, i, hour, event) : 1)
}

/**
 * Runs both weeks by the rules that each morning brings.
 * @param {any} tools @param {(day: number) => any} rulesOn @param {(log: any, i: number, hour: number) => number} worth
 */
function runWeeks({ core, world, dayOf }, rulesOn, worth) {
  const opening = { hour: START, balanceMicros: 1e13, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() }
  let [spend, brought] = [0, 0]
  for (let day = 0; day < DAYS; day++) {
    const publication = {
      publication: 1 + day,
      lines: [rulesOn(day)],
      campaigns: [{ campaign: 1, zone: 'UTC', startHour: 0, endHour: null, limits: core.NO_LIMITS }]
    }
    // People keep what they saw; everything else begins with the day.
    const exchange = new core.Exchange(world, publication, { ...opening, hour: START + day * 24 }, dayOf)
    for (let hour = 0; hour < 24; hour++) {
      const facts = exchange.runHour()
      const log = core.openLog(facts.log, facts.wins, facts.crc)
      spend += facts.spendMicros
      for (let i = 0; i < log.count; i++) brought += worth(log, i, facts.hour)
    }
  }
  return { spend, brought }
}

/** A line's rules at the settings of a question. @param {any} tools @param {any} rules @param {any} question @param {any} tape */
function atSettings({ core, market }, rules, question, tape) {
  const live = question.follow || question.pacing === 'traffic' ? core.forLive(question, tape, market, never) : null
  const { targeting, price, caps, limits, pacing, hours, gapMinutes } = question
  return { ...rules, targeting, price, caps, limits, pacing, hours, gapMinutes, traffic: live?.traffic, follow: live?.landscape ?? null }
}

/** A broad line at the bid that wins half, with a part of the money that it could spend. @param {any} tools @param {any} tape */
function asTraderSets({ core, market, line, below, random }, tape) {
  const format = core.FORMATS[below(4)]
  const measure = ['wins', 'visits', 'views'][below(format === 'video' || format === 'audio' ? 3 : 2)]
  const countries = [...new Set(Array.from({ length: 2 + below(4) }, () => core.COUNTRIES[below(24)].code))]
  const rules = line(format, {
    targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: countries }] },
    caps: below(2) ? [{ times: 2 + below(3), hours: 24 }] : [],
    endHour: START + 28 * 24
  })
  const question = blankQuestion(core, {
    targeting: rules.targeting,
    shapes: rules.shapes,
    caps: rules.caps,
    startHour: START,
    endHour: START + 28 * 24,
    nowHour: START
  })
  const { marks } = core.ladder(core.workOut(question, tape, market, never), never)
  if (!marks.half) return null
  question.price = { ...question.price, bidMicros: Math.ceil(marks.half / 1000) * 1000 }
  const free = core.mainFigures(core.workOut(question, tape, market, never), never)
  const dailyMicros = Math.round(free.day.spend.value * (0.1 + 0.5 * random()))
  if (free.tooFew || dailyMicros < 50_000) return null
  return { format, measure, rules, question: { ...question, limits: { ...core.NO_LIMITS, dailyMicros } } }
}

/**
 * The first advice for the same money that gains a twentieth, of moves that keep whom the line is for; nothing where there is none.
 * @param {any} tools @param {any} question @param {string} measure @param {any} tape
 */
function remarkOf({ core, market }, question, measure, tape) {
  const parts = [...core.answer(question, measure, tape, market, never)]
  const { day } = parts.find(({ part }) => part === 'figures').figures
  return parts
    .find(({ part }) => part === 'advice')
    .advice.find(
      (/** @type {any} */ { takesMore, gain, changes }) =>
        !takesMore &&
        gain >= 0.05 * day[measure].value &&
        changes.every((/** @type {any} */ { kind }) => kind !== 'restriction' && kind !== 'left out')
    )
}

/** The oracle's settings: bids, following the market, caps. @param {any} question */
function* settings(question) {
  const caps = question.caps.length > 0 ? [question.caps, []] : [[]]
  for (const own of caps) {
    yield { ...question, follow: true, caps: own }
    for (const share of [0.2, 0.4, 0.7, 1, 1.5]) {
      const bidMicros = Math.max(1000, Math.round((question.price.bidMicros * share) / 1000) * 1000)
      yield { ...question, price: { ...question.price, bidMicros }, caps: own }
    }
  }
}

/**
 * Lines set as a trader sets them, broad and at the bid that wins half, run two weeks: as they were set; with the first advice for the same
 * money taken each morning; and at the best fixed settings in hindsight, an oracle of the same moves (bid, cap, following the market, pace)
 * that reads the market's hidden rates. All are judged by true rates: what their wins were worth to the goal, for the same money a day.
 * @param {{ core: any, world: any, dayOf: Function, line: Function, seeded: (seed: number) => () => number, round: (n: number) =>
 * number, trueRates: () => any, median: (values: number[]) => number }} given
 * @param {number} wanted lines
 */
export function possibleTruth(given, wanted) {
  const { core, world, round, median } = given
  const catalogue = { inventory: world.inventory, profiles: world.profiles, measures: core.publishMeasures(world.seed, world.inventory) }
  const random = given.seeded(5200)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const tools = { ...given, random, below, market: core.forecastMarket(catalogue, core.makeBenchmarks(world.inventory)) }
  const first = core.buildTape(world, START / 24 - 1)
  const truth = given.trueRates()
  const found = []
  for (let tries = 0; found.length < wanted && tries < 10 * wanted; tries++) {
    const made = asTraderSets(tools, first)
    if (!made) continue
    const { format, measure, rules, question } = made
    const worth = worthBy(truth, measure)
    const asSet = runWeeks(tools, () => atSettings(tools, rules, question, first), worth)
    let own = question
    let taken = 0
    const steered = runWeeks(
      tools,
      (day) => {
        const tape = day === 0 ? first : core.buildTape(world, START / 24 - 1 + day)
        const remark = remarkOf(tools, { ...own, nowHour: START + day * 24 }, measure, tape)
        if (remark) {
          own = core.changed(own, ...remark.changes)
          taken++
        }
        return atSettings(tools, rules, own, tape)
      },
      worth
    )
    let oracle = asSet
    for (const fixed of settings(question)) {
      const was = runWeeks(tools, () => atSettings(tools, rules, fixed, first), worth)
      if (was.brought > oracle.brought && was.spend <= 1.02 * DAYS * question.limits.dailyMicros) oracle = was
    }
    const row = { asSet: asSet.brought / oracle.brought, steered: steered.brought / oracle.brought }
    found.push(row)
    console.log(
      `line ${String(found.length).padStart(2)} ${format}, ${measure}: as set ${round(100 * row.asSet)} % of the oracle, with the remarks ${round(100 * row.steered)} % (${taken} taken); spent ${round(asSet.spend / 1e6)}, ${round(steered.spend / 1e6)}, ${round(oracle.spend / 1e6)}`
    )
  }
  const mean = (/** @type {number[]} */ values) => values.reduce((sum, value) => sum + value, 0) / values.length
  const steered = found.map((row) => row.steered)
  const figures = {
    lines: found.length,
    asSet: round(100 * mean(found.map(({ asSet }) => asSet))),
    steered: round(100 * mean(steered)),
    medianSteered: round(100 * median(steered))
  }
  console.log(`${figures.lines} lines: as set ${figures.asSet} % of the oracle in the mean, with the remarks ${figures.steered} %`)
  return figures
}
