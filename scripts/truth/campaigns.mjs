import { reopened } from './reopening.mjs'

const START = 60 * 24
/** Times that a run is killed, and goes on from what was stored. */
const KILLS = 3

/**
 * Campaigns of 2 to 8 lines over two days, flights, zones and limits at random, what was forecast of each wrong by half to twice, killed
 * three times: what a
 * day spends of the campaign's limit where a fluid run with true supply would spend it, and it is worth a hundred charges.
 * @param {any} tools of `truth.mjs`
 * @param {number} wanted campaigns
 */
export function campaignTruth({ core, world, line, dayOf, seeded, round }, wanted) {
  const { SHAPES, NO_LIMITS, shapesOf } = core
  const shapes = (/** @type {string} */ format) => shapesOf(format).map((/** @type {string} */ shape) => SHAPES.indexOf(shape))
  const include = (/** @type {string} */ dimension, /** @type {string[]} */ values) => ({ dimension, mode: 'include', values })
  const median = (/** @type {number[]} */ values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
  const random = seeded(800)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const off = []
  let worstOver = 0
  let tried = 0
  for (let done = 0; done < wanted; tried++) {
    const count = 2 + below(7)
    const format = core.FORMATS[below(5)]
    const lines = Array.from({ length: count }, (_, n) => {
      const countries = [...new Set(Array.from({ length: 1 + below(5) }, () => core.COUNTRIES[below(24)].code))]
      const begins = START + (below(4) === 0 ? below(24) : 0)
      return line(format, {
        line: n + 1,
        targeting: { restrictions: [include('where', countries)] },
        price: { model: 'CPM', bidMicros: (1000 + below(6000)) * 1000, maxMicros: null },
        pacing: ['even', 'even', 'fast', 'traffic'][below(4)],
        zone: ['UTC', 'UTC', 'America/New_York', 'Asia/Tokyo'][below(4)],
        startHour: begins,
        liveFromHour: begins,
        endHour: START + (below(4) === 0 ? 24 + below(24) : 48),
        ads: shapes(format).map((/** @type {number} */ shape) => ({ ad: 1000 * (n + 1) + shape, shape, weight: 1 }))
      })
    })
    /** @param {any[]} rules @param {any} limits @param {(facts: any) => void} onHour */
    const together = (rules, limits, onHour) => {
      const publication = {
        publication: 1,
        lines: rules,
        campaigns: [{ campaign: 1, zone: 'UTC', startHour: 0, endHour: null, limits }],
        owners: rules.map(({ line: number, zone }) => ({ line: number, campaign: 1, advertiser: 1, zone }))
      }
      const exposures = new core.ExposureBook()
      const opening = { hour: START, balanceMicros: 1e13, lines: new Map(), campaigns: new Map(), exposures }
      let exchange = new core.Exchange(world, publication, opening, dayOf)
      const kills = new Set(Array.from({ length: limits === NO_LIMITS ? 0 : KILLS }, () => 1 + below(47)))
      const hours = []
      for (let hour = 0; hour < 48; hour++) {
        if (kills.has(hour)) exchange = new core.Exchange(world, publication, reopened(core, publication, hours, exposures), dayOf)
        hours.push(exchange.runHour())
        onHour(hours[hour])
      }
    }
    /** Spend without the campaign's limit, by line and hour. */
    const able = lines.map(() => new Float64Array(48))
    let dearest = 0
    together(lines, NO_LIMITS, (facts) => {
      for (const total of facts.hourTotals) able[total.line - 1][facts.hour - START] += total.spendMicros
      const log = core.openLog(facts.log, facts.wins, facts.crc)
      for (let i = 0; i < log.count; i++) dearest = Math.max(dearest, log.media[i])
    })
    const sum = (/** @type {ArrayLike<number>} */ values) => Array.from(values).reduce((all, value) => all + value, 0)
    const possible = Math.min(...[0, 1].map((day) => able.reduce((all, own) => all + sum(own.slice(day * 24, day * 24 + 24)), 0)))
    const dailyMicros = Math.floor(possible * (0.1 + 0.6 * random()))
    if (dailyMicros < 100 * dearest) continue
    // Some have a limit of their own, of the line's day.
    const rules = lines.map((one, n) => {
      const mean = sum(able[n]) / 2
      const wrong = 0.5 * 4 ** random()
      const traffic = Array.from({ length: 168 }, () => (mean / 24) * wrong)
      const own = below(3) === 0 ? Math.floor(mean * (0.05 + 0.5 * random())) : null
      return { ...one, traffic, demandMicros: mean * wrong, limits: { ...NO_LIMITS, dailyMicros: own } }
    })
    const spent = [0, 0]
    together(rules, { ...NO_LIMITS, dailyMicros }, (facts) => (spent[Math.floor((facts.hour - START) / 24)] += facts.spendMicros))
    let reached = false
    for (const day of [0, 1]) {
      // A fluid run: each hour the lines take what is left of an even day, each at most what it could and what its own limit leaves.
      const left = rules.map(({ limits: { dailyMicros: own } }) => own ?? Infinity)
      let taken = 0
      for (let hour = 0; hour < 24; hour++) {
        const due = (dailyMicros * (hour + 1)) / 24 - taken
        const could = rules.map((_, n) => Math.min(left[n], able[n][day * 24 + hour]))
        const whole = could.reduce((all, one) => all + one, 0)
        const part = whole > 0 ? Math.min(1, due / whole) : 0
        could.forEach((one, n) => (left[n] -= one * part))
        taken += whole * part
      }
      const reachable = taken > dailyMicros * 0.999
      worstOver = Math.max(worstOver, (spent[day] - dailyMicros) / dearest)
      if (!reachable) continue
      reached = true
      off.push(Math.abs(spent[day] / dailyMicros - 1))
    }
    if (reached) done++
  }
  const figures = {
    campaigns: wanted,
    tried,
    days: off.length,
    medianOff: round(100 * median(off)),
    worstOff: round(100 * Math.max(...off)),
    within2: round((100 * off.filter((part) => part <= 0.02).length) / off.length),
    passedByCharges: Math.floor(1000 * worstOver) / 1000
  }
  console.log(`${wanted} campaigns (of ${tried}), ${figures.days} reachable days: median ${figures.medianOff} % off the limit,`)
  console.log(`worst ${figures.worstOff} %, ${figures.within2} % within 2 %; passed by at most ${figures.passedByCharges} of a charge`)
  return figures
}
