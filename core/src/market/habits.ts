import { BRANCHES, CATEGORIES, CONNECTIONS, DEVICE_TYPES, MOMENTS, type PropertyClass } from '../taxonomy/index.js'
import { HOURS_PER_DAY } from '../time/index.js'
import { guideTable } from '../random/index.js'
import { BROWSER_SLOTS } from './devices.js'
import { DEVICE_COUNT } from './devices-shown.js'
import type { Property } from './property.js'
import { TASTES, ageInterest } from './people.js'
import type { World } from './world.js'

export const GUIDE = 64

export const WEEKDAY = [1, 0.99, 1, 1.01, 1.01, 1.02, 1.05]
export const HOLIDAYS = new Set(['01-01', '12-25', '12-26'])
/** Traffic by local hour on working days and at weekends. */
export const WORKDAY_HOURS = [22, 13, 8, 6, 7, 14, 32, 57, 72, 75, 76, 76, 80, 79, 75, 74, 75, 77, 84, 96, 106, 109, 94, 54]
export const WEEKEND_HOURS = [34, 22, 13, 8, 7, 9, 16, 28, 44, 58, 66, 70, 72, 72, 70, 70, 72, 78, 88, 98, 106, 106, 90, 62]
/** Rivals' prices by local hour: dearer when people buy. */
export const HOUR_PRICE = [
  0.82, 0.78, 0.75, 0.75, 0.76, 0.8, 0.86, 0.92, 0.97, 1, 1, 1, 1, 1, 0.98, 0.98, 0.99, 1.03, 1.12, 1.2, 1.24, 1.22, 1.09, 0.92
]
export const RIVAL_SIGMA = 0.62

/** When each class of property is used, by local hour, in hundredths of its best. */
const CLASS_HOURS: Readonly<Record<PropertyClass, readonly number[]>> = {
  site: [60, 60, 60, 60, 60, 60, 70, 80, 95, 100, 100, 100, 100, 95, 95, 95, 95, 90, 80, 75, 75, 75, 70, 60],
  app: [70, 65, 60, 55, 55, 60, 75, 85, 85, 75, 72, 75, 85, 80, 75, 75, 80, 88, 92, 95, 100, 100, 95, 80],
  game: [80, 70, 60, 50, 45, 45, 50, 65, 60, 50, 50, 55, 70, 65, 55, 60, 70, 80, 85, 92, 100, 100, 98, 90],
  'social feed': [80, 70, 60, 50, 50, 60, 85, 95, 80, 70, 70, 78, 95, 88, 72, 72, 78, 85, 90, 95, 100, 100, 98, 90],
  'mail inbox': [30, 25, 25, 25, 30, 50, 80, 95, 100, 100, 95, 90, 85, 90, 92, 88, 80, 72, 62, 55, 50, 46, 42, 36],
  newsletter: [20, 18, 18, 20, 30, 60, 95, 100, 100, 80, 65, 60, 62, 55, 50, 48, 46, 46, 44, 42, 38, 34, 30, 24],
  show: [20, 16, 14, 16, 22, 40, 80, 100, 95, 42, 30, 28, 34, 30, 28, 34, 60, 100, 95, 40, 22, 18, 18, 20],
  channel: [45, 25, 15, 10, 8, 8, 12, 16, 16, 18, 20, 22, 28, 28, 26, 28, 34, 46, 66, 88, 100, 100, 92, 70]
}
/** Podcasts are heard on the way in more than on the way home. */
const PODCAST_HOURS = [14, 12, 12, 14, 22, 45, 90, 100, 95, 45, 30, 26, 30, 26, 24, 28, 34, 46, 40, 26, 20, 18, 16, 16]
/** Which devices are in hand, by device type and local hour: screens at home in the evening, desktops in working hours. */
const EVENING = [70, 45, 25, 12, 10, 15, 30, 40, 35, 30, 30, 34, 42, 42, 38, 40, 50, 70, 100, 150, 200, 205, 180, 120]
const EVENING_AT_WEEKENDS = [80, 52, 30, 14, 10, 12, 22, 34, 46, 54, 56, 58, 62, 64, 64, 68, 78, 100, 124, 181, 240, 248, 217, 144]
const DESK = [40, 30, 20, 20, 20, 30, 50, 92, 175, 240, 250, 240, 200, 215, 240, 240, 222, 155, 84, 66, 62, 60, 52, 45]
const DESK_AT_WEEKENDS = [40, 30, 20, 20, 20, 28, 36, 46, 56, 62, 64, 64, 60, 62, 64, 64, 64, 64, 62, 60, 60, 58, 52, 45]
const HAND = [100, 95, 90, 90, 90, 95, 100, 98, 88, 80, 78, 80, 84, 82, 78, 78, 82, 90, 96, 100, 106, 124, 136, 120]
/** By weekend or not, then by device type. */
export const DEVICE_HOURS: readonly (readonly (readonly number[])[])[] = [false, true].map((weekend) =>
  DEVICE_TYPES.map((type) =>
    type === 'phone' || type === 'tablet'
      ? HAND
      : type === 'desktop'
        ? weekend
          ? DESK_AT_WEEKENDS
          : DESK
        : weekend
          ? EVENING_AT_WEEKENDS
          : EVENING
  )
)

