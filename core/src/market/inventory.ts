import {
  BRANCHES,
  CATEGORIES,
  DEVICE_TYPES,
  FORMATS,
  SHAPES,
  SHAPE_FORMAT,
  VIDEO_POSITIONS,
  type PropertyClass,
  type Shape,
  type VideoPosition
} from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { STREAM, exactExp, exactLog, fold, hash, sequence } from '../random/index.js'
import { CATEGORY_PRICE } from './category-prices.js'
import { FIRST_WORDS, KIND_WORDS, POSITIONS, PUBLISHER_FIRST, PUBLISHER_LAST } from './names.js'
import { makePages, type Pages } from './pages.js'
import { SOURCES } from './sources.js'
import type { Placement } from './placement.js'
import type { Property } from './property.js'
import { PRICE_KINDS, evenedOver, priceKind, type Evened } from './price-kinds.js'

export type { Placement }

export interface Publisher {
  index: number
  name: string
}

export interface Inventory {
  publishers: readonly Publisher[]
  properties: readonly Property[]
  placements: readonly Placement[]
  pages: Pages
  evened: Evened
  /** Floor in micros an impression by path: `placement * SOURCES.length + source`. */
  floors: Uint32Array
  /** Relative weight of each source, by path. */
  sourceWeights: Float64Array
  /** 1 where the source sells for the publisher itself, by path. */
  direct: Uint8Array
}

/** Placement and source of a path. */
export const pathPlacement = (path: number) => Math.floor(path / SOURCES.length)
export const pathSource = (path: number) => path % SOURCES.length

const PUBLISHER_COUNT = 90
const PROPERTY_COUNT = 320
const PLACEMENT_COUNT = 1200
const [PHONE, TABLET, DESKTOP, TV, CONSOLE, SET_TOP] = DEVICE_TYPES.map((_, bit) => 1 << bit)

/** Of 100 properties, how many are of each class; the last of a site's are the anonymous sellers of pops. */
const CLASS_SHARES: readonly (readonly [kind: PropertyClass, share: number, anonymous?: boolean])[] = [
  ['site', 38],
  ['app', 13],
  ['game', 9],
  ['social feed', 4],
  ['mail inbox', 3],
  ['newsletter', 6],
  ['show', 11],
  ['channel', 8],
  ['site', 8, true]
]

interface SlotKind {
  shape: Shape
  /** Chance that a property of the class has such a slot. */
  chance: number
  video?: VideoPosition
  rewarded?: true
}
const slot = (shape: Shape, chance: number, video?: VideoPosition, rewarded?: true): SlotKind => ({
  shape,
  chance,
  video,
  ...(rewarded ? { rewarded } : {})
})
const SLOTS: Readonly<Record<PropertyClass, readonly SlotKind[]>> = {
  site: [
    slot('300x250', 1),
    slot('728x90', 0.5),
    slot('320x50', 0.5),
    slot('300x600', 0.35),
    slot('160x600', 0.3),
    slot('970x250', 0.3),
    slot('320x100', 0.3),
    slot('336x280', 0.3),
    slot('interstitial, upright', 0.15),
    slot('native card', 0.4),
    slot('native row', 0.25),
    slot('notification', 0.12),
    slot('small player', 0.15, 'outstream'),
    slot('medium player', 0.25, 'pre-roll'),
    slot('large player', 0.12, 'mid-roll')
  ],
  app: [
    slot('320x50', 1),
    slot('300x250', 0.6),
    slot('320x100', 0.4),
    slot('728x90', 0.25),
    slot('interstitial, upright', 0.5),
    slot('native row', 0.5),
    slot('notification', 0.35),
    slot('medium player', 0.25, 'outstream')
  ],
  game: [
    slot('320x50', 1),
    slot('interstitial, upright', 0.9),
    slot('interstitial, wide', 0.35),
    slot('medium player', 0.8, 'mid-roll', true),
    slot('native card', 0.25)
  ],
  'social feed': [slot('native card', 1), slot('native row', 0.8), slot('medium player', 0.9, 'outstream'), slot('300x250', 0.3)],
  'mail inbox': [slot('native row', 1), slot('728x90', 0.6), slot('300x250', 0.6), slot('160x600', 0.4)],
  newsletter: [slot('300x250', 1), slot('728x90', 0.5), slot('native row', 0.5)],
  show: [slot('audio spot', 1, 'pre-roll'), slot('audio spot', 0.85, 'mid-roll'), slot('audio spot', 0.4, 'post-roll')],
  channel: [
    slot('large player', 1, 'pre-roll'),
    slot('large player', 1, 'mid-roll'),
    slot('large player', 0.6, 'mid-roll'),
    slot('large player', 0.35, 'post-roll'),
    slot('medium player', 0.3, 'pre-roll')
  ]
}
const ANONYMOUS_SLOTS: readonly SlotKind[] = [
  slot('whole page', 1),
  slot('whole page', 0.9),
  slot('whole page', 0.7),
  slot('redirect visit', 0.8),
  slot('redirect visit', 0.4)
]

