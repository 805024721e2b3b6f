import { COUNTRIES } from '../../src/places/index.js'
import { DEVICE_TYPES, FORMATS, MODELS_OF, SHAPES, shapesOf, type PriceModel } from '../../src/taxonomy/index.js'
import {
  AIM_KINDS,
  NO_LIMITS,
  type CampaignRules,
  type LineRules,
  type PublicationRules,
  type TrackerRules
} from '../../src/exchange/index.js'
import type { World } from '../../src/market/index.js'
import { START, lineRules, targetingOf } from './lines.js'

const some = <T>(from: readonly T[], n: number, below: (n: number) => number) =>
  Array.from({ length: n }, () => from[below(from.length)]).filter((value, i, all) => all.indexOf(value) === i)

/** Rules of any format and price with all that a line can have: adjustments, hours, deals, limits, caps of ads, discounts. */
export function fullLine(line: number, world: World, below: (n: number) => number): LineRules {
  const format = FORMATS[below(FORMATS.length)]
  const model: PriceModel = MODELS_OF[format][below(MODELS_OF[format].length)]
  const shapes = shapesOf(format).map((shape) => SHAPES.indexOf(shape))
  const event = model === 'CPC' || model === 'view'
  const bidMicros =
    model === 'CPM'
      ? (500 + below(12_000)) * 1000
      : model === 'CPC'
        ? 60_000 + below(900_000)
        : model === 'view'
          ? 2000 + below(30_000)
          : 400 + below(4000)
  const own = world.inventory.placements.filter((placement) => shapes.includes(placement.shape)).map((placement) => placement.index)
  const limit = (n: number) => (below(4) === 0 ? n : null)
  return lineRules(line, {
    campaign: 1 + below(2),
    shapes,
    targeting: targetingOf(
      some(
        COUNTRIES.map((country) => country.code),
        2 + below(8),
        below
      ),
      below(2) ? some(DEVICE_TYPES, 3, below) : []
    ),
    price: {
      model,
      bidMicros,
      maxMicros: below(3) ? null : Math.floor(bidMicros / 1000) * 1400,
      repeatDiscount: below(3) ? 0 : below(400),
      adjustments: below(2)
        ? [
            { dimension: 'device', value: 'phone', perMille: 500 + below(1200), ownMicros: null },
            { dimension: 'moment', value: 'commuting', perMille: null, ownMicros: bidMicros }
          ]
        : [],
      steps: below(3) ? [] : [{ after: 'impressions', from: 40, bidMicros: Math.floor(bidMicros / 2000) * 1000 + 1000 }]
    },
    hours: below(3)
      ? null
      : {
          clock: below(2) ? 'viewer' : 'line',
          perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 < 5 ? 0 : 700 + ((hour * 37) % 600)))
        },
    zone: ['UTC', 'Europe/Lisbon', 'America/New_York'][below(3)],
    pacing: (['even', 'fast', 'traffic'] as const)[below(3)],
    gapMinutes: below(3) ? 0 : 30,
    traffic: Array.from({ length: 168 }, (_, hour) => 10 + (hour % 24) * 3),
    caps: below(2) ? [{ times: 1 + below(3), hours: [1, 6, 30][below(3)] }] : [],
    limits: {
      ...NO_LIMITS,
      dailyMicros: below(2) ? 40_000 + below(300_000) : null,
      weeklyMicros: limit(300_000),
      monthlyMicros: limit(900_000),
      totalMicros: limit(250_000 + below(400_000)),
      dailyImpressions: limit(20 + below(200)),
      weeklyImpressions: limit(300),
      monthlyImpressions: limit(700),
      totalImpressions: limit(400),
      placementDailyMicros: limit(9000),
      sourceDailyMicros: limit(30_000)
    },
    aim: below(3) === 0 ? { event: AIM_KINDS[below(AIM_KINDS.length)], micros: 1 + below(900_000) } : null,
    rotation: (['weight', 'even', 'learning'] as const)[below(3)],
    dataMicros: below(3) ? 0 : 40 + below(300),
    demandMicros: 1 + below(1_000_000),
    ads: shapes.flatMap((shape, n) => [
      { ad: line * 100 + n * 2, shape, weight: 1 + below(5), ...(below(4) ? {} : { caps: [{ times: 1, hours: 12 }] }) },
      {
        ad: line * 100 + n * 2 + 1,
        shape,
        weight: below(4),
        ...(below(4) ? {} : { bidMicros: bidMicros + (event ? 500 : 500_000) }),
        ...(below(4) ? {} : { targeting: targetingOf([], ['phone', 'TV']) })
      }
    ]),
    buys: below(3)
      ? undefined
      : {
          open: below(3) > 0,
          deals: [{ deal: 9, kind: below(2) ? 'fixed' : 'floor', price: 300 + below(4000), placements: own.filter((_, n) => n % 3 === 0) }]
        },
    startHour: START + (below(4) === 0 ? 7 : 0),
    endHour: below(4) === 0 ? START + 60 : START + 7 * 24
  })
}

/** A publication of such lines in two campaigns of two advertisers, with trackers. */
export function fullPublication(lines: readonly LineRules[], below: (n: number) => number): PublicationRules {
  const campaign = (number: number): CampaignRules => ({
    campaign: number,
    zone: number === 1 ? 'Europe/Lisbon' : 'America/New_York',
    startHour: 0,
    endHour: null,
    goal: number === 1 ? 'conversions' : 'visits',
    limits: {
      ...NO_LIMITS,
      dailyMicros: below(2) ? 500_000 : null,
      totalMicros: below(2) ? 1_500_000 : null,
      weeklyImpressions: below(2) ? 2000 : null
    },
    caps: below(2) ? [{ times: 2, hours: 24 }] : []
  })
  return {
    publication: 1,
    lines: [...lines],
    campaigns: [campaign(1), campaign(2)],
    owners: lines.map(({ line, campaign: owner, zone }) => ({ line, campaign: owner, advertiser: owner, zone })),
    trackers: [1, 2].flatMap((advertiser): TrackerRules[] => [
      { advertiser, tracker: advertiser * 10, kind: 'trial', clickHours: 168, viewHours: 24, valueMicros: 900_000 },
      { advertiser, tracker: advertiser * 10 + 1, kind: 'request', subject: 2, clickHours: 24, viewHours: null, valueMicros: null }
    ])
  }
}