/** Branches that more women, or more men, care for. */
const LEANING: Readonly<Record<string, readonly [women: number, men: number]>> = {
  family: [1.7, 0.7],
  style: [1.8, 0.6],
  health: [1.4, 0.8],
  pets: [1.25, 0.9],
  arts: [1.3, 0.85],
  food: [1.25, 0.9],
  sport: [0.6, 1.6],
  motoring: [0.5, 1.7],
  technology: [0.7, 1.4],
  games: [0.85, 1.2],
  money: [0.85, 1.2],
  cycling: [0.8, 1.25]
}
const TASTE_AGE = [0.6, 0.6, 2.6, 2.6, 5.4, 5.4, 2.4, 3.4]

/** How much an audience takes to a property, 1 in the mean. */
function tasteFactor(property: Property, taste: number): number {
  const branch = BRANCHES.findIndex((other) => other.index === CATEGORIES[property.category].branch)
  const name = BRANCHES[branch].name
  const low = Math.floor(TASTE_AGE[taste])
  const part = TASTE_AGE[taste] - low
  const age = ageInterest(branch, low) * (1 - part) + ageInterest(branch, low + 1) * part
  const [women, men] = LEANING[name] ?? [1, 1]
  const gender = taste >= 6 ? 1 : taste % 2 === 0 ? women : men
  const commuter = TASTES[taste] === 'commuters' ? (property.show === 'podcast' ? 2.6 : name === 'news' ? 1.5 : 1) : 1
  const business = TASTES[taste] === 'business' ? (name === 'business' || name === 'money' ? 2.4 : property.class === 'game' ? 0.5 : 1) : 1
  const young =
    property.show === 'podcast' || property.class === 'game' || property.class === 'social feed'
      ? [2.3, 2.4, 1.1, 1.1, 0.3, 0.35, 1.2, 0.8][taste]
      : 1
  const old = property.class === 'channel' || property.class === 'newsletter' ? [0.5, 0.5, 0.9, 0.9, 1.6, 1.6, 0.8, 1][taste] : 1
  return Math.sqrt(age) * gender * commuter * business * young * old
}

/** How likely people at an hour take what is offered, of 255, by kind of property x taste x local hour. */
export interface Suits {
  /** Kind of each placement. */
  kinds: Uint8Array
  table: Uint8Array
}
const suitsOfWorld = new WeakMap<object, Suits>()

export function suitsOf({ inventory }: World): Suits {
  const known = suitsOfWorld.get(inventory)
  if (known) return known
  const names = new Map<string, Property>()
  const nameOf = (property: Property) => `${property.class} ${CATEGORIES[property.category].branch} ${property.show ?? ''}`
  for (const property of inventory.properties) if (!names.has(nameOf(property))) names.set(nameOf(property), property)
  const order = [...names.keys()]
  const table = new Uint8Array(order.length * TASTES.length * HOURS_PER_DAY)
  order.forEach((name, kind) => {
    const property = names.get(name) as Property
    for (let taste = 0; taste < TASTES.length; taste++) {
      for (let hour = 0; hour < HOURS_PER_DAY; hour++) {
        table[(kind * TASTES.length + taste) * HOURS_PER_DAY + hour] = Math.min(
          255,
          Math.round(
            255 *
              ((property.show === 'podcast' ? PODCAST_HOURS : CLASS_HOURS[property.class])[hour] / 100) *
              Math.min(1, tasteFactor(property, taste) * 0.55)
          )
        )
      }
    }
  })
  const made = {
    kinds: Uint8Array.from(inventory.placements, (placement) => order.indexOf(nameOf(inventory.properties[placement.property]))),
    table
  }
  suitsOfWorld.set(inventory, made)
  return made
}

