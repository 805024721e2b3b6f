import { seeded } from '../seeded.mjs'
import { randomLine } from './random-line.mjs'

/** Days before the second forecast, and those that it is of. */
const BEFORE = 3
const AFTER = 7
/** Days between two periods: far enough that their days do not overlap. */
const APART = 27
const CAMPAIGNS = 12
/** Events that a figure must expect for its range to be judged. */
const LEAST_EVENTS = 3
const FIGURES = ['wins', 'spend', 'reach', 'views', 'visits', 'conversions']
const never = () => false

/**
 * Campaigns of 3 to 8 lines over all formats and ways of paying, with budgets, caps, hours and paces: what is forecast of each line when it
 * goes live, and again after three days, against what the exchange delivers to all of them at once. In every second period the lines
 * compete for the same people, in the others each buys as if it were alone.
 * @param {{ core: any, world: any, market: any }} tools
 * @param {{ seed: number, periods: number, from?: number }} asked
 */
export function calibrateCampaigns(tools, { seed, periods, from = 0 }) {
  /** @type {any[]} */
  const found = []
  for (let period = from; period < from + periods; period++) {
    const began = performance.now()
    const lines = periodOf(tools, { seed: seed * 1000 + period, lastDay: 59 + period * APART, compete: period % 2 === 1 })
    found.push(...lines)
    console.log(`period ${period + 1}: ${lines.length} lines, ${((performance.now() - began) / 1000).toFixed(0)} s`)
  }
  return found
}

/** @param {any} tools @param {{ seed: number, lastDay: number, compete: boolean }} asked */
function periodOf({ core, world, market }, { seed, lastDay, compete }) {
  const random = seeded(seed)
  for (let n = 0; n < 8; n++) random()
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const tape = core.buildTape(world, lastDay)
  const nowHour = (lastDay + 1) * 24
  /** @type {any[]} */
  const campaigns = []
  /** @type {any[]} */
  const lines = []
  for (let c = 1; c <= CAMPAIGNS; c++) {
    const trackers = Array.from({ length: 1 + below(2) }, (_, n) => ({
      advertiser: c,
      tracker: c * 10 + n,
      kind: n === 1 ? 'request' : ['purchase', 'booking', 'trial'][below(3)],
      subject: null,
      clickHours: 720,
      viewHours: below(2) ? 24 : null,
      valueMicros: 30_000_000
    }))
    const campaign = { campaign: c, trackers, lines: /** @type {any[]} */ ([]), limits: core.NO_LIMITS, bound: below(2) === 0 }
    campaigns.push(campaign)
    const count = 3 + below(6)
    for (let tries = 0; campaign.lines.length < count && tries < 400; tries++) {
      const line = makeLine(core, market, tape, { below, random, nowHour, counted: trackers })
      if (!line) continue
      Object.assign(line, { line: lines.length + 1, campaign: c, compete })
      campaign.lines.push(line)
      lines.push(line)
    }
    setMoney(core, campaign, below, random)
  }
  for (const line of lines) line.made = Array.from({ length: 3 }, () => below(1e9))
  ask(core, market, tape, { lines, campaigns, when: 'first' })
  const run = startRun(core, world, { lines, campaigns, nowHour, compete })
  run.go(BEFORE * 24)
  const later = core.buildTape(world, lastDay + BEFORE)
  for (const line of lines) {
    const { total, exposures } = run.ofLine(line.line)
    const spent = { micros: total.spendMicros, impressions: total.wins }
    const none = { micros: 0, impressions: 0 }
    Object.assign(line.question, {
      nowHour: nowHour + BEFORE * 24,
      spent: { day: none, week: none, month: none, total: spent },
      exposures,
      weightMicros: line.live.forecast.demandMicros,
      history: run.historyOf(line)
    })
  }
  ask(core, market, later, { lines, campaigns, when: 'second' })
  const before = lines.map(({ line }) => run.resultOf(line))
  run.forgetReach()
  run.go(AFTER * 24)
  lines.forEach((line, n) => {
    const all = run.resultOf(line.line)
    line.second.came = Object.fromEntries(FIGURES.map((name) => [name, name === 'reach' ? all.late : all[name] - before[n][name]]))
    line.first.came = all
  })
  return lines.map(({ line, campaign, format, model, follow, bound, first, second, question }) => ({
    line,
    campaign,
    format,
    model,
    follow,
    bound,
    compete,
    pacing: question.pacing,
    limits: question.limits.dailyMicros,
    bid: question.price.bidMicros,
    first,
    second
  }))
}

