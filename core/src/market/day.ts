import { COUNTRIES, REGIONS } from '../places/index.js'
import { HOURS_PER_DAY, ZONES, offsetMinutes, weekdayOf } from '../time/index.js'
import {
  LOG_NORMAL_SHIFT, STREAM, draw, drawBits, fillAlias, fold, guideTable, hash, logNormalTable, normalOf, poissonThresholds, step
} from '../random/index.js'
import { DEVICE_COUNT, type Property } from './inventory.js'
import { opportunitiesOver, opportunityBytes, type Opportunities } from './opportunities.js'
import { DEVICE_MIXES, RATE_CLASSES, rateOf, valueOf } from './people.js'
import { SOURCES } from './sources.js'
import type { World } from './world.js'

/** Most opportunities of one person on one day. */
export const MOST_A_DAY = 63
const HOUR_CELLS = 1024
const GUIDE = 64
/** Share of visits that go where a person always goes, of 256. */
const HABIT = 141
const HABIT_SLOTS = 6

const WEEKDAY = [1, 0.99, 1, 1.01, 1.02, 1.05, 1.09]
const HOLIDAYS = new Set(['01-01', '12-25', '12-26'])
/** Traffic by local hour on working days and at weekends. */
const WORKDAY_HOURS = [22, 13, 8, 6, 7, 14, 32, 55, 68, 66, 64, 66, 74, 72, 64, 62, 66, 74, 86, 98, 106, 108, 92, 54]
const WEEKEND_HOURS = [34, 22, 13, 8, 7, 9, 16, 30, 50, 70, 82, 86, 86, 84, 82, 80, 82, 86, 92, 98, 102, 100, 84, 58]
/** Rivals' prices by local hour: dearer when people buy. */
const HOUR_PRICE = [0.82, 0.78, 0.75, 0.75, 0.76, 0.8, 0.86, 0.92, 0.97, 1, 1, 1, 1.02, 1.02, 1, 0.99, 1, 1.03, 1.08, 1.14, 1.18, 1.16, 1.06, 0.92]
const RIVAL_SIGMA = 0.62
/** How often 0, 1, ... 8 rivals bid. */
const RIVAL_COUNTS = [5, 9, 14, 17, 17, 14, 11, 8, 5]

/** Everything about one UTC day that does not depend on the person: made once, read for every opportunity. */
export interface DayTables {
  day: number
  world: World
  counts: readonly Uint32Array[]
  /** Hour of the UTC day by zone x cell. */
  hours: Uint8Array
  devices: Uint8Array
  cellThreshold: Uint32Array
  cellAlias: Uint16Array
  /** Placements sold in each country x device cell, and their number: one width for all cells. */
  cellPlacements: Uint16Array
  cellSize: Uint16Array
  width: number
  sources: Uint8Array
  rivalCounts: Uint8Array
  prices: Float64Array
  countryPrice: Float64Array
  valuePrice: Float64Array
  hourPrice: Float64Array
  /** Minutes from UTC by zone on this day, at noon UTC. */
  offsets: Int16Array
  base: number
  habitBase: number
  /** Share of bots in 1/65,536 by placement x source. */
  bots: Uint32Array
}

const RIVAL_PRICE = logNormalTable(RIVAL_SIGMA)

/** Factor with mean about 1 and the given standard deviation, drawn for a day. */
function dayFactor(sd: number, uniform: number): number {
  return Math.max(0.5, 1 + sd * normalOf(uniform))
}

function marketFactor(seed: number, day: number): number {
  const date = new Date(Date.UTC(2026, 0, 1 + day)).toISOString().slice(5, 10)
  const drift = 1 + (0.004 * day) / 7
  return drift * (HOLIDAYS.has(date) ? 0.88 : 1) * dayFactor(0.02, hash(seed, STREAM.dayMarket, day))
}

/** How much a country's people see of a property. */
function affinity(property: Property, country: number): number {
  if (property.home === country) return 14
  return COUNTRIES[property.home].tier === COUNTRIES[country].tier ? 0.55 : 0.3
}

function fillCells(world: World, day: number, tables: DayTables): void {
  const { placements, properties } = world.inventory
  const factor = placements.map((placement) => {
    const publisher = properties[placement.property].publisher
    return placement.weight *
      dayFactor(0.03, hash(world.seed, STREAM.dayPublisher, day, publisher)) *
      dayFactor(0.05, hash(world.seed, STREAM.dayPlacement, day, placement.index))
  })
  for (let country = 0; country < COUNTRIES.length; country++) {
    for (let device = 0; device < DEVICE_COUNT; device++) {
      const cell = country * DEVICE_COUNT + device
      const sold = placements.filter((placement) => (placement.devices >> device) & 1)
      const at = cell * tables.width
      tables.cellSize[cell] = sold.length
      sold.forEach((placement, n) => (tables.cellPlacements[at + n] = placement.index))
      const weights = sold.map((placement) => factor[placement.index] * affinity(properties[placement.property], country))
      fillAlias(weights, tables.cellThreshold, tables.cellAlias, at)
    }
  }
}

