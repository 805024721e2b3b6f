import { blankQuestion } from './blank-question.mjs'
import { buildServer } from './compile.mjs'
import { report, round } from './bench/measure.mjs'
import { inProject } from './project.mjs'
import { seeded } from './seeded.mjs'
import { adviceTruth } from './truth/advice.mjs'
import { bargainTruth } from './truth/bargains.mjs'
import { campaignTruth } from './truth/campaigns.mjs'
import { possibleTruth } from './truth/possible.mjs'
import { ratesTruth } from './truth/rates.mjs'

/**
 * `npm run truth [part]`: whether budgets, learning and aims do what they say, on seeded lines against hidden true rates.
 * Parts: limits, campaigns, money, rates, bargains, rotation, aims, follow, advice, possible; all when none is named.
 */
await buildServer()
/** @type {any} */
const core = {}
for (const part of [
  'market',
  'exchange',
  'response',
  'places',
  'random',
  'pricing',
  'time',
  'tape',
  'forecast',
  'targeting',
  'taxonomy',
  'report'
])
  Object.assign(core, await import(inProject(`core/dist/${part}/index.js`)))
// What a win was shown to, which nothing but these commands asks from outside.
Object.assign(core, await import(inProject('core/dist/exchange/shown.js')))
const { SHAPES, shapesOf, NO_LIMITS } = core
const START = 60 * 24
const never = () => false
const world = core.makeWorld({ ...core.TENTH, people: Number(process.env.TIN_HARBOR_PEOPLE ?? 200_000) })
const days = new Map()
/** Days made once for all runs; only the last few are kept. */
const dayOf = (/** @type {any} */ market, /** @type {number} */ day) => {
  let made = days.get(day)
  if (!made) days.set(day, (made = core.makeDay(market, day)))
  return made
}
const shapes = (/** @type {string} */ format) => shapesOf(format).map((/** @type {string} */ shape) => SHAPES.indexOf(shape))
const include = (/** @type {string} */ dimension, /** @type {string[]} */ values) => ({ dimension, mode: 'include', values })
const median = (/** @type {number[]} */ values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]

/** @param {string} format @param {any} over */
function line(format, over) {
  return {
    line: 1,
    revision: 1,
    campaign: 1,
    targeting: { restrictions: [] },
    shapes: shapes(format),
    price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: null },
    zone: 'UTC',
    startHour: START,
    endHour: START + 60 * 24,
    liveFromHour: START,
    limits: NO_LIMITS,
    pacing: 'even',
    caps: [],
    ads: shapes(format).map((/** @type {number} */ shape) => ({ ad: 1000 + shape, shape, weight: 1 })),
    demandMicros: 1,
    ...over
  }
}
/** Conversion events that count: many, so that a tenth of the market brings enough of them. */
const TRACKERS = 8
/** @param {any} rules @param {any} [over] of the campaign */
const publication = (rules, over = {}) => ({
  publication: 1,
  lines: [rules],
  campaigns: [{ campaign: 1, zone: 'UTC', startHour: 0, endHour: null, limits: NO_LIMITS, ...over }],
  owners: [{ line: 1, campaign: 1, advertiser: 1, zone: 'UTC' }],
  trackers: Array.from({ length: TRACKERS }, (_, n) => ({
    advertiser: 1,
    tracker: 9 + n,
    kind: 'trial',
    clickHours: 720,
    viewHours: null,
    valueMicros: 500_000
  }))
})
/** @param {any} rules @param {number} hours @param {(facts: any) => void} onHour @param {any} [over] */
function run(rules, hours, onHour, over) {
  const exchange = new core.Exchange(
    world,
    publication(rules, over),
    { hour: START, balanceMicros: 1e13, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() },
    dayOf
  )
  for (let hour = 0; hour < hours; hour++) onHour(exchange.runHour())
  return exchange
}

