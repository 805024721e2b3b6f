import {
  ARRIVES,
  CATEGORIES,
  DEVICE_TYPES,
  FORMATS,
  FORMAT_TABLE,
  SHAPES,
  SHAPE_FORMAT,
  SHAPE_TABLE,
  VIDEO_POSITIONS,
  type DeviceType,
  type PropertyClass,
  type Shape,
  type SlotEntry
} from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { STREAM, exactExp, exactLog, fold, hash, logNormalOf, sequence } from '../random/index.js'
import type { Placement } from './placement.js'
import type { Property } from './property.js'

const PLACEMENT_COUNT = 1200

/** A placement while it is drawn. */
export interface Drawn {
  placement: Placement
  /** How well it is kept, 0 to 1: what makes it dear, viewable, clean and well read. */
  care: number
  /** Its floor as a share of what rivals pay. */
  floorShare: number
}

/** Slots of a class of property, or of those that are anonymous: format by format. */
const slotsOf = (group: PropertyClass | 'anonymous'): readonly SlotEntry[] =>
  FORMATS.flatMap((format): readonly SlotEntry[] => FORMAT_TABLE[format].slots[group] ?? []).sort((a, b) => (a.turn ?? 0) - (b.turn ?? 0))
const devicesOf = (devices: readonly DeviceType[]) => devices.reduce((bits, device) => bits | (1 << DEVICE_TYPES.indexOf(device)), 0)
const [PHONE, TABLET, DESKTOP, TV, CONSOLE, SET_TOP] = DEVICE_TYPES.map((_, bit) => 1 << bit)

/** How much dearer a slot is on a television, and beside a podcast whose speaker is listened to. */
const TELEVISION_PRICE = 2.4
const PODCAST_PRICE = 1.9
/** How much dearer well kept placements are than careless ones: of the whole span of care. */
const CARE_PRICE = 2.6
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
/**
 * Draws the placements of properties, and which of them are bargains; their floors are not set yet: a floor is a share of a price that
 * is only known once all are drawn.
 */
export function drawPlacements(seed: number, properties: readonly Property[]): Drawn[] {
  const all: Drawn[] = []
  for (const property of properties) {
    const r = sequence(fold(seed, STREAM.placement, property.index))
    const quality = r.spread(0.25)
    const care = property.anonymous ? r.unit() * 0.5 : r.unit()
    const television = property.class === 'channel'
    const kinds = slotsOf(property.anonymous ? 'anonymous' : property.class).filter(({ chance }) => chance === 1 || r.unit() < chance)
    const taken = new Set<string>()
    for (const { shape: name, video, rewarded = false } of kinds) {
      const shape = SHAPES.indexOf(name as Shape)
      const kind = SHAPE_TABLE[name as Shape]
      const { watched, arrives } = FORMAT_TABLE[FORMATS[SHAPE_FORMAT[shape]]]
      const names = kind.positions
      const free = names.filter((position) => !taken.has(position))
      const position = property.anonymous
        ? `${names[0]} ${100 + r.below(900)}`
        : video && watched && !watched.isFilm
          ? names[['pre-roll', 'mid-roll', 'post-roll'].indexOf(video)]
          : video
            ? `${video}, ${names[0]}${taken.has(`${video}, ${names[0]}`) ? ', second' : ''}`
            : (free[Math.min(free.length - 1, r.below(2))] ?? names[0])
      taken.add(position)
      const skippable = (watched?.isFilm ?? false) && !rewarded && !television && r.unit() < 0.55
      const price =
        kind.price *
        (television ? TELEVISION_PRICE : property.show === 'podcast' ? PODCAST_PRICE : 1) *
        (television ? 1 : quality) *
        exactExp(CARE_PRICE * (care - 0.5)) *
        r.spread(television ? 0.12 : 0.25) *
        (video === 'mid-roll' ? 1.15 : video === 'post-roll' ? 0.7 : 1)
      // In the order in which they always were drawn.
      const sound = (watched && !watched.isFilm) || television || (watched !== undefined && r.unit() < 0.5)
      const weight = property.weight * kind.traffic * r.spread(0.5)
      const floorShare = 0.2 + 0.31 * r.unit()
      const placement: Placement = {
        index: all.length,
        property: property.index,
        shape,
        position,
        rewarded,
        skippable,
        video: video ? VIDEO_POSITIONS.indexOf(video) : -1,
        sound,
        devices: CLASS_DEVICES[property.class] & devicesOf(kind.devices),
        weight,
        price: Math.round(price),
        bargain: false,
        floor: 0,
        viewable: inShares(television ? 0.955 + 0.03 * care : Math.min(0.97, (0.355 + 0.39 * care) * kind.view * r.spread(0.08))),
        bots: inShares(Math.min(0.2, 0.02 + (1 - care) * (property.anonymous ? 0.08 : 0.045) * r.spread(1.12))),
        blocked: arrives ? inShares(0.08 + 0.35 * r.unit()) : 0,
        stays: inShares(arrives ? (0.035 + 0.06 * care) * r.spread(0.2) : 1 - Math.min(0.7, (0.42 - 0.26 * care) * r.spread(0.22))),
        clicks: television ? 0 : inShares(kind.clicks * r.spread(0.5) * exactExp(0.4 * (0.5 - care))),
        sells: 1,
        completes: watched ? inShares(exactExp(exactLog(watched.reachesEnd({ television, rewarded, skippable })) * r.spread(0.25))) : 0
      }
      all.push({ placement, care, floorShare })
    }
  }
  alikeBySubject(all, properties)
  const kept = fewEnough(all)
  drawSales(seed, kept)
  chooseBargains(seed, kept)
  return kept.map((drawn, index) => ({ ...drawn, placement: { ...drawn.placement, index } }))
}