/** @param {any} core @param {any} market @param {any} tape @param {any} asked */
function makeLine(core, market, tape, { below, random, nowHour, counted }) {
  const { format, question } = randomLine(core, below, nowHour, { wide: 1 + below(3), days: BEFORE + AFTER })
  const matched = core.matchTape(question, tape, market, never)
  if (matched.rows.length < 1000 || matched.rows.length > 400_000) return null
  const bases = [...matched.base].filter((base) => base < core.NEVER).sort((a, b) => a - b)
  if (bases.length === 0) return null
  const base = bases[Math.floor(bases.length * (0.15 + 0.7 * random()))]
  const { model } = question.price
  question.price.bidMicros = model === 'CPM' ? base * 1000 : base
  question.pacing = ['even', 'even', 'traffic'][below(3)]
  question.counted = counted.map((/** @type {any} */ { kind, clickHours, viewHours }) => ({ kind, clickHours, viewHours }))
  const follow = model !== 'CPC' && model !== 'view' && below(6) === 0
  const { wins, spend } = core.mainFigures(core.workOut(question, tape, market, never, matched), never).day
  // Of a line that buys hardly anything there is nothing to say.
  if (wins.value < 100 || spend.value < 300_000) return null
  question.follow = follow
  return { format, model, question, follow, demand: spend.value }
}

/**
 * Budgets: half of the campaigns have a day, half of the others' lines one of their own.
 * @param {any} core @param {any} campaign @param {(n: number) => number} below @param {() => number} random
 */
function setMoney(core, campaign, below, random) {
  const { lines, bound } = campaign
  const demand = lines.reduce((/** @type {number} */ sum, /** @type {any} */ line) => sum + line.demand, 0)
  if (bound) campaign.limits = { ...core.NO_LIMITS, dailyMicros: Math.round(demand * (0.15 + 0.5 * random())) }
  for (const line of lines) {
    if (line.follow || below(bound ? 4 : 2) === 0)
      line.question.limits = { ...core.NO_LIMITS, dailyMicros: Math.round(line.demand * (0.15 + 0.6 * random())) }
  }
}

/** @param {any} core @param {any} market @param {any} tape @param {{ lines: any[], campaigns: any[], when: 'first' | 'second' }} asked */
function ask(core, market, tape, { lines, campaigns, when }) {
  // Weights and what others take depend on each other: they are worked out twice before anything is told.
  market.own = null
  for (let round = 0; round < 2; round++) {
    share(lines, campaigns)
    if (lines[0].compete) {
      const takers = lines.map(({ line, question }) => core.takerOf({ line, question }, tape, market, never))
      market.own = new core.OwnLines(tape, takers)
      for (const line of lines) line.question.among = line.line
    }
    if (when === 'first') for (const line of lines) line.demand = core.workOut(line.question, tape, market, never).demandMicros
  }
  share(lines, campaigns)
  for (const line of lines) {
    const began = performance.now()
    const live = core.forLive(line.question, tape, market, never)
    const ms = performance.now() - began
    if (when === 'first') line.live = live
    const { flight } = live.forecast
    line.bound = core.isLimit(live.forecast.binding)
    line[when] = {
      ms,
      figures: Object.fromEntries(FIGURES.map((name) => [name, flight[name]])),
      binds: core.isLimit(live.forecast.binding)
    }
  }
}