/** Fifty lines with a reachable day for each pacing: what such a day spends of its limit, and by how much any day passes it. */
function limits() {
  /** @type {Record<string, any>} */
  const figures = {}
  for (const pacing of ['even', 'fast', 'traffic']) {
    const random = seeded(700)
    const below = (/** @type {number} */ n) => Math.floor(random() * n)
    const off = []
    let reachable = 0
    let lines = 0
    let tried = 0
    let worstOver = 0
    while (lines < 50) {
      tried++
      const format = core.FORMATS[below(5)]
      const countries = [...new Set(Array.from({ length: 2 + below(5) }, () => core.COUNTRIES[below(24)].code))]
      const rules = line(format, {
        targeting: { restrictions: [include('where', countries)] },
        price: { model: 'CPM', bidMicros: (800 + below(6000)) * 1000, maxMicros: null },
        pacing,
        traffic: Array.from({ length: 168 }, (_, hour) => 20 + ((hour % 24) ** 2 % 97))
      })
      /** Spend it could have by minute of the day, without a limit. */
      const able = Array.from({ length: 2 }, () => new Float64Array(1440))
      let dearest = 0
      run(rules, 48, (facts) => {
        const log = core.openLog(facts.log, facts.wins, facts.crc)
        for (let i = 0; i < log.count; i++) {
          able[Math.floor((facts.hour - START) / 24)][(facts.hour % 24) * 60 + log.minute[i]] += log.media[i]
          dearest = Math.max(dearest, log.media[i])
        }
      })
      const possible = Math.min(...able.map((day) => day.reduce((sum, micros) => sum + micros, 0)))
      const limit = Math.floor(possible * (0.15 + 0.7 * random()))
      if (limit < 100 * dearest) continue
      const spent = [0, 0]
      run(
        { ...rules, limits: { ...NO_LIMITS, dailyMicros: limit } },
        48,
        (facts) => (spent[Math.floor((facts.hour - START) / 24)] += facts.spendMicros)
      )
      const plan = { limitMicros: limit, openFrom: 0, openTo: 1440, curve: null }
      const before = reachable
      able.forEach((day, d) => {
        const curve = pacing === 'traffic' ? core.dayCurve(rules.traffic, core.weekdayOf(60 + d)) : null
        // Reachable: min over u of P(u) + A(T) - A(u) is at least the limit.
        let after = day.reduce((sum, micros) => sum + micros, 0)
        let least = after
        day.forEach((micros, minute) => {
          after -= micros
          least = Math.min(least, core.plannedBy({ ...plan, curve }, pacing, minute + 1) + after)
        })
        worstOver = Math.max(worstOver, (spent[d] - limit) / dearest)
        if (least < limit) return
        reachable++
        off.push(Math.abs(spent[d] / limit - 1))
      })
      if (reachable > before) lines++
    }
    figures[pacing] = {
      lines,
      tried,
      days: reachable,
      medianOff: round(100 * median(off)),
      worstOff: round(100 * Math.max(...off)),
      within2: round((100 * off.filter((part) => part <= 0.02).length) / off.length),
      passedByCharges: Math.floor(1000 * worstOver) / 1000
    }
    console.log(
      `${pacing.padEnd(8)} ${lines} lines (of ${tried}), ${reachable} reachable days: median ${figures[pacing].medianOff} % off the limit, worst ${figures[pacing].worstOff} %, ${figures[pacing].within2} % within 2 %; passed by at most ${figures[pacing].passedByCharges} of a charge`
    )
  }
  return figures
}

/**
 * Fifty lines with a daily budget, half of them capped: wins that the forecast's money step makes of an unbudgeted week, against a
 * budgeted week run minute by minute. Both are of the same people, so that only the money step is measured.
 */
