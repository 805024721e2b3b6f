/** Dimensions that a random line may include values of. */
const INCLUDABLE = [
  'device',
  'system',
  'age',
  'gender',
  'language',
  'income',
  'category',
  'moment',
  'class',
  'source',
  'auction',
  'connection',
  'popularity',
  'size',
  'grade',
  'price band',
  'segments'
]

/**
 * A line without a bid or budgets that nobody chose.
 * @param {any} core
 * @param {(n: number) => number} below
 * @param {number} nowHour
 * @param {{ wide: number, days: number }} asked how loose it is, 0 to 3, and days of its flight
 */
export function randomLine(core, below, nowHour, { wide, days }) {
  const { FORMATS, SHAPES, MODELS_OF, shapesOf, NO_LIMITS, NOTHING_SPENT, OPEN_MARKET } = core
  const format = FORMATS[below(FORMATS.length)]
  const model = MODELS_OF[format][below(MODELS_OF[format].length)]
  const countries = core.COUNTRIES.map((/** @type {any} */ country) => country.code)
  const pick = (/** @type {string[]} */ from, /** @type {number} */ n) => [
    ...new Set(Array.from({ length: n }, () => from[below(from.length)]))
  ]
  const restrictions =
    wide === 3 && below(2) ? [] : [{ dimension: 'where', mode: 'include', values: pick(countries, 1 + below([2, 4, 8, 20][wide])) }]
  for (const dimension of pick(INCLUDABLE, below([4, 3, 2, 2][wide]))) {
    const all = core.DIMENSION_KINDS[dimension].values
    const values =
      dimension === 'grade'
        ? [['B', 'C', 'D'][below(3)]]
        : dimension === 'size'
          ? pick([...shapesOf(format)], 1 + below(3))
          : pick(all, Math.max(1, Math.ceil(all.length * (0.15 + below(50) / 100))))
    restrictions.push({ dimension, mode: 'include', values })
  }
  const roll = below(20)
  const caps =
    roll < 2 ? [{ times: 1 + below(3), hours: 720 }] : roll < 10 ? [{ times: 1 + below(3), hours: [6, 24, 48, 168][below(4)] }] : []
  const hours =
    below(4) === 0
      ? { clock: below(2) ? 'viewer' : 'line', perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 < 6 + below(6) ? 0 : 1000)) }
      : null
  return {
    format,
    question: {
      targeting: { restrictions },
      shapes: shapesOf(format).map((/** @type {string} */ shape) => SHAPES.indexOf(shape)),
      price: { model, bidMicros: model === 'CPM' ? 1000 : 1, maxMicros: null },
      hours,
      caps,
      gapMinutes: 0,
      campaignCaps: [],
      buys: OPEN_MARKET,
      dataMicros: 0,
      pacing: 'even',
      limits: NO_LIMITS,
      spent: NOTHING_SPENT,
      campaignLimits: NO_LIMITS,
      campaignSpent: NOTHING_SPENT,
      sharers: [],
      zone: ['UTC', 'Europe/Lisbon', 'America/New_York'][below(3)],
      startHour: nowHour,
      endHour: nowHour + days * 24,
      nowHour,
      exposures: { person: [], minute: [] }
    }
  }
}

/**
 * Ads of a line that bids, most of them with something of their own.
 * @param {any} core
 * @param {(n: number) => number} below
 * @param {any} question
 */
export function randomAds(core, below, { shapes, price }) {
  const cpm = price.model === 'CPM'
  return Array.from({ length: 3 + below(4) }, (_, n) => {
    const micros = Math.floor((price.bidMicros * (600 + below(1000))) / 1000)
    const values = core.DEVICE_TYPES.slice(0, 3)
    const own = {
      ad: n + 1,
      weight: 1 + below(5),
      ...(below(2) ? { bidMicros: Math.max(cpm ? 1000 : 1, cpm ? Math.floor(micros / 1000) * 1000 : micros) } : {}),
      ...(below(2) ? { caps: [{ times: 1 + below(3), hours: [6, 24, 168][below(3)] }] } : {}),
      ...(below(2) ? { targeting: { restrictions: [{ dimension: 'device', mode: 'include', values: [values[below(3)]] }] } } : {})
    }
    return shapes.map((/** @type {number} */ shape) => ({ ...own, shape }))
  }).flat()
}
