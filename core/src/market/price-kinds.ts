import { COUNTRIES } from '../places/index.js'
import { DEVICE_TYPES, FORMATS, SHAPE_FORMAT } from '../taxonomy/index.js'
import { exactExp, exactLog } from '../random/index.js'
import { CATEGORY_PRICE } from './category-prices.js'
import { DEVICE_COUNT, DEVICE_SHARES, FORMAT_BY_DEVICE } from './devices-shown.js'
import type { Placement } from './placement.js'
import type { Property } from './property.js'

/** What is priced apart: formats, television apart from other video, podcasts from music. */
export const PRICE_KINDS = ['display', 'native', 'web and app video', 'television', 'music', 'podcast', 'pop'] as const
export type PriceKind = (typeof PRICE_KINDS)[number]

/** What rivals pay in the middle for each at price level 1, micros an impression. */
const LEVELS: Readonly<Record<PriceKind, number>> = {
  display: 610,
  native: 1000,
  'web and app video': 4200,
  television: 13_000,
  music: 5500,
  podcast: 9800,
  pop: 960
}

/** Price kind of a placement. */
export function priceKind({ shape }: Pick<Placement, 'shape'>, property: Property): PriceKind {
  const format = FORMATS[SHAPE_FORMAT[shape]]
  if (format === 'video') return property.class === 'channel' ? 'television' : 'web and app video'
  if (format === 'audio') return property.show === 'podcast' ? 'podcast' : 'music'
  return format
}

/** How much a country's people see of a property. */
export function affinity(property: Property, country: number): number {
  if (property.home === country) return 14
  return COUNTRIES[property.home].tier === COUNTRIES[country].tier ? 0.45 : 0.12
}

/** What a seed's placements are evened by, so that chance moves no country, device or kind as a whole. */
export interface Evened {
  /** Price kind of each placement, index into `PRICE_KINDS`. */
  kinds: Uint8Array
  /** Factor of a placement's weight, by (country x device) cell x format: each device shows its share of every format. */
  weights: Float64Array
  /** Price factor, by country x price kind: a kind costs in each country what the country's price level says. */
  prices: Float64Array
}

/** Spread of the price of one opportunity of a placement: of rivals, people, pages and devices together, as logarithms. */
const SPREAD = 0.85
/** The logistic curve nearest to the normal one. */
const LOGISTIC = 1.702
const HALVINGS = 22

/** Logarithm of the price under which half of the opportunities lie, of placements by traffic and logarithm of their price. */
function middle(own: readonly { log: number; traffic: number }[]): number {
  const half = own.reduce((sum, { traffic }) => sum + traffic, 0) / 2
  let [low, high] = [-4, 14]
  for (let n = 0; n < HALVINGS; n++) {
    const price = (low + high) / 2
    let below = 0
    for (const { log, traffic } of own) {
      const z = (LOGISTIC / SPREAD) * (price - log)
      below += z > 20 ? traffic : z < -20 ? 0 : traffic / (1 + exactExp(-z))
    }
    if (below > half) high = price
    else low = price
  }
  return (low + high) / 2
}

export function evenedOver(placements: readonly Placement[], properties: readonly Property[]): Evened {
  const kinds = Uint8Array.from(placements, (placement) => PRICE_KINDS.indexOf(priceKind(placement, properties[placement.property])))
  const weights = new Float64Array(COUNTRIES.length * DEVICE_COUNT * FORMATS.length)
  const logOf = placements.map(({ price, property }) => exactLog(price * CATEGORY_PRICE[properties[property].category]))
  const prices = new Float64Array(COUNTRIES.length * PRICE_KINDS.length)
  for (let country = 0; country < COUNTRIES.length; country++) {
    const own = placements.map((placement) => placement.weight * affinity(properties[placement.property], country))
    const traffic = new Float64Array(placements.length)
    for (let device = 0; device < DEVICE_COUNT; device++) {
      const cell = (country * DEVICE_COUNT + device) * FORMATS.length
      const sold = placements.filter((placement) => (placement.devices >> device) & 1)
      const sums = new Float64Array(FORMATS.length)
      for (const { index, shape } of sold) sums[SHAPE_FORMAT[shape]] += own[index]
      FORMATS.forEach((name, format) => {
        weights[cell + format] = sums[format] > 0 ? FORMAT_BY_DEVICE[DEVICE_TYPES[device]][name] / sums[format] : 0
      })
      for (const { index, shape } of sold) traffic[index] += DEVICE_SHARES[device] * own[index] * weights[cell + SHAPE_FORMAT[shape]]
    }
    PRICE_KINDS.forEach((name, kind) => {
      const seen = placements.flatMap(({ index }) =>
        kinds[index] === kind && traffic[index] > 0 ? [{ log: logOf[index], traffic: traffic[index] }] : []
      )
      prices[country * PRICE_KINDS.length + kind] = seen.length > 0 ? COUNTRIES[country].price * LEVELS[name] * exactExp(-middle(seen)) : 0
    })
  }
  return { kinds, weights, prices }
}