function money() {
  const random = seeded(4100)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  /** @type {number[]} */
  const off = []
  while (off.length < 50) {
    const format = core.FORMATS[below(5)]
    const pacing = ['even', 'fast', 'traffic'][off.length % 3]
    const countries = [...new Set(Array.from({ length: 2 + below(5) }, () => core.COUNTRIES[below(24)].code))]
    const rules = line(format, {
      targeting: { restrictions: [include('where', countries)] },
      price: { model: 'CPM', bidMicros: (800 + below(6000)) * 1000, maxMicros: null },
      pacing,
      caps: below(2) ? [{ times: 1 + below(4), hours: [24, 72][below(2)] }] : []
    })
    const week = (/** @type {any} */ over) => {
      const found = { spend: new Float64Array(168), wins: new Float64Array(168) }
      run({ ...rules, ...over }, 168, (facts) => {
        found.spend[facts.hour - START] += facts.spendMicros
        found.wins[facts.hour - START] += facts.wins
      })
      return found
    }
    const free = week({})
    const possible = core.sumOf(free.spend) / 7
    const share = 0.15 + 0.7 * random()
    if (core.sumOf(free.wins) < 2000) continue
    const dailyMicros = Math.floor(possible * share)
    const weekday = core.weekdayOf(START / 24)
    // The weights of pacing by traffic are by hour of the week, Monday first.
    const traffic = Array.from({ length: 168 }, (_, hour) => Math.round(free.spend[(hour + 168 - weekday * 24) % 168]))
    const said = core.moneyStep(
      free.spend,
      free.wins,
      {
        pacing,
        own: { ...NO_LIMITS, dailyMicros },
        campaign: NO_LIMITS,
        mates: [],
        spent: core.NOTHING_SPENT,
        campaignSpent: core.NOTHING_SPENT
      },
      { days: 7, firstMinute: 0, span: 10_080, weekday, daysLeftInMonth: 31, flightDays: 7, openMinutes: new Array(168).fill(60) },
      1
    )
    const was = core.sumOf(week({ limits: { ...NO_LIMITS, dailyMicros }, traffic }).wins)
    off.push(Math.abs(said.wins / was - 1))
    console.log(
      `line ${String(off.length).padStart(2)} ${format}, ${pacing}${rules.caps.length > 0 ? ', capped' : ''}: ${Math.round(said.wins)} wins by the money step, ${was} run; ${(100 * share).toFixed(0)} % of what it could spend`
    )
  }
  console.log(`50 lines: median ${(100 * median(off)).toFixed(2)} % apart, worst ${(100 * Math.max(...off)).toFixed(1)} %`)
  return { lines: off.length, medianOff: round(100 * median(off)), worstOff: round(100 * Math.max(...off)) }
}