interface ShapeKind {
  devices: number
  /** Price of a thousand, micros an impression, at price level 1. */
  price: number
  clicks: number
  view: number
  traffic: number
}
const shapeKind = (devices: number, price: number, clicks: number, view: number, traffic: number): ShapeKind => ({
  devices,
  price,
  clicks,
  view,
  traffic
})
const SHAPE_KINDS: Readonly<Record<Shape, ShapeKind>> = {
  '300x250': shapeKind(PHONE | TABLET | DESKTOP, 900, 0.0021, 1, 1.25),
  '728x90': shapeKind(TABLET | DESKTOP, 850, 0.0015, 1.02, 1.2),
  '320x50': shapeKind(PHONE, 620, 0.0026, 1.05, 1.25),
  '300x600': shapeKind(DESKTOP, 1500, 0.0026, 1, 0.8),
  '160x600': shapeKind(DESKTOP, 820, 0.0012, 1.04, 0.8),
  '970x250': shapeKind(DESKTOP, 1700, 0.0029, 1.04, 0.7),
  '320x100': shapeKind(PHONE, 800, 0.0028, 1.03, 0.9),
  '336x280': shapeKind(TABLET | DESKTOP, 1050, 0.0024, 0.95, 0.8),
  'interstitial, upright': shapeKind(PHONE | TABLET, 1900, 0.0045, 1.2, 0.35),
  'interstitial, wide': shapeKind(TABLET | CONSOLE | PHONE, 1700, 0.004, 1.2, 0.35),
  'native card': shapeKind(PHONE | TABLET | DESKTOP, 1650, 0.0075, 1.12, 0.95),
  'native row': shapeKind(PHONE | TABLET | DESKTOP, 1250, 0.0058, 1.05, 0.95),
  notification: shapeKind(PHONE | DESKTOP, 1000, 0.009, 1.25, 0.4),
  'small player': shapeKind(DESKTOP | TABLET | PHONE, 5200, 0.0036, 1.05, 0.5),
  'medium player': shapeKind(PHONE | TABLET | DESKTOP | CONSOLE, 7000, 0.0048, 1.2, 0.65),
  'large player': shapeKind(DESKTOP | TABLET | TV | CONSOLE | SET_TOP, 8200, 0.004, 1.3, 0.75),
  'audio spot': shapeKind(PHONE | TABLET | DESKTOP | TV, 7200, 0.0005, 1.6, 0.8),
  'whole page': shapeKind(PHONE | TABLET | DESKTOP, 1300, 0.02, 1.3, 1.2),
  'redirect visit': shapeKind(PHONE | TABLET | DESKTOP, 3000, 0.02, 1.4, 0.8)
}
/** How much dearer a slot is on a television, and beside a podcast whose speaker is listened to. */
const TELEVISION_PRICE = 2.4
const PODCAST_PRICE = 1.9
/** How much dearer well kept placements are than careless ones: of the whole span of care. */
const CARE_PRICE = 2.45
const CLASS_DEVICES: Readonly<Record<PropertyClass, number>> = {
  site: PHONE | TABLET | DESKTOP,
  app: PHONE | TABLET,
  game: PHONE | TABLET | CONSOLE,
  'social feed': PHONE | TABLET | DESKTOP,
  'mail inbox': PHONE | DESKTOP | TABLET,
  newsletter: PHONE | DESKTOP | TABLET,
  show: PHONE | TABLET | DESKTOP | TV,
  channel: TV | CONSOLE | SET_TOP
}
const CLASS_TRAFFIC: Readonly<Record<PropertyClass, number>> = {
  site: 1,
  app: 1.1,
  game: 1,
  'social feed': 1.6,
  'mail inbox': 1.1,
  newsletter: 0.5,
  show: 1,
  channel: 1.5
}

