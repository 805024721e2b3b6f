import { CATEGORIES, DEVICE_TYPES, DISPLAY_SIZES, type Category, type PropertyClass } from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { STREAM, finish, fold, hash, logNormalOf, step } from '../random/index.js'
import { FIRST_WORDS, KIND_WORDS, POSITIONS, PUBLISHER_FIRST, PUBLISHER_LAST } from './names.js'
import { SOURCES } from './sources.js'

export interface Publisher {
  index: number
  name: string
}

export interface Property {
  index: number
  name: string
  /** Domain of a site or newsletter, or the store id of an app; always under `.example`. */
  domain: string
  publisher: number
  class: PropertyClass
  category: number
  /** Country it is made in; it is read most there. */
  home: number
  /** Share of traffic, relative. */
  weight: number
}

export interface Placement {
  index: number
  property: number
  /** Index into `DISPLAY_SIZES`. */
  size: number
  position: string
  /** Bit d set: shown on device type d. */
  devices: number
  weight: number
  /** Price level of rivals' bids, micros an impression at price level 1. */
  price: number
  /** Floor in micros an impression before the source's factor. */
  floor: number
  /** Hidden true rates, in 1/65,536. Published figures carry an error: see `measures`. */
  viewable: number
  bots: number
  stays: number
  clicks: number
}

export interface Inventory {
  publishers: readonly Publisher[]
  properties: readonly Property[]
  placements: readonly Placement[]
  /** Floor in micros an impression by placement x source: `placement * SOURCES.length + source`. */
  floors: Uint32Array
  /** Relative weight of each source, by placement x source. */
  sourceWeights: Float64Array
}

const PUBLISHER_COUNT = 34
const PROPERTY_COUNT = 128
const PHONE = 1
const TABLET = 2
const DESKTOP = 4
/** Device types on which a slot of each size is shown, in the order of `DISPLAY_SIZES`. */
const SIZE_DEVICES = [PHONE | TABLET | DESKTOP, TABLET | DESKTOP, PHONE, DESKTOP, DESKTOP, DESKTOP, PHONE, TABLET | DESKTOP]
const SIZE_PRICE = [1, 0.95, 0.55, 1.6, 0.9, 1.9, 0.75, 1.1]
const SIZE_CLICK = [1, 0.7, 1.5, 1.1, 0.5, 1.3, 1.6, 1.1]
const SIZE_VIEW = [1, 1.05, 1.3, 1.05, 1.1, 1.1, 1.15, 0.95]
const CLASS_SIZES: Readonly<Record<PropertyClass, readonly number[]>> = {
  site: [0, 1, 2, 3, 4, 5, 6, 7], app: [2, 0, 6, 1], newsletter: [0, 1, 6]
}

/** A short sequence of uniform draws below one state; only for building the inventory. */
function sequence(state: number) {
  let n = 0
  const next = () => finish(step(state, n++))
  return {
    next,
    /** Uniform in [0, 1). */
    unit: () => next() / 4294967296,
    below: (count: number) => Math.floor((next() / 4294967296) * count),
    spread: (sigma: number) => logNormalOf(sigma, next())
  }
}

function makePublishers(seed: number): Publisher[] {
  const names = new Set<string>()
  for (let n = 0; names.size < PUBLISHER_COUNT; n++) {
    const first = PUBLISHER_FIRST[hash(seed, STREAM.property, 900, n) % PUBLISHER_FIRST.length]
    names.add(`${first} ${PUBLISHER_LAST[hash(seed, STREAM.property, 901, n) % PUBLISHER_LAST.length]}`)
  }
  return [...names].map((name, index) => ({ index, name }))
}