function fillHours(day: number, tables: DayTables): void {
  ZONES.forEach((_, zone) => {
    const offset = offsetMinutes(zone, day * HOURS_PER_DAY + 12)
    tables.offsets[zone] = offset
    const weights = Array.from({ length: HOURS_PER_DAY }, (_, hour) => {
      const local = hour + Math.round(offset / 60)
      const weekday = weekdayOf(day + Math.floor(local / HOURS_PER_DAY))
      return (weekday < 5 ? WORKDAY_HOURS : WEEKEND_HOURS)[((local % 24) + 24) % 24]
    })
    guideTable(weights, HOUR_CELLS, tables.hours, zone * HOUR_CELLS)
    for (let hour = 0; hour < HOURS_PER_DAY; hour++) {
      tables.hourPrice[zone * HOURS_PER_DAY + hour] = HOUR_PRICE[(((hour + Math.round(offset / 60)) % 24) + 24) % 24]
    }
  })
}

/** Tables of one UTC day of a world. */
export function dayTables(world: World, day: number): DayTables {
  const { placements, sourceWeights } = world.inventory
  const factor = marketFactor(world.seed, day) * WEEKDAY[weekdayOf(day)]
  const width = placements.length
  const cells = COUNTRIES.length * DEVICE_COUNT
  const tables: DayTables = {
    day, world, width,
    counts: Array.from({ length: RATE_CLASSES }, (_, rate) => poissonThresholds(rateOf(rate) * factor, MOST_A_DAY)),
    hours: new Uint8Array(ZONES.length * HOUR_CELLS),
    devices: new Uint8Array(DEVICE_MIXES.length * GUIDE),
    cellThreshold: new Uint32Array(cells * width), cellAlias: new Uint16Array(cells * width),
    cellPlacements: new Uint16Array(cells * width), cellSize: new Uint16Array(cells),
    sources: new Uint8Array(width * GUIDE),
    rivalCounts: new Uint8Array(GUIDE),
    prices: Float64Array.from(placements, (placement) => placement.price),
    countryPrice: Float64Array.from(COUNTRIES, (country) => country.price),
    valuePrice: Float64Array.from({ length: 64 }, (_, value) => valueOf(value)),
    hourPrice: new Float64Array(ZONES.length * HOURS_PER_DAY),
    offsets: new Int16Array(ZONES.length),
    base: fold(world.seed, STREAM.opportunity, day),
    habitBase: fold(world.seed, STREAM.habit),
    bots: Uint32Array.from(sourceWeights, (_, at) => (placements[Math.floor(at / SOURCES.length)].bots * SOURCES[at % SOURCES.length].botPerMille) / 1000)
  }
  DEVICE_MIXES.forEach((mix, n) => guideTable(mix, GUIDE, tables.devices, n * GUIDE))
  for (let p = 0; p < width; p++) {
    guideTable(sourceWeights.subarray(p * SOURCES.length, (p + 1) * SOURCES.length), GUIDE, tables.sources, p * GUIDE)
  }
  guideTable(RIVAL_COUNTS, GUIDE, tables.rivalCounts, 0)
  fillHours(day, tables)
  fillCells(world, day, tables)
  return tables
}

/**
 * How many opportunities a person has on the day, and at which minutes (by k, not in order of time).
 * @param minutes receives the minutes; at least MOST_A_DAY long
 */
export function drawMinutes(tables: DayTables, person: number, minutes: Uint16Array): number {
  const { persons } = tables.world
  const state = step(tables.base, person)
  const thresholds = tables.counts[persons.rate[person]]
  const uniform = draw(state, STREAM.count)
  let n = 0
  while (n < MOST_A_DAY && uniform >= thresholds[n]) n++
  const hours = REGION_ZONE[persons.region[person]] * HOUR_CELLS
  for (let k = 0; k < n; k++) {
    const u = drawBits(step(state, k), STREAM.minute)
    minutes[k] = tables.hours[hours + (u >>> 22)] * 60 + (((u & 0xffff) * 60) >>> 16)
  }
  return n
}

