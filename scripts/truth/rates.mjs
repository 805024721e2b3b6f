import { randomLine } from '../calibrate/random-line.mjs'

const START = 60 * 24
const HOURS = 96

/**
 * How far a line's own rates lie from the trade's means: lines with an ad each, free of budgets, by kind of event. The weight of a kind is
 * that of the gamma prior whose spread is what is left once the counts' own noise is taken off.
 * @param {any} tools of `truth.mjs`
 * @param {number} wanted lines
 */
export function ratesTruth({ core, world, dayOf, seeded, round }, wanted) {
  const random = seeded(4100)
  const below = (/** @type {number} */ n) => Math.floor(random() * n)
  const lines = Array.from({ length: wanted }, (_, n) => {
    const { question } = randomLine(core, below, START, { wide: 1 + below(3), days: 10 })
    return {
      line: n + 1,
      revision: n + 1,
      campaign: n + 1,
      targeting: question.targeting,
      shapes: question.shapes,
      price: { model: 'CPM', bidMicros: 1_000_000 * (1 + below(8)), maxMicros: null },
      zone: 'UTC',
      startHour: START,
      endHour: START + 240,
      liveFromHour: START,
      limits: core.NO_LIMITS,
      pacing: 'even',
      caps: question.caps,
      demandMicros: 1,
      ads: question.shapes.map((/** @type {number} */ shape) => ({ ad: (n + 1) * 100 + shape, shape, weight: 1 }))
    }
  })
  const exchange = new core.Exchange(
    world,
    {
      publication: 1,
      lines,
      campaigns: [],
      owners: lines.map(({ line }) => ({ line, campaign: line, advertiser: line, zone: 'UTC' })),
      trackers: lines.map(({ line }) => ({
        advertiser: line,
        tracker: line,
        kind: ['purchase', 'booking', 'trial', 'request'][below(4)],
        subject: null,
        clickHours: 720,
        viewHours: null,
        valueMicros: 1e6
      })),
      made: lines.flatMap(({ ads }) => {
        const content = { headline: below(1e9), picture: below(1e9), text: below(1e9) }
        return ads.map((/** @type {any} */ { ad }) => ({ ad, content }))
      }),
      apart: true
    },
    { hour: START, balanceMicros: 9e15, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() },
    dayOf
  )
  const facts = lines.map(() => core.noFacts())
  for (let hour = 0; hour < HOURS; hour++)
    for (const total of exchange.runHour().hourTotals) core.takeHour(facts[total.line - 1], total, hour % 24, Math.floor(hour / 24))
  /** @type {Record<string, any>} */
  const figures = {}
  for (const event of ['view', 'click', 'stay', 'conversion']) {
    const rows = lines.map((line, n) => {
      const { rates } = core.soldBy(
        line,
        exchange.publication.trackers.filter((/** @type {any} */ t) => t.advertiser === line.line)
      )
      return core.evidenceOf(facts[n].total, event, rates)
    })
    const known = rows.filter(({ expected }) => expected >= 5)
    const weight = known.map(({ expected }) => expected / (1 + expected / 15))
    const all = weight.reduce((sum, w) => sum + w, 0)
    const mean = known.reduce((sum, { events, expected }, n) => sum + (weight[n] * events) / expected, 0) / all
    const spread =
      known.reduce((sum, { events, expected }, n) => sum + weight[n] * ((events / expected / mean - 1) ** 2 - 1 / (expected * mean)), 0) /
      all
    const ratios = known.map(({ events, expected }) => events / expected).sort((a, b) => a - b)
    figures[event] = {
      lines: known.length,
      mean: round(mean),
      median: round(ratios[Math.floor(ratios.length / 2)]),
      sd: round(Math.sqrt(Math.max(0, spread))),
      weight: round(1 / spread)
    }
  }
  for (const [event, { lines: n, mean, sd, weight }] of Object.entries(figures))
    console.log(`${event.padEnd(12)} ${n} lines: mean ${mean} of what is expected, spread ${sd}, weight of ${weight} events`)
  return figures
}