/** Twenty sets of ads: whether learning shows the one that is best by the goal, and what that brings. */
function rotation() {
  let found = 0
  let least = 1
  let shown60 = 0
  let clear = 0
  let clearFound = 0
  const gains = []
  for (let seed = 0; seed < 20; seed++) {
    const ads = [0, 1, 2, 3].map((n) => 50_000 + seed * 4 + n)
    // By the goal: visitors who convert, so appeal times pull.
    const worth = ads.map((ad) => {
      const { appeal, pull } = core.adFactors(world.seed, { picture: ad })
      return appeal * pull
    })
    const best = ads[worth.indexOf(Math.max(...worth))]
    const runOf = (/** @type {string} */ rotation) => {
      const rules = line('native', {
        rotation,
        price: { model: 'CPM', bidMicros: 6_000_000, maxMicros: null },
        ads: shapes('native').flatMap((/** @type {number} */ shape) => ads.map((ad) => ({ ad, shape, weight: 1 })))
      })
      let events = 0
      let wins = 0
      /** @type {Map<number, number>} */
      const shown = new Map()
      let after = 0
      run(
        rules,
        24 * 20,
        (facts) => {
          const late = events >= 200
          for (const total of facts.hourTotals) {
            events += total.conversions
            wins += total.wins
            if (!late) continue
            shown.set(total.ad, (shown.get(total.ad) ?? 0) + total.wins)
            after += total.wins
          }
        },
        { goal: 'conversions' }
      )
      return {
        events,
        wins,
        after,
        shares: ads.map((ad) => (shown.get(ad) ?? 0) / Math.max(1, after)),
        best: (shown.get(best) ?? 0) / Math.max(1, after)
      }
    }
    const learned = runOf('learning')
    const even = runOf('even')
    if (learned.best > 0.6) found++
    // Where the second is nearly as good, no few hundred events tell them apart.
    const [first, second] = [...worth].sort((a, b) => b - a)
    if (first > 1.1 * second) {
      clear++
      if (learned.best > 0.6) clearFound++
    }
    shown60 += learned.best / 20
    least = Math.min(least, ...learned.shares)
    gains.push(learned.events / learned.wins / (even.events / even.wins) - 1)
    console.log(
      `set ${String(seed + 1).padStart(2)}: ${learned.events} goal events against ${even.events} in turn; the best ad has ${(100 * learned.best).toFixed(0)} % of showings after 200; true worth ${worth.map((w) => w.toFixed(2)).join(' ')}`
    )
  }
  const mean = gains.reduce((sum, gain) => sum + gain, 0) / gains.length
  console.log(
    `in ${found} of 20 the best ad has over 60 % (in ${clearFound} of the ${clear} where it is over 10 % better than the second), ${(100 * shown60).toFixed(0)} % in the mean; the least share of any ad is ${(100 * least).toFixed(1)} %; ${(100 * mean).toFixed(1)} % more goal events in the mean`
  )
  return {
    setsOver60: found,
    clearSets: clear,
    clearSetsOver60: clearFound,
    meanShareOfBest: round(100 * shown60),
    leastShare: round(100 * least),
    meanGain: round(100 * mean)
  }
}

/** What hidden rates say of a log row: expected events of the aim's kind. */
function trueRates() {
  const responses = new core.Responses(world.seed)
  const model = new core.ConversionModel(world.seed, world.profiles, responses)
  const counted = publication(line('display', {})).trackers.map((tracker) => ({ ...tracker, offer: tracker.kind, subject: null }))
  return {
    /** @param {any} log @param {number} i @param {number} hour @param {string} event */
    of(log, i, hour, event) {
      const shown = core.shownOf(world, core.loggedRow(log, i, hour * 60 + log.minute[i]), core.zoneOffsets(hour))
      const viewable = shown.blocked ? 0 : shown.placement.viewable / 65536
      const clicks = viewable * Math.min(1, responses.clickRate(shown))
      if (event === 'view') return viewable * responses.viewRate(shown)
      if (event === 'click') return clicks
      const stays = shown.bot ? 0 : clicks * core.stayRate(shown.placement, shown.device)
      if (event === 'stay') return stays
      return stays * counted.reduce((sum, one) => sum + model.rateOfStay(shown, log.did[i], one), 0)
    }
  }
}

/**
 * A line with an aim: every second under a budget, some paid by the click.
 * @param {number} n @param {(n: number) => number} below
 */
function aimedLine(n, below) {
  const format = ['display', 'native', 'video'][n % 3]
  const event = n % 3 === 2 ? 'view' : ['click', 'stay', 'conversion'][Math.floor(n / 3) % 3]
  const targeting = {
    restrictions: [include('where', [...new Set(Array.from({ length: 12 + below(12) }, () => core.COUNTRIES[below(24)].code))])]
  }
  return {
    format,
    event,
    targeting,
    isHeld: n % 2 === 1,
    model: event === 'stay' || event === 'conversion' ? (n % 4 < 2 ? 'CPC' : 'CPM') : 'CPM'
  }
}

/**
 * Lines with aims, by the thousand and by the click, with budgets and without: what an event costs by the true rates once fifty are there,
 * and how many it brings against the best fixed bid by the thousand that keeps to the aim.
 * @param {number} wanted lines
 */
