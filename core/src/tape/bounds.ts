import { COUNTRIES, POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import { CATEGORIES, DEVICE_TYPES, FORMATS, SHAPE_FORMAT, SYSTEMS, type Format } from '../taxonomy/index.js'
import {
  PERSON_WORDS,
  SOURCES,
  deviceModel,
  isBot,
  postalOf,
  priceKind,
  type Placement,
  type Property,
  type World
} from '../market/index.js'
import { MINUTES_PER_DAY, ZONES, offsetMinutes, weekdayOf } from '../time/index.js'
import type { Tape } from './layout.js'

/** Something that must hold of a market that a practitioner believes: a figure, and between what it must lie. */
export interface WorldBound {
  what: string
  value: number
  low: number
  high: number
  holds: boolean
}

export const bound = (what: string, value: number, low: number, high: number): WorldBound => ({
  what,
  value,
  low,
  high,
  holds: value >= low && value <= high
})

/** An opportunity of the tape, as far as bounds look at it. */
export interface Seen {
  format: Format
  kind: string
  placement: Placement
  property: Property
  source: number
  country: number
  tier: 1 | 2 | 3
  /** Index into `DEVICE_TYPES`. */
  device: number
  /** Whether it is of the second system of phones and tablets. */
  isSecondSystem: boolean
  isBot: boolean
  branch: string
  category: string
  isHome: boolean
  /** Micros an impression: its floor, its best and second rival, and what wins it. */
  floor: number
  rival: number
  second: number
  price: number
  /** Local hour of the viewer, and whether the local day is one of a weekend. */
  hour: number
  isWeekend: boolean
}

/** What belongs together among the bounds: looks at every opportunity, then says its figures. */
export interface Topic {
  look: (seen: Seen) => void
  bounds: () => WorldBound[]
}

export const [PHONE, , DESKTOP] = DEVICE_TYPES.map((_, type) => type)
const SECOND_SYSTEM = SYSTEMS.indexOf('Pomelo')

/** Has topics look at a tape, and gathers what they say. */
export function boundsOf({ inventory }: World, tape: Tape, topics: readonly Topic[]): WorldBound[] {
  const { placements, properties, pages, floors } = inventory
  const { rows, words } = tape
  const offsets = ZONES.map((_, zone) => offsetMinutes(zone, tape.firstDay * 24 + 12))
  for (let i = 0; i < tape.rowCount; i++) {
    const path = rows.path[i]
    const placement = placements[Math.floor(path / SOURCES.length)]
    const property = properties[placement.property]
    const postal = postalOf(words[rows.person[i] * PERSON_WORDS])
    const country = POSTAL_COUNTRY[postal]
    const category = CATEGORIES[pages.category[rows.page[i]]]
    const local = tape.firstDay * MINUTES_PER_DAY + rows.minute[i] + offsets[POSTAL_ZONE[postal]]
    const model = deviceModel(rows.device[i])
    const seen: Seen = {
      format: FORMATS[SHAPE_FORMAT[placement.shape]],
      kind: priceKind(placement, property),
      placement,
      property,
      source: path % SOURCES.length,
      country,
      tier: COUNTRIES[country].tier,
      device: model.type,
      isSecondSystem: model.system === SECOND_SYSTEM,
      isBot: isBot(rows.state[i]),
      category: category.name,
      branch: CATEGORIES[category.branch].name,
      isHome: property.home === country,
      floor: floors[path],
      rival: rows.rival[i],
      second: rows.second[i],
      price: Math.max(floors[path], rows.rival[i] + 1),
      hour: Math.floor((((local % MINUTES_PER_DAY) + MINUTES_PER_DAY) % MINUTES_PER_DAY) / 60),
      isWeekend: weekdayOf(Math.floor(local / MINUTES_PER_DAY)) >= 5
    }
    for (const topic of topics) topic.look(seen)
  }
  return topics.flatMap((topic) => topic.bounds())
}

/** Values by a name. */
export class Groups {
  private readonly lists = new Map<string, number[]>()

  add(name: string, value = 1): void {
    const list = this.lists.get(name)
    if (list) list.push(value)
    else this.lists.set(name, [value])
  }

  count(name: string): number {
    return this.lists.get(name)?.length ?? 0
  }

  mean(name: string): number {
    const list = this.lists.get(name) ?? []
    return list.reduce((sum, value) => sum + value, 0) / list.length
  }

  median(name: string): number {
    return medianOf(this.lists.get(name) ?? [])
  }
}

export function medianOf(values: readonly number[]): number {
  const sorted = Float64Array.from(values).sort()
  return sorted.length === 0 ? NaN : sorted[sorted.length >> 1]
}

/** Mean of logarithms, weighted: how many times one thing is another where both were seen. */
export class MeanRatio {
  private log = 0
  private weight = 0

  add(ratio: number, weight: number): void {
    this.log += weight * Math.log(ratio)
    this.weight += weight
  }

  get value(): number {
    return this.weight > 0 ? Math.exp(this.log / this.weight) : NaN
  }
}

/** Spearman's rank correlation, ties by their order. */
export function rankCorrelation(a: readonly number[], b: readonly number[]): number {
  const ranks = (values: readonly number[]) => {
    const order = values.map((_, n) => n).sort((x, y) => values[x] - values[y])
    const out = new Float64Array(values.length)
    order.forEach((n, rank) => (out[n] = rank))
    return out
  }
  const [x, y] = [ranks(a), ranks(b)]
  const mean = (a.length - 1) / 2
  let [xy, xx, yy] = [0, 0, 0]
  for (let n = 0; n < a.length; n++) {
    xy += (x[n] - mean) * (y[n] - mean)
    xx += (x[n] - mean) ** 2
    yy += (y[n] - mean) ** 2
  }
  return xy / Math.sqrt(xx * yy)
}
