import {
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
import { STREAM, exactExp, exactLog, fold, hash, logNormalOf, sequence } from '../random/index.js'
import { POSITIONS } from './names.js'
import type { Placement } from './placement.js'
import type { Property } from './property.js'

const PLACEMENT_COUNT = 1200
const [PHONE, TABLET, DESKTOP, TV, CONSOLE, SET_TOP] = DEVICE_TYPES.map((_, bit) => 1 << bit)

/** A placement while it is drawn. */
export interface Drawn {
  placement: Placement
  /** How well it is kept, 0 to 1: what makes it dear, viewable, clean and well read. */
  care: number
  /** Its floor as a share of what rivals pay. */
  floorShare: number
}

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
      // In the order in which they always were drawn.
      const sound = format === 'audio' || television || (watched && r.unit() < 0.5)
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
        devices: CLASS_DEVICES[property.class] & kind.devices,
        weight,
        price: Math.round(price),
        bargain: false,
        floor: 0,
        viewable: inShares(television ? 0.955 + 0.03 * care : Math.min(0.97, (0.355 + 0.39 * care) * kind.view * r.spread(0.08))),
        bots: inShares(Math.min(0.2, 0.02 + (1 - care) * (property.anonymous ? 0.08 : 0.045) * r.spread(1.12))),
        blocked: format === 'pop' ? inShares(0.08 + 0.35 * r.unit()) : 0,
        stays: inShares(
          format === 'pop' ? (0.035 + 0.06 * care) * r.spread(0.2) : 1 - Math.min(0.7, (0.42 - 0.26 * care) * r.spread(0.22))
        ),
        clicks: television ? 0 : inShares(kind.clicks * r.spread(0.5) * exactExp(0.4 * (0.5 - care))),
        sells: 1,
        completes: watched ? inShares(endOf(television, rewarded, skippable, format === 'audio', r.spread(0.25))) : 0
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
    const log = exactLog(price / SHAPE_KINDS[SHAPES[shape]].price)
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
    const { clicks } = SHAPE_KINDS[SHAPES[placement.shape]]
    const often = placement.clicks > 0 ? placement.clicks / 65536 / clicks : 1
    const drawn = logNormalOf(0.45, hash(seed, STREAM.sells, placement.index))
    placement.sells = drawn * exactExp(0.5 * (care - 0.5) - 0.3 * exactLog(often))
  }
}

const inShares = (share: number) => Math.round(65536 * share)

/** Share that reaches the end: the usual one to a power, so that it stays under 1. */
function endOf(television: boolean, rewarded: boolean, skippable: boolean, audio: boolean, power: number): number {
  const usual = television ? 0.955 : audio ? 0.94 : rewarded ? 0.88 : skippable ? 0.3 : 0.82
  return exactExp(exactLog(usual) * power)
}

/** Of well kept placements some are known to few: they cost a third of what they are worth, and are read with care. */
const BARGAINS = 15
const BARGAIN_PRICE = 0.36
const BARGAIN_CLICKS = 1.5
const BARGAIN_CARE = 0.72
function chooseBargains(seed: number, all: readonly Drawn[]): void {
  const draw = ({ placement: { index } }: Drawn) => hash(seed, STREAM.placement, 70_000, index)
  const chosen = all
    .filter(({ care, placement }) => care >= BARGAIN_CARE && FORMATS[SHAPE_FORMAT[placement.shape]] !== 'pop')
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