function aims(wanted) {
  const truth = trueRates()
  const random = seeded(90)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const rows = []
  let tooFew = 0
  const learnDays = 10
  const judgeDays = 6
  for (let n = 0; n < wanted; n++) {
    const { format, event, targeting, isHeld, model } = aimedLine(n, below)
    /** @param {any} over @returns {{ spend: number, events: number, gathered: number }} */
    const judged = (over) => {
      const found = { spend: 0, events: 0, gathered: 0 }
      run(line(format, { targeting, ...over }), (learnDays + judgeDays) * 24, (facts) => {
        const isJudged = facts.hour >= START + learnDays * 24
        if (!isJudged)
          for (const total of facts.hourTotals)
            found.gathered +=
              event === 'view' ? total.views : event === 'click' ? total.visits : event === 'stay' ? total.stays : total.conversions
        if (!isJudged) return
        found.spend += facts.spendMicros
        const log = core.openLog(facts.log, facts.wins, facts.crc)
        for (let i = 0; i < log.count; i++) found.events += truth.of(log, i, facts.hour, event)
      })
      return found
    }
    // What a fixed bid pays for an event, at five bids: the aim lies among them, so that it can be reached.
    const bids = [600, 1100, 1900, 3300, 6000].map((bid) => bid * (format === 'video' ? 3 : 1))
    const priced = (/** @type {number} */ bid) => ({ price: { model: 'CPM', bidMicros: bid * 1000, maxMicros: null } })
    const free = isHeld ? judged(priced(bids[2])) : null
    const limits = free ? { ...NO_LIMITS, dailyMicros: Math.max(100_000, Math.round((0.4 * free.spend) / judgeDays)) } : NO_LIMITS
    const fixed = bids.map((bid) => ({ bid, ...judged({ ...priced(bid), limits }) })).filter((one) => one.events > 0)
    const costs = fixed.map((one) => one.spend / one.events)
    const aim = Math.round(costs[Math.floor(costs.length / 2)] * (0.85 + 0.4 * random()))
    const maxMicros = model === 'CPC' ? 3 * aim : bids[4] * 2000
    const aimed = judged({ price: { model, bidMicros: maxMicros, maxMicros }, aim: { event, micros: aim }, limits })
    if (aimed.gathered < 50) {
      tooFew++
      console.log(`line ${n + 1}: ${aimed.gathered} of 50 events; too few`)
      continue
    }
    // The best fixed bid in hindsight: the most events with the cost at the aim; without a budget between two bids.
    const under = fixed.filter((_, place) => costs[place] <= aim)
    const [low] = [...under].sort((x, y) => y.events - x.events)
    const high = isHeld ? undefined : fixed.find((one, place) => costs[place] > aim && one.bid > (low?.bid ?? 0))
    const part = low && high ? (aim - low.spend / low.events) / (high.spend / high.events - low.spend / low.events) : 0
    const best = low ? low.events + (high ? part * (high.events - low.events) : 0) : 0
    const cost = aimed.spend / aimed.events
    rows.push({ off: cost / aim - 1, share: best > 0 ? aimed.events / best : 1, isHeld })
    const row = rows[rows.length - 1]
    console.log(
      `line ${String(n + 1).padStart(2)} ${format} by ${model}${isHeld ? ', with a budget' : ''}: aim ${(aim / 1e6).toFixed(4)} for a ${event}, cost ${(cost / 1e6).toFixed(4)} (${(100 * row.off).toFixed(0)} %), ${(100 * row.share).toFixed(0)} % of the best fixed bid's events; ${aimed.gathered} gathered`
    )
  }
  // Under a budget what costs less than the aim is as wanted.
  const isNear = (/** @type {any} */ { off, isHeld }) => off <= 0.15 && (isHeld || off >= -0.15)
  const share = (/** @type {(row: any) => boolean} */ is) => round((100 * rows.filter(is).length) / rows.length)
  const figures = {
    lines: rows.length,
    tooFew,
    near: share(isNear),
    both: share((row) => isNear(row) && row.share >= 0.8),
    medianOff: round(100 * median(rows.map(({ off }) => Math.abs(off)))),
    medianShare: round(100 * median(rows.map((row) => row.share)))
  }
  console.log(
    `${figures.lines} lines: at the aim (15 %, or under it with a budget) in ${figures.near} %, and with 80 % of the best fixed bid's events in ${figures.both} %; ${tooFew} had under 50 events`
  )
  return figures
}

