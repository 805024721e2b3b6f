import { MODELS_OF, FORMATS, SHAPES, shapesOf } from '../../src/taxonomy/index.js'
import { OPEN_MARKET, type Adjustment, type Deal, type HourPlan } from '../../src/pricing/index.js'
import { NOTHING_SPENT, NO_LIMITS, forecastMarket, type ForecastMarket, type ForecastQuestion } from '../../src/forecast/index.js'
import type { World } from '../../src/market/index.js'
import type { AdRules, OwnHistory } from '../../src/exchange/index.js'
import { RATE_KINDS, makeBenchmarks } from '../../src/response/index.js'
import { DIMENSIONS } from '../../src/dimensions/index.js'
import { START, catalogueOf, targetingOf } from './lines.js'
import { randomRestriction, randomTargeting } from './random-targeting.js'

export function marketOf(world: World): ForecastMarket {
  return forecastMarket(catalogueOf(world), makeBenchmarks(world.inventory))
}

export const DISPLAY = shapesOf('display').map((shape) => SHAPES.indexOf(shape))

export function question(over: Partial<ForecastQuestion> = {}): ForecastQuestion {
  return {
    targeting: targetingOf(['ES', 'PT', 'FR', 'DE']),
    shapes: DISPLAY,
    price: { model: 'CPM', bidMicros: 1_500_000, maxMicros: null },
    hours: null,
    caps: [],
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
    zone: 'UTC',
    startHour: START,
    endHour: START + 7 * 24,
    nowHour: START,
    exposures: { person: [], minute: [] },
    ...over
  }
}

/** Rates that are known to be the trade's means. */
export const RATES_KNOWN: OwnHistory = {
  rates: Object.fromEntries(RATE_KINDS.map((kind) => [kind, { factor: 1, sd: 0 }])) as OwnHistory['rates'],
  learned: null,
  paid: null,
  passed: []
}

type Below = (n: number) => number

export function randomHours(below: Below): HourPlan {
  const from = below(20)
  return {
    clock: below(2) ? 'viewer' : 'line',
    perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 < from ? 0 : [1000, 1000, 1300, 700][below(4)]))
  }
}

/** Random questions of every format, price, cap and rule. */
export function randomQuestion(below: Below, placements: number): ForecastQuestion {
  const format = FORMATS[below(FORMATS.length)]
  const model = MODELS_OF[format][below(MODELS_OF[format].length)]
  const adjustments = below(3)
    ? []
    : Array.from({ length: 1 + below(3) }, (): Adjustment => {
        const { dimension, values } = randomRestriction(DIMENSIONS[below(DIMENSIONS.length)], below)
        const own = below(4) === 0
        return {
          dimension,
          value: values[0] ?? 'students',
          perMille: own ? null : below(3000),
          ownMicros: own ? 100_000 + below(2000) * 1000 : null
        }
      })
  const deals = below(4)
    ? []
    : Array.from({ length: 1 + below(2) }, (_, n): Deal => ({
        deal: n + 1,
        kind: below(2) ? 'fixed' : 'floor',
        price: 100 + below(3000),
        placements: Array.from({ length: 40 }, () => below(placements))
      }))
  const bidMicros =
    model === 'CPM'
      ? (50 + below(5000)) * 1000
      : model === 'CPC'
        ? 20_000 + below(900_000)
        : model === 'view'
          ? 500 + below(9000)
          : 100 + below(2500)
  const asked = question({
    targeting: randomTargeting(below, 3),
    shapes: shapesOf(format)
      .map((shape) => SHAPES.indexOf(shape))
      .filter((_, n) => n === 0 || below(3) > 0),
    price: {
      model,
      bidMicros,
      maxMicros: below(4) ? null : bidMicros + below(500) * 1000,
      adjustments,
      repeatDiscount: below(4) ? 0 : below(500)
    },
    hours: below(3) ? null : randomHours(below),
    caps: below(2) ? [{ times: 1 + below(4), hours: [1, 5, 24, 72, 720][below(5)] }] : [],
    gapMinutes: below(4) ? 0 : 30 + below(600),
    campaignCaps: below(6) ? [] : [{ times: 3 + below(5), hours: 168 }],
    buys: { open: deals.length === 0 || below(3) > 0, deals },
    dataMicros: below(5) ? 0 : below(800),
    zone: ['UTC', 'Europe/Lisbon', 'America/New_York', 'Asia/Tokyo'][below(4)],
    startHour: START + below(60),
    endHour: below(8) ? START + 60 + 24 * (1 + below(27)) : null
  })
  return below(3) ? asked : { ...asked, ads: randomAds(below, asked) }
}

/** Ads of which some have bids, caps and targeting of their own. */
function randomAds(below: Below, { shapes, price }: Pick<ForecastQuestion, 'shapes' | 'price'>): AdRules[] {
  return Array.from({ length: 2 + below(4) }, (_, n): AdRules[] => {
    const own = {
      ad: n + 1,
      weight: 1 + below(4),
      ...(below(2) ? {} : { bidMicros: Math.max(1000, Math.floor((price.bidMicros * (500 + below(1500))) / 1_000_000) * 1000) }),
      ...(below(2) ? {} : { caps: [{ times: 1 + below(3), hours: [1, 24, 168][below(3)] }] }),
      ...(below(2)
        ? {}
        : { targeting: { restrictions: [randomRestriction((['where', 'device', 'browser', 'system'] as const)[below(4)], below)] } })
    }
    return shapes.filter((_, place) => place === 0 || below(4) > 0).map((shape) => ({ ...own, shape }))
  })
    .flat()
    .concat(shapes.map((shape) => ({ ad: 99, shape, weight: 1, bidMicros: price.bidMicros })))
}
