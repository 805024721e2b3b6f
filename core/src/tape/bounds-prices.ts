import { COUNTRIES } from '../places/index.js'
import { CATEGORIES, GRADES, SHAPES } from '../taxonomy/index.js'
import { PRICE_KINDS, publishMeasures, type World } from '../market/index.js'
import { Groups, MeanRatio, PHONE, bound, medianOf, rankCorrelation, type Topic, type WorldBound } from './bounds.js'

const UNITED_STATES = COUNTRIES.findIndex((country) => country.code === 'US')
const TIER_ONE = COUNTRIES.filter((country) => country.tier === 1)

/** CPM that wins half in tier 1. */
const HALVES: readonly (readonly [kind: string, low: number, high: number])[] = [
  ['display', 0.5, 1.5],
  ['native', 0.8, 2.5],
  ['web and app video', 4, 9],
  ['television', 14, 28],
  ['music', 5, 10],
  ['podcast', 10, 18],
  // A thousand visits.
  ['whole page', 0.8, 2.5],
  ['redirect visit', 2, 8]
]
const POPS = ['whole page', 'redirect visit']

/** What wins half, by kind and country, and how floors keep in step. */
export function pricesByKind(): Topic {
  const prices = new Groups()
  return {
    look: ({ kind, format, placement, tier, country, price, floor, rival, isHome }) => {
      // A page that a browser holds back is no visit.
      if (format === 'pop') prices.add(`${SHAPES[placement.shape]} ${tier}`, price / (1 - placement.blocked / 65536))
      prices.add(`${kind} ${tier}`, price)
      prices.add(`${kind} of ${country}`, price)
      if (isHome && format !== 'pop') prices.add(`floors ${tier}`, floor > rival ? 100 : 0)
    },
    bounds: () => {
      const cpm = (name: string) => prices.median(name) / 1000
      return [
        ...HALVES.map(([kind, low, high]) => bound(`wins half, ${kind}, tier 1, CPM`, cpm(`${kind} 1`), low, high)),
        ...POPS.map((kind) => bound(`wins half, ${kind}, tier 3 against tier 1`, cpm(`${kind} 3`) / cpm(`${kind} 1`), 0.1, 1 / 3)),
        ...[1, 2, 3].map((tier) => bound(`floor over the rival at home, tier ${tier}, %`, prices.mean(`floors ${tier}`), 5, 35)),
        ...PRICE_KINDS.flatMap((kind) => {
          const middle = medianOf(TIER_ONE.map(({ index }) => cpm(`${kind} of ${index}`)))
          return [
            bound(`${kind}: United States against the median of tier 1`, cpm(`${kind} of ${UNITED_STATES}`) / middle, 1.3, 1.8),
            bound(`${kind}: tier 3 against tier 1`, cpm(`${kind} 3`) / cpm(`${kind} 1`), 0.1, 0.35)
          ]
        })
      ]
    }
  }
}

/** Subjects by what they are called, or by the branch that they are all of. */
const DEAR = ['home loans', 'insurance', 'business software', 'motoring', 'health']
const CHEAP = ['pets', 'games', 'humour', 'recipes']
/** Rows of a category in a country from which its price there is told. */
const LEAST_ROWS = 20

/** What pages are about: each category's price against that of its country, over countries of tier 1 by rows. */
export function pricesByCategory(): Topic {
  const prices = new Groups()
  return {
    look: ({ format, tier, branch, category, country, price }) => {
      if (format !== 'display' || tier !== 1) return
      prices.add(`${category} in ${country}`, price)
      if (branch !== category) prices.add(`${branch} in ${country}`, price)
      prices.add(String(country), price)
    },
    bounds: () => {
      const levels = new Map<string, number>()
      for (const { name } of CATEGORIES) {
        const level = new MeanRatio()
        for (const { index } of TIER_ONE) {
          const own = `${name} in ${index}`
          if (prices.count(own) >= LEAST_ROWS) level.add(prices.median(own) / prices.median(String(index)), prices.count(own))
        }
        if (!Number.isNaN(level.value)) levels.set(name, level.value)
      }
      const mean = [...levels.values()].reduce((sum, level) => sum + level, 0) / levels.size
      const against = (name: string) => (levels.get(name) ?? NaN) / mean
      return [
        ...DEAR.map((name) => bound(`${name}: price against the mean of categories`, against(name), 1.5, 5)),
        ...CHEAP.map((name) => bound(`${name}: price against the mean of categories`, against(name), 0.2, 0.8))
      ]
    }
  }
}