/** Lines that follow the market in first-price sources against a fixed bid with the same plan. */
function follow() {
  const tape = core.buildTape(world, 59)
  const market = core.forecastMarket(core.catalogueOf(world), core.makeBenchmarks(world.inventory))
  const random = seeded(17)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const rows = []
  for (let n = 0; n < 40; n++) {
    const format = ['display', 'native', 'video', 'audio'][n % 4]
    const targeting = {
      restrictions: [
        include('where', [...new Set(Array.from({ length: 6 + below(10) }, () => core.COUNTRIES[below(24)].code))]),
        include('auction', ['first price'])
      ]
    }
    const bidMicros = (1500 + below(3000)) * (format === 'video' || format === 'audio' ? 3000 : 1000)
    const base = line(format, { targeting, price: { model: 'CPM', bidMicros, maxMicros: null } })
    let free = 0
    run(base, 48, (facts) => (free += facts.wins))
    const dailyImpressions = Math.floor((free / 2) * (0.2 + 0.5 * random()))
    if (dailyImpressions < 100) continue
    const question = blankQuestion(core, {
      targeting,
      shapes: base.shapes,
      price: base.price,
      limits: { ...NO_LIMITS, dailyImpressions },
      startHour: START,
      endHour: START + 7 * 24,
      nowHour: START
    })
    const { landscape, traffic } = core.forLive(question, tape, market, never)
    const runOf = (/** @type {any} */ over) => {
      const found = { wins: 0, spend: 0 }
      run({ ...base, traffic, limits: { ...NO_LIMITS, dailyImpressions }, ...over }, 5 * 24, (facts) => {
        found.wins += facts.wins
        found.spend += facts.spendMicros
      })
      return found
    }
    const fixed = runOf({})
    const followed = runOf({ follow: landscape })
    const row = { wins: followed.wins / fixed.wins - 1, cost: followed.spend / followed.wins / (fixed.spend / fixed.wins) - 1 }
    rows.push(row)
    console.log(
      `line ${String(n + 1).padStart(2)} ${format}: ${fixed.wins} wins, following ${(100 * row.wins).toFixed(1)} %, cost ${(100 * row.cost).toFixed(1)} %`
    )
  }
  const good = rows.filter(({ wins, cost }) => wins >= -0.02 && cost <= -0.05).length / rows.length
  console.log(`${rows.length} lines: wins within 2 % and at least 5 % cheaper in ${(100 * good).toFixed(0)} %`)
  return {
    lines: rows.length,
    good: round(100 * good),
    medianWins: round(100 * median(rows.map(({ wins }) => wins))),
    medianCost: round(100 * median(rows.map(({ cost }) => cost)))
  }
}

/** @type {Record<string, () => any>} */
const parts = {
  limits,
  campaigns: () => campaignTruth({ core, world, line, dayOf, seeded, round }, Number(process.argv[3] ?? 50)),
  money,
  rates: () => ratesTruth({ core, world, dayOf, seeded, round }, Number(process.argv[3] ?? 200)),
  bargains: () => bargainTruth({ core, line, include, round }),
  rotation,
  aims: () => aims(Number(process.argv[3] ?? 40)),
  follow,
  possible: () => possibleTruth({ core, world, dayOf, line, seeded, round, trueRates, median }, Number(process.argv[3] ?? 30)),
  advice: () => adviceTruth({ core, world, run, line, seeded, round }, Number(process.argv[3] ?? 40))
}
const wanted = process.argv[2] ? [process.argv[2]] : Object.keys(parts)
for (const name of wanted) {
  console.log(`\n${name}`)
  report(`truth-${name}`, parts[name]())
}