function makeProperty(seed: number, index: number, publishers: number, taken: Set<string>): Property {
  const r = sequence(fold(seed, STREAM.property, index))
  const category = index % CATEGORIES.length
  const words = FIRST_WORDS[CATEGORIES[category] as Category]
  const roll = r.unit()
  const kind: PropertyClass = roll < 0.62 ? 'site' : roll < 0.91 ? 'app' : 'newsletter'
  let name
  do name = `${words[r.below(words.length)]} ${KIND_WORDS[kind][r.below(KIND_WORDS[kind].length)]}`.trim()
  while (taken.has(name))
  taken.add(name)
  const plain = name.toLowerCase().replace(/&/g, 'and').replace(/[^a-z0-9]/g, '')
  const total = COUNTRIES.reduce((sum, country) => sum + country.weight, 0)
  let home = 0
  for (let at = r.unit() * total; home < COUNTRIES.length - 1 && at >= COUNTRIES[home].weight; home++) at -= COUNTRIES[home].weight
  return {
    index, name, category, home, class: kind,
    domain: kind === 'app' ? `example.${plain}.app` : `${plain}.example`,
    publisher: r.below(publishers), weight: r.spread(1.0)
  }
}

function makePlacements(seed: number, properties: readonly Property[]): Placement[] {
  const placements: Placement[] = []
  for (const property of properties) {
    const r = sequence(fold(seed, STREAM.placement, property.index))
    const quality = r.spread(0.35)
    const care = r.unit()
    const sizes = CLASS_SIZES[property.class].filter((_, n) => n === 0 || r.unit() < 0.45)
    const taken = new Set<string>()
    for (const size of sizes) {
      const names = POSITIONS[DISPLAY_SIZES[size]]
      const position = names.find((name, n) => !taken.has(name) && (n === names.length - 1 || r.unit() < 0.6)) ?? names[0]
      taken.add(position)
      const price = 1400 * SIZE_PRICE[size] * quality * r.spread(0.3)
      const bots = Math.min(0.5, 0.02 + (1 - care) * 0.05 * r.spread(1.1))
      placements.push({
        index: placements.length, property: property.index, size, position,
        devices: property.class === 'app' ? SIZE_DEVICES[size] & (PHONE | TABLET) : SIZE_DEVICES[size],
        weight: property.weight * r.spread(0.5),
        price: Math.round(price),
        floor: Math.round(price * (0.25 + 0.35 * r.unit())),
        viewable: Math.round(65536 * Math.min(0.95, (0.4 + 0.35 * care) * SIZE_VIEW[size] * r.spread(0.12))),
        bots: Math.round(65536 * bots),
        stays: Math.round(65536 * Math.min(0.9, 0.3 + 0.4 * care * r.spread(0.2))),
        clicks: Math.round(65536 * 0.0026 * SIZE_CLICK[size] * r.spread(0.55))
      })
    }
  }
  return placements
}

/** Everything that is sold: publishers, properties, placements and through which source at what floor. */
export function makeInventory(seed: number): Inventory {
  const publishers = makePublishers(seed)
  const taken = new Set<string>()
  const properties = Array.from({ length: PROPERTY_COUNT }, (_, index) => makeProperty(seed, index, publishers.length, taken))
  const placements = makePlacements(seed, properties)
  const floors = new Uint32Array(placements.length * SOURCES.length)
  const sourceWeights = new Float64Array(floors.length)
  for (const placement of placements) {
    const kind = properties[placement.property].class
    const r = sequence(fold(seed, STREAM.source, placement.index))
    const best = SOURCES.reduce((a, b) => (b.carries[kind] > a.carries[kind] ? b : a))
    for (const source of SOURCES) {
      const at = placement.index * SOURCES.length + source.index
      floors[at] = Math.max(source.leastBid, Math.floor((placement.floor * source.floorPerMille) / 1000))
      const sold = source === best || r.unit() < 0.45
      sourceWeights[at] = sold ? source.carries[kind] * (0.5 + r.unit()) : 0
    }
  }
  return { publishers, properties, placements, floors, sourceWeights }
}

export const DEVICE_COUNT = DEVICE_TYPES.length
