/** A quarter of the market, and a quarter of ten euro a day. */
const PART = 4
const DAILY = 10_000_000 / PART

/**
 * Whether bargains are found by the results of a week at ten euro a day: two lines of the same money, one on the bargains alone, one on all
 * others. What a stay costs on one against the other, with what chance leaves open.
 * @param {any} tools of `truth.mjs`
 */
export function bargainTruth({ core, line, include, round }) {
  const START = 60 * 24
  const { FORMATS, SHAPE_FORMAT } = core
  const world = core.makeWorld({ ...core.FULL, people: core.FULL.people / PART })
  const values = world.inventory.placements
    .filter((/** @type {any} */ { bargain, shape }) => bargain && FORMATS[SHAPE_FORMAT[shape]] === 'display')
    .map((/** @type {any} */ placement) => core.placementCode(world.inventory, placement))
  const where = include('where', ['DE', 'AT', 'CH', 'FR', 'NL', 'BE', 'GB', 'US', 'CA'])
  const lines = ['include', 'exclude'].map((mode, n) =>
    line('display', {
      line: n + 1,
      targeting: { restrictions: [{ dimension: 'placement', mode, values }, where] },
      price: { model: 'CPM', bidMicros: 1_000_000, maxMicros: null },
      limits: { ...core.NO_LIMITS, dailyMicros: DAILY },
      demandMicros: DAILY
    })
  )
  const owners = lines.map(({ line: number, zone }) => ({ line: number, campaign: 1, advertiser: 1, zone }))
  const exchange = new core.Exchange(
    world,
    { publication: 1, lines, owners, campaigns: [] },
    { hour: START, balanceMicros: 1e13, lines: new Map(), campaigns: new Map(), exposures: new core.ExposureBook() }
  )
  const sums = lines.map(() => ({ spend: 0, stays: 0 }))
  for (let hour = 0; hour < 7 * 24; hour++)
    for (const total of exchange.runHour().hourTotals) {
      sums[total.line - 1].spend += total.spendMicros
      sums[total.line - 1].stays += total.stays
    }
  const [own, others] = sums
  const { low, value, high } = core.countRatioRange(own.stays, (others.stays * own.spend) / others.spend, others.stays)
  console.log(`${values.length} placements; for the same money ${round(value)} times the stays (${round(low)} to ${round(high)})`)
  return { placements: values.length, stays: own.stays, times: round(value), low: round(low), high: round(high) }
}