/**
 * Prices by which no subject is dear only because its few properties happen to be: what its readers are worth is `CATEGORY_PRICE`
 * alone.
 */
function alikeBySubject(all: readonly Drawn[], properties: readonly Property[]): void {
  const sums = CATEGORIES.map(() => ({ log: 0, weight: 0 }))
  const whole = { log: 0, weight: 0 }
  const display = all.filter(({ placement }) => FORMATS[SHAPE_FORMAT[placement.shape]] === 'display')
  const atHome = COUNTRIES.map(() => 0)
  for (const { placement } of display) atHome[properties[placement.property].home] += placement.weight
  for (const { shape, property, price, weight } of display.map(({ placement }) => placement)) {
    const { category, home } = properties[property]
    const log = exactLog(price / SHAPE_TABLE[SHAPES[shape]].price)
    // Rich countries are where subjects are compared, each by its people: what is read there is mostly at home there.
    const counts = (weight / atHome[home]) * COUNTRIES[home].weight * (COUNTRIES[home].tier === 1 ? 1 : 0.05)
    for (const sum of [sums[category], whole]) {
      sum.log += counts * log
      sum.weight += counts
    }
  }
  const factors = sums.map(({ log, weight }) => (weight > 0 ? exactExp(whole.log / whole.weight - log / weight) : 1))
  for (const { placement } of all) placement.price = Math.round(placement.price * factors[properties[placement.property].category])
}

/** Where people buy is not where they click: a placement's own, better with care, worse the more is clicked there. */
function drawSales(seed: number, all: readonly Drawn[]): void {
  for (const { placement, care } of all) {
    const { clicks } = SHAPE_TABLE[SHAPES[placement.shape]]
    const often = placement.clicks > 0 ? placement.clicks / 65536 / clicks : 1
    const drawn = logNormalOf(0.45, hash(seed, STREAM.sells, placement.index))
    placement.sells = drawn * exactExp(0.5 * (care - 0.5) - 0.3 * exactLog(often))
  }
}

const inShares = (share: number) => Math.round(65536 * share)

/** Of well kept placements some are known to few: they cost a third of what they are worth, and are read with care. */
const BARGAINS = 15
const BARGAIN_PRICE = 0.36
const BARGAIN_CLICKS = 1.5
const BARGAIN_CARE = 0.72
function chooseBargains(seed: number, all: readonly Drawn[]): void {
  const draw = ({ placement: { index } }: Drawn) => hash(seed, STREAM.placement, 70_000, index)
  const chosen = all
    .filter(({ care, placement }) => care >= BARGAIN_CARE && !ARRIVES[SHAPE_FORMAT[placement.shape]])
    .sort((a, b) => draw(a) - draw(b))
    .slice(0, BARGAINS)
  for (const { placement } of chosen) {
    placement.bargain = true
    placement.price = Math.round(placement.price * BARGAIN_PRICE)
    placement.clicks = Math.round(placement.clicks * BARGAIN_CLICKS)
  }
}

/** Keeps exactly as many placements as the market has: the smallest of the properties with most go. */
function fewEnough(all: readonly Drawn[]): Drawn[] {
  const perProperty = new Map<number, Drawn[]>()
  for (const drawn of all) perProperty.set(drawn.placement.property, [...(perProperty.get(drawn.placement.property) ?? []), drawn])
  const gone = new Set<Drawn>()
  while (all.length - gone.size > PLACEMENT_COUNT) {
    const [fullest, own] = [...perProperty].reduce((most, other) => (other[1].length > most[1].length ? other : most))
    const least = own.reduce((a, b) => (b.placement.weight < a.placement.weight ? b : a))
    gone.add(least)
    perProperty.set(
      fullest,
      own.filter((one) => one !== least)
    )
  }
  return all.filter((drawn) => !gone.has(drawn))
}