function makePublishers(seed: number): Publisher[] {
  const names = new Set<string>()
  for (let n = 0; names.size < PUBLISHER_COUNT; n++) {
    const first = PUBLISHER_FIRST[hash(seed, STREAM.property, 900, n) % PUBLISHER_FIRST.length]
    names.add(`${first} ${PUBLISHER_LAST[hash(seed, STREAM.property, 901, n) % PUBLISHER_LAST.length]}`)
  }
  return [...names].map((name, index) => ({ index, name }))
}

const CATEGORY_OF_SUBJECT = CATEGORIES.filter(
  (category) =>
    category.branch !== category.index || !CATEGORIES.some((leaf) => leaf.branch === category.index && leaf.index !== category.index)
)

function makeProperty(seed: number, index: number, publishers: number, taken: Set<string>): Property {
  const r = sequence(fold(seed, STREAM.property, index))
  const total = CLASS_SHARES.reduce((sum, [, share]) => sum + share, 0)
  // Every stretch of 100 properties holds each class in its share, mixed by a step that is prime to 100.
  let left = (((index * 37) % 100) * total) / 100
  const [kind, , anonymous = false] = CLASS_SHARES.find(([, share]) => (left -= share) < 0) ?? CLASS_SHARES[0]
  // Subjects of grown-ups are few and mostly anonymous.
  let category = CATEGORY_OF_SUBJECT[r.below(CATEGORY_OF_SUBJECT.length)]
  const branchName = () => CATEGORIES[category.branch].name
  if (branchName() === 'adult' && !anonymous && r.unit() < 0.7) category = CATEGORY_OF_SUBJECT[r.below(8)]
  if (anonymous && r.unit() < 0.3) category = CATEGORY_OF_SUBJECT[CATEGORY_OF_SUBJECT.length - 1]
  const show = kind === 'show' ? (r.unit() < 0.5 ? 'music' : 'podcast') : null
  if (kind === 'game') category = CATEGORIES.filter((other) => CATEGORIES[other.branch].name === 'games')[r.below(3)]
  if (show === 'music') category = CATEGORIES.filter((other) => CATEGORIES[other.branch].name === 'music')[r.below(3)]
  const words = FIRST_WORDS[branchName()]
  let name
  let tries = 0
  do
    name =
      `${words[r.below(words.length)]}${tries > 30 ? ` ${PUBLISHER_FIRST[r.below(PUBLISHER_FIRST.length)]}` : ''} ${KIND_WORDS[kind][r.below(KIND_WORDS[kind].length)]}`.trim()
  while (taken.has(name) && ++tries > 0)
  taken.add(name)
  const plain = name
    .toLowerCase()
    .replace(/&/g, 'and')
    .replace(/[^a-z0-9]/g, '')
  const weights = COUNTRIES.reduce((sum, country) => sum + country.weight, 0)
  let home = 0
  for (let left = r.unit() * weights; home < COUNTRIES.length - 1 && left >= COUNTRIES[home].weight; home++) left -= COUNTRIES[home].weight
  return {
    index,
    category: category.index,
    home,
    class: kind,
    show,
    anonymous,
    name: anonymous ? `No. ${40_000 + (hash(seed, STREAM.property, index, 77) % 59_000)}` : name,
    domain: anonymous ? '' : kind === 'app' || kind === 'game' || kind === 'social feed' ? `example.${plain}.app` : `${plain}.example`,
    publisher: r.below(publishers),
    weight: r.spread(0.9) * CLASS_TRAFFIC[kind]
  }
}

