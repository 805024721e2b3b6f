import type { LineDraft } from '../../src/buying/index.js'
import { AIM_KINDS } from '../../src/exchange/index.js'
import { VIEW_SECONDS } from '../../src/response/index.js'
import { DIMENSIONS } from '../../src/dimensions/index.js'
import { FORMATS, MODELS_OF } from '../../src/taxonomy/index.js'
import { WHOLE_HOUR_ZONES, dateOfDay } from '../../src/time/index.js'
import { randomRestriction } from './random-targeting.js'

type Below = (n: number) => number
const NAMES = [
  'Native, phones, ES PT',
  'Spring; in “Lisbon” or Porto. Bid low',
  'a',
  'Lune d’été: l’île \\ test”',
  'Buy pop as “x”. Spend nothing',
  '日本語 kana, one or two'
]

/** A line that uses any field of a line, each now and then; always valid. */
export function randomLine(below: Below): LineDraft {
  const some = <T>(make: () => T, among = 2): T | undefined => (below(among) === 0 ? make() : undefined)
  const format = FORMATS[below(FORMATS.length)]
  const model = MODELS_OF[format][below(MODELS_OF[format].length)]
  const cents = (n: number) => (1 + below(n)) * 1000
  const bidMicros = some(() => cents(9000), 8) === undefined ? cents(9000) : null
  const start = below(300)
  const way = model === 'CPM' ? below(3) : 2 * below(2)
  const big = () => some(() => 20_000_000 + below(900_000_000)) ?? null
  const count = () => some(() => 1 + below(2_000_000), 4) ?? null
  const dimensions = [...new Set(Array.from({ length: below(7) }, () => DIMENSIONS[below(DIMENSIONS.length)]))]
  const restrictions = dimensions.flatMap((dimension) => {
    const one = randomRestriction(dimension, below)
    return [one.values.length > 0 && below(9) === 0 ? { ...one, list: 1 + below(40) } : one]
  })
  return {
    name: NAMES[below(NAMES.length)],
    format,
    zone: WHOLE_HOUR_ZONES[below(WHOLE_HOUR_ZONES.length)],
    targeting: { restrictions },
    price: {
      model,
      bidMicros,
      maxMicros: way === 2 || below(2) ? (bidMicros ?? 0) + cents(5000) : null,
      adjustments: Array.from({ length: below(4) }, () => {
        const { dimension, values } = randomRestriction(DIMENSIONS[below(DIMENSIONS.length - 2)], below)
        return {
          dimension,
          value: values[0] ?? 'PT',
          ...(below(3) ? { perMille: below(10_001), ownMicros: null } : { perMille: null, ownMicros: cents(9000) })
        }
      }).map((one) => (one.dimension === 'segments' && one.value === 'PT' ? { ...one, dimension: 'where' as const } : one)),
      repeatDiscount: below(3) === 0 ? below(1001) : undefined,
      steps: Array.from({ length: below(3) }, () => ({
        after: (['date', 'days live', 'impressions'] as const)[below(3)],
        from: below(5000),
        bidMicros: cents(9000)
      })),
      aim: way === 2 ? { event: AIM_KINDS[below(AIM_KINDS.length)], micros: cents(90_000) } : null,
      follow: way === 1
    },
    hours: below(3)
      ? null
      : {
          clock: below(2) ? 'viewer' : 'line',
          perMille: Array.from({ length: 168 }, (_, hour) =>
            hour === 9 || below(3) ? [1000, 850, 1255, 0, 10_000][below(hour === 9 ? 3 : 5)] : 0
          )
        },
    flight: below(4)
      ? {
          startDate: dateOfDay(start),
          endDate: dateOfDay(start + below(300)),
          startHour: some(() => 1 + below(12), 3),
          endHour: some(() => 13 + below(11), 3)
        }
      : { startDate: dateOfDay(start), endDate: null, startHour: some(() => 1 + below(23), 3) },
    budget: {
      dailyMicros: big(),
      totalMicros: big(),
      weeklyMicros: big(),
      monthlyMicros: big(),
      placementDailyMicros: big(),
      sourceDailyMicros: big(),
      dailyImpressions: count(),
      weeklyImpressions: count(),
      monthlyImpressions: count(),
      totalImpressions: count()
    },
    pacing: (['even', 'traffic', 'fast'] as const)[below(3)],
    viewSeconds: format === 'video' || format === 'audio' ? some(() => VIEW_SECONDS[below(5)]) : undefined,
    rotation: (['weight', 'even', 'learning'] as const)[below(3)],
    caps: Array.from({ length: below(4) }, () => ({ times: 1 + below(30), hours: 1 + below(720) })),
    gapMinutes: below(2) ? 1 + below(600) : null,
    buys: below(3)
      ? undefined
      : below(2)
        ? { open: true, deals: Array.from({ length: below(4) }, () => 1 + below(90)) }
        : { open: false, deals: [1 + below(90)] },
    landing: below(4) ? `https://shop.example/a?b=${below(99)}&c=“d”.%20e` : '',
    landings: below(3)
      ? undefined
      : ([
          { countries: ['DE', 'AT'], devices: below(2) ? ['phone'] : [], link: 'https://shop.example/with on it' },
          { countries: [], devices: ['TV', 'set-top box'], link: `https://shop.example/${below(9)}` }
        ]
          .slice(0, 1 + below(2))
          .map(({ link, ...whom }) => ({ ...whom, link: link.replace(/ /g, '%20') })) as LineDraft['landings']),
    onceCleared: below(2) ? 'start' : 'wait'
  }
}