/** The mates of each line, and its campaign's limits. @param {any[]} lines @param {any[]} campaigns */
function share(lines, campaigns) {
  for (const line of lines) {
    const campaign = campaigns[line.campaign - 1]
    line.question.campaignLimits = campaign.limits
    line.question.sharers = campaign.lines
      .filter((/** @type {any} */ mate) => mate !== line)
      .map((/** @type {any} */ mate) => ({ demandMicros: mate.demand, dailyMicros: mate.question.limits.dailyMicros }))
  }
}

/** @param {any} core @param {any} world @param {{ lines: any[], campaigns: any[], nowHour: number, compete: boolean }} asked */
function startRun(core, world, { lines, campaigns, nowHour, compete }) {
  const rules = lines.map(({ line, campaign, question, live, follow }) => ({
    line,
    revision: line,
    campaign,
    targeting: question.targeting,
    shapes: question.shapes,
    price: question.price,
    follow: follow ? live.landscape : null,
    ...(live.correction === null ? {} : { firstCorrection: live.correction }),
    hours: question.hours,
    zone: question.zone,
    startHour: question.startHour,
    endHour: question.endHour,
    liveFromHour: question.startHour,
    limits: question.limits,
    pacing: question.pacing,
    caps: question.caps,
    traffic: live.traffic,
    demandMicros: live.forecast.demandMicros,
    ads: question.shapes.map((/** @type {number} */ shape) => ({ ad: line * 100 + shape, shape, weight: 1 }))
  }))
  const trackers = campaigns.flatMap((campaign) => campaign.trackers)
  const exchange = new core.Exchange(
    world,
    {
      publication: 1,
      lines: rules,
      campaigns: campaigns.map(({ campaign, limits }) => ({ campaign, zone: 'UTC', startHour: 0, endHour: null, limits })),
      owners: rules.map(({ line, campaign, zone }) => ({ line, campaign, advertiser: campaign, zone })),
      trackers,
      made: lines.flatMap(({ line, question, made: [headline, picture, text] }) =>
        question.shapes.map((/** @type {number} */ shape) => ({ ad: line * 100 + shape, content: { headline, picture, text } }))
      ),
      apart: !compete
    },
    { hour: nowHour, balanceMicros: 9e15, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() }
  )
  const OF = core.OUTCOME
  const facts = lines.map(() => core.noFacts())
  const people = lines.map(() => new Set())
  let late = lines.map(() => new Set())
  const seen = lines.map(() => ({ person: /** @type {number[]} */ ([]), minute: /** @type {number[]} */ ([]) }))
  const outcomes = lines.map(() => core.OUTCOMES.map(() => 0))
  /** Passed the price tests, by line and UTC day. */
  const passed = lines.map(() => new Map())
  const go = (/** @type {number} */ hours) => {
    for (let n = 0; n < hours; n++) {
      const hour = exchange.runHour()
      const log = core.openLog(hour.log, hour.wins, hour.crc)
      for (let i = 0; i < log.count; i++) {
        const place = log.line[i] - 1
        people[place].add(log.person[i])
        late[place].add(log.person[i])
        seen[place].person.push(log.person[i])
        seen[place].minute.push(hour.hour * 60 + log.minute[i])
      }
      for (const total of hour.hourTotals) {
        const zone = core.zoneIndex(rules[total.line - 1].zone)
        core.takeHour(facts[total.line - 1], total, core.localHourOf(zone, hour.hour), core.localDayOf(zone, hour.hour))
      }
      for (const total of hour.placementTotals) core.takePlacement(facts[total.line - 1], total)
      const day = Math.floor(hour.hour / 24)
      for (const { line, counts } of hour.outcomes) {
        counts.forEach((/** @type {number} */ n, /** @type {number} */ o) => (outcomes[line - 1][o] += n))
        const some = counts.slice(OF.no_money, OF.own_line).reduce((/** @type {number} */ sum, /** @type {number} */ n) => sum + n, 0)
        passed[line - 1].set(day, (passed[line - 1].get(day) ?? 0) + some)
      }
    }
  }
  return {
    go,
    forgetReach: () => (late = lines.map(() => new Set())),
    ofLine: (/** @type {number} */ line) => ({ total: facts[line - 1].total, exposures: seen[line - 1] }),
    historyOf: (/** @type {any} */ { line, question }) =>
      core.ownHistory({ price: question.price, aim: null, follow: question.follow }, facts[line - 1], {
        today: core.localDayOf(core.zoneIndex(question.zone), exchange.hour),
        sold: core.soldBy(rules[line - 1], campaigns[rules[line - 1].campaign - 1].trackers),
        passed: [...passed[line - 1]].map(([day, count]) => ({ day, count }))
      }),
    resultOf: (/** @type {number} */ line) => {
      const { total } = facts[line - 1]
      return {
        wins: total.wins,
        spend: total.spendMicros,
        reach: people[line - 1].size,
        late: late[line - 1].size,
        views: total.views,
        visits: total.visits,
        conversions: total.conversions,
        outcomes: outcomes[line - 1]
      }
    }
  }
}