function makePlacements(seed: number, properties: readonly Property[]): Placement[] {
  const placements: Placement[] = []
  const cares: number[] = []
  for (const property of properties) {
    const r = sequence(fold(seed, STREAM.placement, property.index))
    const quality = r.spread(0.25)
    const care = property.anonymous ? r.unit() * 0.5 : r.unit()
    const television = property.class === 'channel'
    const kinds = (property.anonymous ? ANONYMOUS_SLOTS : SLOTS[property.class]).filter(({ chance }) => chance === 1 || r.unit() < chance)
    const taken = new Set<string>()
    for (const { shape: name, video, rewarded = false } of kinds) {
      const shape = SHAPES.indexOf(name)
      const kind = SHAPE_KINDS[name]
      const format = FORMATS[SHAPE_FORMAT[shape]]
      const names = POSITIONS[name]
      const free = names.filter((position) => !taken.has(position))
      const position = property.anonymous
        ? `${names[0]} ${100 + r.below(900)}`
        : video && format === 'audio'
          ? names[['pre-roll', 'mid-roll', 'post-roll'].indexOf(video)]
          : video
            ? `${video}, ${names[0]}${taken.has(`${video}, ${names[0]}`) ? ', second' : ''}`
            : (free[Math.min(free.length - 1, r.below(2))] ?? names[0])
      taken.add(position)
      const watched = format === 'video' || format === 'audio'
      const skippable = watched && !rewarded && !television && format === 'video' && r.unit() < 0.55
      const price =
        kind.price *
        (television ? TELEVISION_PRICE : property.show === 'podcast' ? PODCAST_PRICE : 1) *
        (television ? 1 : quality) *
        exactExp(CARE_PRICE * (care - 0.5)) *
        r.spread(television ? 0.12 : 0.25) *
        (video === 'mid-roll' ? 1.15 : video === 'post-roll' ? 0.7 : 1)
      placements.push({
        index: placements.length,
        property: property.index,
        shape,
        position,
        rewarded,
        skippable,
        video: video ? VIDEO_POSITIONS.indexOf(video) : -1,
        sound: format === 'audio' || television || (watched && r.unit() < 0.5),
        devices: CLASS_DEVICES[property.class] & kind.devices,
        weight: property.weight * kind.traffic * r.spread(0.5),
        price: Math.round(price),
        bargain: false,
        floor: Math.round(65536 * (0.26 + 0.42 * r.unit())),
        viewable: inShares(television ? 0.955 + 0.03 * care : Math.min(0.97, (0.355 + 0.39 * care) * kind.view * r.spread(0.08))),
        bots: inShares(Math.min(0.2, 0.02 + (1 - care) * (property.anonymous ? 0.08 : 0.045) * r.spread(1.2))),
        blocked: format === 'pop' ? inShares(0.08 + 0.35 * r.unit()) : 0,
        stays: inShares(
          format === 'pop' ? (0.035 + 0.06 * care) * r.spread(0.2) : 1 - Math.min(0.7, (0.42 - 0.26 * care) * r.spread(0.22))
        ),
        clicks: television ? 0 : inShares(kind.clicks * r.spread(0.5) * exactExp(0.4 * (0.5 - care))),
        completes: watched ? inShares(endOf(television, rewarded, skippable, format === 'audio', r.spread(0.25))) : 0
      })
      cares.push(care)
    }
  }
  return fewEnough(withBargains(seed, alikeBySubject(placements, properties), cares))
}

/**
 * Prices by which no subject is dear only because its few properties happen to be: what its readers are worth is `CATEGORY_PRICE`
 * alone.
 */
function alikeBySubject(placements: readonly Placement[], properties: readonly Property[]): Placement[] {
  const sums = CATEGORIES.map(() => ({ log: 0, weight: 0 }))
  const all = { log: 0, weight: 0 }
  for (const { shape, property, price, weight } of placements) {
    if (FORMATS[SHAPE_FORMAT[shape]] !== 'display') continue
    const { category, home } = properties[property]
    const log = exactLog(price / SHAPE_KINDS[SHAPES[shape]].price)
    // Rich countries are where subjects are compared.
    const counts = COUNTRIES[home].tier === 1 ? weight : weight / 20
    for (const sum of [sums[category], all]) {
      sum.log += counts * log
      sum.weight += counts
    }
  }
  const factors = sums.map(({ log, weight }) => (weight > 0 ? exactExp(all.log / all.weight - log / weight) : 1))
  return placements.map((placement) => ({
    ...placement,
    price: Math.round(placement.price * factors[properties[placement.property].category])
  }))
}

const inShares = (share: number) => Math.round(65536 * share)

/** Share that reaches the end: the usual one to a power, so that it stays under 1. */
function endOf(television: boolean, rewarded: boolean, skippable: boolean, audio: boolean, power: number): number {
  const usual = television ? 0.955 : audio ? 0.94 : rewarded ? 0.88 : skippable ? 0.3 : 0.82
  return exactExp(exactLog(usual) * power)
}