/** Whether dear placements are the good ones, over those of display in tier 1. */
export function pricesByQuality({ seed, inventory }: World): Topic {
  const prices = new Groups()
  const measures = publishMeasures(seed, inventory)
  return {
    look: ({ format, tier, placement, price }) => {
      if (format === 'display' && tier === 1) prices.add(String(placement.index), price)
    },
    bounds: () => {
      const own = inventory.placements.filter(({ index }) => prices.count(String(index)) >= 30)
      const price = own.map(({ index }) => prices.median(String(index)))
      const by = (value: (placement: number) => number) =>
        rankCorrelation(
          price,
          own.map(({ index }) => value(index))
        )
      return [
        bound(
          'price and viewability, rank correlation',
          by((p) => measures.viewable[p]),
          0.3,
          0.6
        ),
        bound(
          'price and robots, rank correlation',
          by((p) => measures.bots[p]),
          -0.4,
          -0.15
        ),
        bound(
          'price and grade, rank correlation',
          by((p) => GRADES.length - measures.grade[p]),
          0.3,
          0.6
        )
      ]
    }
  }
}

/** Categories that are read at work, and bought for from Monday to Friday. */
const OF_BUSINESS = new Set(['business', 'money', 'careers'])
const LEAST_PAIRS = 10
const LEAST_PRICE = 10

/** Prices by what differs inside a placement: hour, weekday, device; and by rivals. */
export function pricesInside({ inventory }: World): Topic {
  const prices = new Groups()
  const systems = new Map<string, [first: number[], second: number[]]>()
  let [all, withRival] = [0, 0]
  return {
    look: ({ format, tier, branch, placement, device, country, price, rival, second, hour, isWeekend, isSecondSystem }) => {
      all++
      if (rival > 0) withRival++
      if (second > 0) prices.add('second', second / rival)
      if (device === PHONE) {
        const name = `${country} ${placement.index}`
        let both = systems.get(name)
        if (!both) systems.set(name, (both = [[], []]))
        both[isSecondSystem ? 1 : 0].push(rival)
      }
      if (format !== 'display' || tier !== 1) return
      if (OF_BUSINESS.has(branch)) prices.add(`${isWeekend ? 'weekend' : 'week'} ${placement.index}`, price)
      if (device === PHONE && !isWeekend) prices.add(hour >= 19 && hour < 22 ? 'evening' : hour >= 9 && hour < 17 ? 'day' : 'else', price)
    },
    bounds: () => {
      const bySystem = new MeanRatio()
      for (const [first, second] of systems.values())
        // Where a price is a few millionths, rounding is what is seen.
        if (Math.min(first.length, second.length) >= 5 && medianOf(first) >= LEAST_PRICE)
          bySystem.add(medianOf(second) / medianOf(first), Math.min(first.length, second.length))
      return [
        bound('second phone system: its price', bySystem.value, 1.25, 1.6),
        bound('prices 19 to 22 h against 9 to 17 h', prices.median('evening') / prices.median('day'), 1.1, 1.3),
        weekdays(inventory.placements, prices),
        bound('second price against the best, median', prices.median('second'), 0.75, 0.85),
        bound('opportunities with a rival, %', (100 * withRival) / all, 99, 100)
      ]
    }
  }
}

function weekdays(placements: readonly { index: number }[], prices: Groups): WorldBound {
  const ratio = new MeanRatio()
  for (const { index } of placements) {
    const [week, weekend] = [`week ${index}`, `weekend ${index}`]
    const pairs = Math.min(prices.count(week), prices.count(weekend))
    if (pairs >= LEAST_PAIRS) ratio.add(prices.median(week) / prices.median(weekend), pairs)
  }
  return bound('business categories, weekdays against weekends', ratio.value, 1.2, 1.5)
}