/**
 * @param {any[]} found @param {(name: string, figures: any) => void} report
 */
export function printCampaigns(found, report) {
  const isEvent = (/** @type {any} */ { model }) => model === 'CPC' || model === 'view'
  /** @type {[string, (line: any) => boolean][]} */
  const ROWS = [
    ['CPM or visit, alone, free', (line) => !line.compete && !line.follow && !isEvent(line) && !line.bound],
    ['CPM or visit, alone, bound', (line) => !line.compete && !line.follow && !isEvent(line) && line.bound],
    ['CPC or view, alone, free', (line) => !line.compete && isEvent(line) && !line.bound],
    ['CPC or view, alone, bound', (line) => !line.compete && isEvent(line) && line.bound],
    ['following the market', (line) => line.follow],
    ['lines that compete', (line) => line.compete && !line.follow],
    ['all', () => true]
  ]
  const median = (/** @type {number[]} */ values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN
  const counts = new Set(['views', 'visits', 'conversions'])
  const judged = (/** @type {any[]} */ lines, /** @type {'first' | 'second'} */ when, /** @type {string} */ name) =>
    lines
      .map((line) => ({ said: line[when].figures[name], came: line[when].came[name] }))
      .filter(({ said }) => !counts.has(name) || said.value >= LEAST_EVENTS)
  // Events come whole: a range of a few holds the whole numbers inside it.
  const holds = (/** @type {any} */ { said, came }) => came >= Math.floor(said.low) && came <= Math.ceil(said.high)
  /** @type {Record<string, any>} */
  const figures = {}
  for (const when of /** @type {const} */ (['first', 'second'])) {
    console.log(`\n${when === 'first' ? 'at going live, ten days' : 'after three days, seven days'}`)
    console.log(`${''.padEnd(30)}lines ${FIGURES.map((name) => name.padStart(22)).join('')}   (in range, median of said / came, width)`)
    for (const [row, isOfRow] of ROWS) {
      const lines = found.filter(isOfRow)
      const cells = FIGURES.map((name) => {
        const all = judged(lines, when, name)
        const held = all.filter(holds).length / all.length
        const ratio = median(all.filter(({ came }) => came > 0).map(({ said, came }) => said.value / came))
        const width = median(all.map(({ said }) => (said.high - said.low) / Math.max(1, said.value)))
        const error = median(all.filter(({ came }) => came > 0).map(({ said, came }) => Math.abs(said.value / came - 1)))
        figures[`${when}, ${row}, ${name}`] = { n: all.length, held, ratio, error, width }
        return `${String(all.length).padStart(5)} ${(100 * held).toFixed(0).padStart(3)} ${ratio.toFixed(2).padStart(5)} ${(100 * width).toFixed(0).padStart(4)}%`.padStart(
          22
        )
      })
      console.log(`${row.padEnd(30)}${String(lines.length).padStart(5)} ${cells.join('')}`)
    }
    const error = figures[`${when}, all, wins`].error
    console.log(`median error of wins ${(100 * error).toFixed(1)} %`)
  }
  const ms = found.map((line) => line.first.ms)
  console.log(`forecasts: median ${median(ms).toFixed(0)} ms`)
  report('calibration-campaigns', figures)
}