/** Of well kept placements some are known to few: they cost less than half of what they are worth. */
const BARGAINS = 15
const BARGAIN_PRICE = 0.42
const BARGAIN_CARE = 0.72
function withBargains(seed: number, placements: readonly Placement[], cares: readonly number[]): Placement[] {
  const chosen = new Set(
    placements
      .filter(({ index, shape }) => cares[index] >= BARGAIN_CARE && FORMATS[SHAPE_FORMAT[shape]] !== 'pop')
      .map(({ index }) => index)
      .sort((a, b) => hash(seed, STREAM.placement, 70_000, a) - hash(seed, STREAM.placement, 70_000, b))
      .slice(0, BARGAINS)
  )
  return placements.map((placement) =>
    chosen.has(placement.index)
      ? {
          ...placement,
          bargain: true,
          price: Math.round(placement.price * BARGAIN_PRICE),
          clicks: Math.round(placement.clicks * 1.2)
        }
      : placement
  )
}

/** Keeps exactly as many placements as the market has: the smallest of the properties with most go. */
function fewEnough(placements: Placement[]): Placement[] {
  const perProperty = new Map<number, number>()
  for (const { property } of placements) perProperty.set(property, (perProperty.get(property) ?? 0) + 1)
  const gone = new Set<number>()
  while (placements.length - gone.size > PLACEMENT_COUNT) {
    const [fullest] = [...perProperty].reduce((most, other) => (other[1] > most[1] ? other : most))
    const least = placements
      .filter((placement) => placement.property === fullest && !gone.has(placement.index))
      .reduce((a, b) => (b.weight < a.weight ? b : a))
    gone.add(least.index)
    perProperty.set(fullest, (perProperty.get(fullest) as number) - 1)
  }
  return placements.filter((placement) => !gone.has(placement.index)).map((placement, index) => ({ ...placement, index }))
}

/** What rivals pay in the middle for a placement where its property is at home, micros an impression. */
export function priceAtHome({ properties, evened }: Pick<Inventory, 'properties' | 'evened'>, placement: Placement): number {
  const property = properties[placement.property]
  const level = evened.prices[property.home * PRICE_KINDS.length + PRICE_KINDS.indexOf(priceKind(placement, property))]
  return placement.price * level * CATEGORY_PRICE[property.category]
}

/** Everything that is sold: publishers, properties, placements, pages, and through which source at what floor. */
export function makeInventory(seed: number): Inventory {
  const publishers = makePublishers(seed)
  const taken = new Set<string>()
  const properties = Array.from({ length: PROPERTY_COUNT }, (_, index) => makeProperty(seed, index, publishers.length, taken))
  const drawn = makePlacements(seed, properties)
  const even = evenedOver(drawn, properties)
  // A floor is a part of what rivals pay at home.
  const placements = drawn.map((placement) => ({
    ...placement,
    floor: Math.round((placement.floor / 65536) * priceAtHome({ properties, evened: even }, placement))
  }))
  const floors = new Uint32Array(placements.length * SOURCES.length)
  const sourceWeights = new Float64Array(floors.length)
  const direct = new Uint8Array(floors.length)
  for (const placement of placements) {
    const format = FORMATS[SHAPE_FORMAT[placement.shape]]
    const r = sequence(fold(seed, STREAM.source, placement.index))
    const best = SOURCES.reduce((a, b) => (b.carries[format] > a.carries[format] ? b : a))
    for (const source of SOURCES) {
      const pathIndex = placement.index * SOURCES.length + source.index
      floors[pathIndex] = Math.max(source.leastBid, Math.floor((placement.floor * source.floorPerMille) / 1000))
      const sold = source === best || r.unit() < 0.45
      sourceWeights[pathIndex] = sold ? source.carries[format] * (0.5 + r.unit()) : 0
      direct[pathIndex] = r.unit() < 0.6 ? 1 : 0
    }
  }
  return { publishers, properties, placements, evened: even, floors, sourceWeights, direct, pages: makePages(seed, properties) }
}

/** Format of each placement, index into `FORMATS`. */
export const placementFormats = (inventory: Inventory) =>
  Uint8Array.from(inventory.placements, (placement) => SHAPE_FORMAT[placement.shape])
/** Branch of each placement's property, by position in `BRANCHES`. */
export const placementBranches = ({ placements, properties }: Inventory) =>
  Uint8Array.from(placements, (placement) =>
    BRANCHES.findIndex((branch) => branch.index === CATEGORIES[properties[placement.property].category].branch)
  )
