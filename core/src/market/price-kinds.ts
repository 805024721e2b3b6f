import { COUNTRIES } from '../places/index.js'
import { DEVICE_TYPES, FORMATS, FORMAT_TABLE, SHAPES, SHAPE_FORMAT, type KindEntry } from '../taxonomy/index.js'
import { exactExp, exactLog } from '../random/index.js'
import { CATEGORY_PRICE } from './category-prices.js'
import { DEVICE_COUNT, DEVICE_SHARES } from './devices-shown.js'
import { PAGES_EACH, type Pages } from './pages.js'
import type { Placement } from './placement.js'
import type { Property } from './property.js'
import { LEVEL_LIFTS, rivalLevels } from './rivals.js'
import { SOURCES } from './sources.js'

/** What is priced apart: formats, television apart from other video, podcasts from music, visits that are sent on from pages that open. */
export const KINDS = Object.fromEntries(FORMATS.flatMap((format) => Object.entries(FORMAT_TABLE[format].kinds))) as Readonly<
  Record<string, KindEntry>
>
export const PRICE_KINDS = Object.keys(KINDS)

/** Price kind of a placement. */
export function priceKind({ shape }: Pick<Placement, 'shape'>, property: Property): string {
  return FORMAT_TABLE[FORMATS[SHAPE_FORMAT[shape]]].kindOf(SHAPES[shape], property)
}

/** How much a country's people see of a property. */
export function affinity(property: Property, country: number): number {
  if (property.home === country) return 14
  return COUNTRIES[property.home].tier === COUNTRIES[country].tier ? 0.45 : 0.09
}

/** What a seed's placements are evened by, so that chance moves no country, device or kind as a whole. */
export interface Evened {
  /** Price kind of each placement, index into `PRICE_KINDS`. */
  kinds: Uint8Array
  /** Factor of a placement's weight, by (country x device) cell x format: each device shows its share of every format. */
  weights: Float64Array
  /** Price factor, by country x price kind: a kind costs in each country what the country's price level says. */
  prices: Float64Array
  /** Traffic of each placement in rich countries, and what of it a bid wins that wins half of its kind: responses are evened by them. */
  rich: Float64Array
  won: Float64Array
}

/** Spread of the price of one opportunity of a placement: of rivals, people, pages and devices together, as logarithms. */
const SPREAD = 0.85
/** The logistic curve nearest to the normal one. */
const LOGISTIC = 1.702
const HALVINGS = 22

/** A placement's price in a country before its level, and its floor there, as logarithms; and its traffic. */
interface Priced {
  log: number
  floor: number
  traffic: number
  format: number
}

/** Of each format, how much of its traffic is sold by sources that raise floors by no more than so much: logarithm and share. */
const FLOOR_STEPS = FORMATS.map((format) => {
  const all = SOURCES.reduce((sum, { carries }) => sum + carries[format], 0)
  return SOURCES.filter(({ carries }) => carries[format] > 0).map(({ floorPerMille, carries }) => ({
    log: exactLog(floorPerMille / 1000),
    share: carries[format] / all
  }))
})

/** Share of a placement's opportunities that a price wins, as a logarithm. */
function under(price: number, { log, floor, format }: Priced): number {
  let sold = 0
  for (const step of FLOOR_STEPS[format]) if (price >= floor + step.log) sold += step.share
  const z = (LOGISTIC / SPREAD) * (price - log)
  return z > 20 ? sold : z < -20 ? 0 : sold / (1 + exactExp(-z))
}

/** Logarithm of the price under which half of the opportunities lie, of placements by traffic and logarithm of their price. */
function middle(own: readonly Priced[]): number {
  const half = own.reduce((sum, { traffic }) => sum + traffic, 0) / 2
  let [low, high] = [-4, 14]
  for (let n = 0; n < HALVINGS; n++) {
    const price = (low + high) / 2
    let below = 0
    for (const one of own) below += one.traffic * under(price, one)
    if (below > half) high = price
    else low = price
  }
  return (low + high) / 2
}

/** Logarithm of what a property's pages are worth, in the mean of those who read: the first are read most. */
function pageLogs({ category }: Pages, properties: readonly Property[]): Float64Array {
  return Float64Array.from(properties, ({ index }) => {
    let log = 0
    for (let n = 0; n < PAGES_EACH; n++)
      log += (Math.sqrt((n + 1) / PAGES_EACH) - Math.sqrt(n / PAGES_EACH)) * exactLog(CATEGORY_PRICE[category[index * PAGES_EACH + n]])
    return log
  })
}

/** @param floorShares of each placement, its floor as a share of what rivals pay at home */
export function evenedOver(
  placements: readonly Placement[],
  { properties, pages }: { properties: readonly Property[]; pages: Pages },
  floorShares: readonly number[]
): Evened {
  const kinds = Uint8Array.from(placements, (placement) => PRICE_KINDS.indexOf(priceKind(placement, properties[placement.property])))
  const weights = new Float64Array(COUNTRIES.length * DEVICE_COUNT * FORMATS.length)
  const ofPages = pageLogs(pages, properties)
  const rivals = rivalLevels(placements)
  const logOf = placements.map(({ index, price, property }) => exactLog(price) + ofPages[property] + LEVEL_LIFTS[rivals[index]])
  const levels = COUNTRIES.map(({ price }) => exactLog(price))
  // A floor is a share of what rivals pay for the property's own subject.
  const floorLogs = placements.map(({ index, price, property }) => {
    const { home, category } = properties[property]
    return exactLog(floorShares[index] * price * CATEGORY_PRICE[category]) + levels[home]
  })
  const prices = new Float64Array(COUNTRIES.length * PRICE_KINDS.length)
  const rich = new Float64Array(placements.length)
  const won = new Float64Array(placements.length)
  for (let country = 0; country < COUNTRIES.length; country++) {
    const own = placements.map((placement) => placement.weight * affinity(properties[placement.property], country))
    const traffic = new Float64Array(placements.length)
    for (let device = 0; device < DEVICE_COUNT; device++) {
      const cell = (country * DEVICE_COUNT + device) * FORMATS.length
      const sold = placements.filter((placement) => (placement.devices >> device) & 1)
      const sums = new Float64Array(FORMATS.length)
      for (const { index, shape } of sold) sums[SHAPE_FORMAT[shape]] += own[index]
      FORMATS.forEach((name, format) => {
        weights[cell + format] = sums[format] > 0 ? (FORMAT_TABLE[name].onDevices[DEVICE_TYPES[device]] ?? 0) / sums[format] : 0
      })
      for (const { index, shape } of sold) traffic[index] += DEVICE_SHARES[device] * own[index] * weights[cell + SHAPE_FORMAT[shape]]
    }
    PRICE_KINDS.forEach((name, kind) => {
      const seen = placements.flatMap(({ index, shape }) =>
        kinds[index] === kind && traffic[index] > 0
          ? [{ index, log: logOf[index], floor: floorLogs[index] - levels[country], traffic: traffic[index], format: SHAPE_FORMAT[shape] }]
          : []
      )
      if (seen.length === 0) return
      const half = middle(seen)
      prices[country * PRICE_KINDS.length + kind] = COUNTRIES[country].price * KINDS[name].price * exactExp(-half)
      if (COUNTRIES[country].tier > 1) return
      for (const one of seen) {
        const weight = COUNTRIES[country].weight * one.traffic
        rich[one.index] += weight
        won[one.index] += weight * under(half, one)
      }
    })
  }
  return { kinds, weights, prices, rich, won }
}