/** Cells of 16 by local hour x weekend x device type: what people are probably doing. */
export const MOMENT_CELLS = 16
export const MOMENT_GUIDE = (() => {
  const table = new Uint8Array(HOURS_PER_DAY * 2 * DEVICE_COUNT * MOMENT_CELLS)
  const between = (hour: number, from: number, to: number) => (hour >= from && hour < to ? 1 : 0)
  for (let hour = 0; hour < HOURS_PER_DAY; hour++) {
    for (const weekend of [0, 1]) {
      DEVICE_TYPES.forEach((type, device) => {
        const phone = type === 'phone' ? 1 : 0
        const big = type === 'TV' || type === 'console' || type === 'set-top box' ? 1 : 0
        const desk = type === 'desktop' ? 1 : 0
        const weights = [
          between(hour, 5 + weekend * 2, 8 + weekend * 2) * (4 + phone * 3),
          (1 - weekend) * (between(hour, 7, 10) + between(hour, 16, 19)) * phone * 7,
          (1 - weekend) * between(hour, 8, 18) * (desk * 9 + 1),
          between(hour, 12, 14) * (4 + phone * 2),
          weekend * between(hour, 9, 18) * phone * 6 + between(hour, 17, 19) * phone * 2,
          (between(hour, 6, 8) + between(hour, 17, 20)) * phone * 1.5,
          between(hour, 17, 20) * (2 + (type === 'tablet' ? 5 : 0)),
          between(hour, 17, 21) * 2 + weekend * between(hour, 10, 17) * 3,
          between(hour, 14, 22) * (desk + 0.6),
          between(hour, 19, 24) * (3 + big * 9),
          phone * 0.5 + weekend * phone * 0.7,
          (between(hour, 22, 24) + between(hour, 0, 2)) * (5 + phone * 3),
          5
        ]
        guideTable(weights, MOMENT_CELLS, table, ((hour * 2 + weekend) * DEVICE_COUNT + device) * MOMENT_CELLS)
      })
    }
  }
  return table
})()
if (MOMENTS.length !== 12) throw new Error('The guide of moments is made for twelve.')

/** Cells of 64 by device type x local hour: how people are connected. */
export const CONNECTION_GUIDE = (() => {
  const table = new Uint8Array(DEVICE_COUNT * HOURS_PER_DAY * GUIDE)
  DEVICE_TYPES.forEach((type, device) => {
    for (let hour = 0; hour < HOURS_PER_DAY; hour++) {
      const away =
        (hour >= 7 && hour < 9) || (hour >= 17 && hour < 19) ? 58 : hour >= 9 && hour < 17 ? 40 : hour >= 23 || hour < 6 ? 16 : 26
      const cellular = type === 'phone' ? away : type === 'tablet' ? away / 4 : 0
      const wired = type === 'desktop' ? 55 : type === 'set-top box' ? 70 : type === 'console' ? 40 : type === 'TV' ? 25 : 0
      const weights = CONNECTIONS.map((connection) =>
        connection === 'cellular' ? cellular : connection === 'wired' ? wired : 100 - cellular - wired
      )
      guideTable(weights, GUIDE, table, (device * HOURS_PER_DAY + hour) * GUIDE)
    }
  })
  return table
})()

/** Cells of 16: browser slot of each device type; what is not a phone, tablet or desktop has only its own. */
export const BROWSER_GUIDE = (() => {
  const table = new Uint8Array(DEVICE_COUNT * 16)
  const shares: Readonly<Record<number, readonly number[]>> = { 0: [9, 5, 2, 0], 1: [8, 6, 2, 0], 2: [8, 4, 4, 0] }
  DEVICE_TYPES.forEach((_, device) => guideTable(shares[device] ?? [0, 0, 0, 1], 16, table, device * 16))
  return table
})()
export const IN_APP = BROWSER_SLOTS - 1