/** Draws everything else of opportunity k of a person into row `i`. */
export function fillRow(tables: DayTables, person: number, k: number, minute: number, rows: Opportunities, i: number): void {
  const { persons, inventory } = tables.world
  const key = step(step(tables.base, person), k)
  const region = persons.region[person]
  const country = REGION_COUNTRY[region]
  // One draw gives the small choices six bits each, and the coin of habit its last eight.
  const choices = drawBits(key, STREAM.choices)
  const device = tables.devices[persons.mix[person] * GUIDE + (choices >>> 26)]
  const cell = country * DEVICE_COUNT + device

  // A habit draws from the person alone, so that the same people come back to the same placements.
  const state = (choices & 0xff) < HABIT ? step(step(tables.habitBase, person), (((choices >>> 8) & 0x3f) * HABIT_SLOTS) >>> 6) : key
  const pick = drawBits(state, STREAM.cell) >>> 8
  const coin = drawBits(state, STREAM.alias) >>> 1
  const at = cell * tables.width
  const chosen = at + Math.floor((pick * tables.cellSize[cell]) / 0x1000000)
  const placement = tables.cellPlacements[coin < tables.cellThreshold[chosen] >>> 1 ? chosen : at + tables.cellAlias[chosen]]
  const source = tables.sources[placement * GUIDE + ((choices >>> 20) & 0x3f)]
  const sold = placement * SOURCES.length + source

  const rivals = tables.rivalCounts[(choices >>> 14) & 0x3f]
  const hour = Math.floor(minute / 60)
  const price = drawBits(key, STREAM.rivals)
  const median = tables.prices[placement] * tables.countryPrice[country] * tables.valuePrice[persons.value[person]] *
    tables.hourPrice[REGION_ZONE[region] * HOURS_PER_DAY + hour] * RIVAL_LIFT[rivals]
  const rival = rivals === 0 ? 0 : Math.floor(median * RIVAL_PRICE[price >>> LOG_NORMAL_SHIFT])

  rows.person[i] = person
  rows.key[i] = key
  rows.minute[i] = minute
  rows.region[i] = region
  rows.placement[i] = placement
  rows.device[i] = device
  rows.source[i] = source
  rows.bot[i] = drawBits(key, STREAM.source) >>> 16 < tables.bots[sold] ? 1 : 0
  rows.floor[i] = inventory.floors[sold]
  rows.rival[i] = rival
  // The second rival lies between 55 % and 100 % of the best; there is none under two rivals.
  rows.second[i] = rivals < 2 ? 0 : rival - Math.floor((rival * (price & 0xffff) * 0.45) / 65536)
}

const REGION_ZONE = Uint8Array.from(REGIONS, (region) => region.zone)
const REGION_COUNTRY = Uint8Array.from(REGIONS, (region) => region.country)
/** More rivals, dearer best bid. */
const RIVAL_LIFT = [0, 0.62, 0.8, 0.92, 1, 1.07, 1.14, 1.2, 1.26]

/**
 * One UTC day of the whole market in market order: by (minute, person, k).
 * @returns columns, and `hourStart[h]` = first row of hour h (25 entries)
 */
export function makeDay(world: World, day: number): { rows: Opportunities; hourStart: Uint32Array } {
  const tables = dayTables(world, day)
  const { persons } = world
  const minutes = new Uint16Array(MOST_A_DAY)
  const perMinute = new Uint32Array(1441)
  let room = Math.ceil(persons.count * 2.6) + 1024
  let who = new Uint32Array(room)
  let slot = new Uint32Array(room)
  let total = 0
  for (let person = 0; person < persons.count; person++) {
    const n = drawMinutes(tables, person, minutes)
    if (total + n > room) {
      room *= 2
      who = grown(who, room)
      slot = grown(slot, room)
    }
    for (let k = 0; k < n; k++) {
      who[total] = person
      slot[total++] = (minutes[k] << 6) | k
      perMinute[minutes[k] + 1]++
    }
  }
  for (let minute = 0; minute < 1440; minute++) perMinute[minute + 1] += perMinute[minute]
  const hourStart = Uint32Array.from({ length: 25 }, (_, hour) => perMinute[hour * 60])

  const order = new Uint32Array(total)
  for (let i = 0; i < total; i++) order[perMinute[slot[i] >>> 6]++] = i
  const rows = opportunitiesOver(new ArrayBuffer(opportunityBytes(total)), total)
  for (let at = 0; at < total; at++) {
    const i = order[at]
    fillRow(tables, who[i], slot[i] & 63, slot[i] >>> 6, rows, at)
  }
  return { rows, hourStart }
}

function grown(from: Uint32Array<ArrayBuffer>, room: number): Uint32Array<ArrayBuffer> {
  const to = new Uint32Array(room)
  to.set(from)
  return to
}
