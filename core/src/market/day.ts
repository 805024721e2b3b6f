import { COUNTRIES, POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import { FORMATS, SHAPE_FORMAT, ARRIVES } from '../taxonomy/index.js'
import { HOURS_PER_DAY, ZONES, offsetMinutes, weekdayOf } from '../time/index.js'
import {
  LOG_NORMAL_SHIFT,
  STREAM,
  draw,
  drawBits,
  fillAlias,
  fold,
  guideTable,
  hash,
  logNormalTable,
  normalOf,
  poissonThresholds,
  step
} from '../random/index.js'
import { categoryPrices } from './category-prices.js'
import { BROWSER_SLOTS, MODEL_GUIDE, MODEL_PRICE, RICHNESS, modelCells } from './devices.js'
import {
  BROWSER_GUIDE,
  CONNECTION_GUIDE,
  DEVICE_HOURS,
  GUIDE,
  HOLIDAYS,
  HOUR_PRICE,
  IN_APP,
  MOMENT_CELLS,
  MOMENT_GUIDE,
  RIVAL_SIGMA,
  WEEKDAY,
  WEEKEND_HOURS,
  WORKDAY_HOURS,
  suitsOf,
  type Suits
} from './habits.js'
import { DEVICE_COUNT } from './devices-shown.js'
import { RIVAL_COUNTS, RIVAL_LEVELS, RIVAL_LIFT, rivalLevels } from './rivals.js'
import { PRICE_KINDS, affinity } from './price-kinds.js'
import { CELLULAR, NO_POP, opportunitiesOver, opportunityBytes, stateOf, type Opportunities } from './opportunities.js'
import { PAGES_EACH } from './pages.js'
import {
  DEVICE_MIXES,
  PERSON_WORDS,
  RATE_CLASSES,
  TASTES,
  mixOf,
  postalOf,
  rateClassOf,
  rateOf,
  tasteOf,
  valueClassOf,
  valueOf
} from './people.js'
import { SOURCES } from './sources.js'
import type { World } from './world.js'

/** Most opportunities of one person on one day. */
export const MOST_A_DAY = 63
const HOUR_CELLS = 1024
/** Share of visits that go where a person always goes, of 256. */
const HABIT = 141
const HABIT_SLOTS = 6
/** How often an opportunity that does not suit person and hour is drawn anew. */
const TRIES = 4
/** Least and largest share of bots of any path, in 1/65,536. */
const LEAST_BOTS = Math.round(0.01 * 65536)
const MOST_BOTS = Math.round(0.25 * 65536)

/** Everything about one UTC day that does not depend on the person: made once, read for every opportunity. */
export interface DayTables {
  day: number
  world: World
  counts: readonly Uint32Array[]
  /** Hour of the UTC day by zone x cell. */
  hours: Uint8Array
  /** Device type by mix x weekend x local hour x cell. */
  devices: Uint8Array
  /** Placements sold in each country x device cell, and their number: one width for all cells. */
  /**
   * By cell and step of its alias table, side by side: half the threshold; the placement of the step and, 16 bits above
   * it, the one behind it.
   */
  cellSteps: Int32Array
  cellSize: Uint16Array
  width: number
  sources: Uint8Array
  /** Rivals by level x cell, and the level of each placement. */
  rivalCounts: Uint8Array
  rivalLevel: Uint8Array
  prices: Float64Array
  /** Price factor by country x price kind, the kind of each placement, and the factor of each page on this day. */
  countryPrice: Float64Array
  kind: Uint8Array
  pagePrice: Float64Array
  valuePrice: Float64Array
  hourPrice: Float64Array
  /** Minutes from UTC by zone on this day, at noon UTC. */
  offsets: Int16Array
  /** 1 where noon UTC falls on a local Saturday or Sunday, by zone. */
  weekend: Uint8Array
  base: number
  habitBase: number
  /** Share of bots in 1/65,536 by path; of blocked pops by placement. */
  bots: Uint32Array
  blocked: Uint32Array
  isPop: Uint8Array
  /** Property of each placement, and 1 where it is used in an app. */
  property: Uint16Array
  inApp: Uint8Array
  suits: Suits
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

function fillCells(world: World, day: number, tables: DayTables): void {
  const { placements, properties, evened } = world.inventory
  const factor = placements.map((placement) => {
    const publisher = properties[placement.property].publisher
    return (
      placement.weight *
      dayFactor(0.03, hash(world.seed, STREAM.dayPublisher, day, publisher)) *
      dayFactor(0.05, hash(world.seed, STREAM.dayPlacement, day, placement.index))
    )
  })
  const threshold = new Uint32Array(tables.width)
  const alias = new Uint16Array(tables.width)
  for (let country = 0; country < COUNTRIES.length; country++) {
    for (let device = 0; device < DEVICE_COUNT; device++) {
      const cell = country * DEVICE_COUNT + device
      const sold = placements.filter((placement) => (placement.devices >> device) & 1)
      const start = cell * tables.width
      tables.cellSize[cell] = sold.length
      const weights = sold.map(
        (placement) =>
          factor[placement.index] *
          affinity(properties[placement.property], country) *
          evened.weights[cell * FORMATS.length + SHAPE_FORMAT[placement.shape]]
      )
      fillAlias(weights, threshold, alias, 0)
      sold.forEach((placement, n) => {
        tables.cellSteps[(start + n) * 2] = threshold[n] >>> 1
        tables.cellSteps[(start + n) * 2 + 1] = placement.index | (sold[alias[n]].index << 16)
      })
    }
  }
}

function fillHours(day: number, tables: DayTables): void {
  ZONES.forEach((_, zone) => {
    const offset = offsetMinutes(zone, day * HOURS_PER_DAY + 12)
    tables.offsets[zone] = offset
    tables.weekend[zone] = weekdayOf(day + Math.floor((12 + Math.round(offset / 60)) / HOURS_PER_DAY)) >= 5 ? 1 : 0
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
  const { placements, properties, pages, sourceWeights } = world.inventory
  const ofCategory = categoryPrices(weekdayOf(day) >= 5)
  const factor = marketFactor(world.seed, day) * WEEKDAY[weekdayOf(day)]
  const width = placements.length
  const cells = COUNTRIES.length * DEVICE_COUNT
  const tables: DayTables = {
    day,
    world,
    width,
    counts: Array.from({ length: RATE_CLASSES }, (_, rate) => poissonThresholds(rateOf(rate) * factor, MOST_A_DAY)),
    hours: new Uint8Array(ZONES.length * HOUR_CELLS),
    devices: new Uint8Array(DEVICE_MIXES.length * 2 * HOURS_PER_DAY * GUIDE),
    cellSteps: new Int32Array(cells * width * 2),
    cellSize: new Uint16Array(cells),
    sources: new Uint8Array(width * GUIDE),
    rivalCounts: new Uint8Array(RIVAL_LEVELS * GUIDE),
    rivalLevel: rivalLevels(placements),
    prices: Float64Array.from(placements, (placement) => placement.price),
    countryPrice: world.inventory.evened.prices,
    kind: world.inventory.evened.kinds,
    pagePrice: Float64Array.from(pages.category, (category) => ofCategory[category]),
    valuePrice: Float64Array.from({ length: 64 }, (_, value) => valueOf(value)),
    hourPrice: new Float64Array(ZONES.length * HOURS_PER_DAY),
    offsets: new Int16Array(ZONES.length),
    weekend: new Uint8Array(ZONES.length),
    base: fold(world.seed, STREAM.opportunity, day),
    habitBase: fold(world.seed, STREAM.habit),
    bots: Uint32Array.from(sourceWeights, (_, pathIndex) =>
      Math.min(
        MOST_BOTS,
        Math.max(
          LEAST_BOTS,
          (placements[Math.floor(pathIndex / SOURCES.length)].bots * SOURCES[pathIndex % SOURCES.length].botPerMille) / 1000
        )
      )
    ),
    blocked: Uint32Array.from(placements, (placement) => placement.blocked),
    isPop: Uint8Array.from(placements, (placement) => (ARRIVES[SHAPE_FORMAT[placement.shape]] ? 1 : 0)),
    property: Uint16Array.from(placements, (placement) => placement.property),
    inApp: Uint8Array.from(placements, (placement) =>
      ['app', 'game', 'social feed', 'show', 'channel'].includes(properties[placement.property].class) ? 1 : 0
    ),
    suits: suitsOf(world)
  }
  DEVICE_MIXES.forEach((mix, n) => {
    for (let hour = 0; hour < HOURS_PER_DAY; hour++)
      for (const weekend of [0, 1])
        guideTable(
          mix.map((share, type) => share * DEVICE_HOURS[weekend][type][hour]),
          GUIDE,
          tables.devices,
          ((n * 2 + weekend) * HOURS_PER_DAY + hour) * GUIDE
        )
  })
  for (let p = 0; p < width; p++) {
    guideTable(sourceWeights.subarray(p * SOURCES.length, (p + 1) * SOURCES.length), GUIDE, tables.sources, p * GUIDE)
  }
  RIVAL_COUNTS.forEach((counts, level) => guideTable(counts, GUIDE, tables.rivalCounts, level * GUIDE))
  fillHours(day, tables)
  fillCells(world, day, tables)
  return tables
}

/**
 * How many opportunities a person has on the day, and at which minutes (by k, not in order of time).
 * @param word0 of the person
 * @param minutes receives the minutes; at least MOST_A_DAY long
 */
export function drawMinutes(tables: DayTables, person: number, word0: number, minutes: Uint16Array): number {
  const state = step(tables.base, person)
  const thresholds = tables.counts[rateClassOf(word0)]
  const uniform = draw(state, STREAM.count)
  let n = 0
  while (n < MOST_A_DAY && uniform >= thresholds[n]) n++
  const hours = POSTAL_ZONE[postalOf(word0)] * HOUR_CELLS
  for (let k = 0; k < n; k++) {
    const u = drawBits(step(state, k), STREAM.minute)
    minutes[k] = tables.hours[hours + (u >>> 22)] * 60 + (((u & 0xffff) * 60) >>> 16)
  }
  return n
}

/**
 * Draws everything else of opportunity k of a person into row `i`; its person column is the caller's.
 * @param word the person's first
 * @param lastPop minute of the person's last pop opportunity of the day, -1 for none
 * @returns 1 when this one is a pop opportunity
 */
export function fillRow(
  tables: DayTables,
  person: number,
  word: number,
  k: number,
  minute: number,
  lastPop: number,
  rows: Opportunities,
  i: number
): number {
  const { words } = tables.world.persons
  const key = step(step(tables.base, person), k)
  const word0 = words[word]
  const postal = postalOf(word0)
  const zone = POSTAL_ZONE[postal]
  const country = POSTAL_COUNTRY[postal]
  const own = words[word + 3]
  const hour = (minute / 60) | 0
  const localHour = (((minute + tables.offsets[zone] + 1440) / 60) | 0) % HOURS_PER_DAY
  // One draw gives the small choices six bits each, and the coin of habit its last eight.
  const choices = drawBits(key, STREAM.choices)
  const weekend = tables.weekend[zone]
  const type = tables.devices[((mixOf(word0) * 2 + weekend) * HOURS_PER_DAY + localHour) * GUIDE + (choices >>> 26)]
  const cell = country * DEVICE_COUNT + type
  const cellAt = cell * tables.width
  const size = tables.cellSize[cell]
  const suit = tasteOf(words[word + 2]) * HOURS_PER_DAY + localHour

  // A habit draws from the person alone, so that the same people come back to the same placements.
  const state = (choices & 0xff) < HABIT ? step(step(tables.habitBase, person), (((choices >>> 8) & 0x3f) * HABIT_SLOTS) >>> 6) : key
  let placement = 0
  for (let tries = 0; tries < TRIES; tries++) {
    const pick = drawBits(state, STREAM.cell + tries * 0x100)
    const coin = drawBits(state, STREAM.alias + tries * 0x100)
    const chosen = (cellAt + Math.floor(((pick >>> 8) * size) / 0x1000000)) * 2
    const both = tables.cellSteps[chosen + 1]
    placement = coin >>> 1 < tables.cellSteps[chosen] ? both & 0xffff : both >>> 16
    if ((pick & 0xff) < tables.suits.table[tables.suits.kinds[placement] * (TASTES.length * HOURS_PER_DAY) + suit]) break
  }
  const source = tables.sources[placement * GUIDE + ((choices >>> 20) & 0x3f)]
  const path = placement * SOURCES.length + source

  const around = drawBits(key, STREAM.moment)
  const moment = MOMENT_GUIDE[((localHour * 2 + weekend) * DEVICE_COUNT + type) * MOMENT_CELLS + (around >>> 28)]
  const connection = CONNECTION_GUIDE[(type * HOURS_PER_DAY + localHour) * GUIDE + ((around >>> 22) & 0x3f)]
  // The square of a uniform draw: the most read pages are read most.
  const depth = (around >>> 10) & 0xfff
  const page = tables.property[placement] * PAGES_EACH + ((((depth * depth) >>> 12) * PAGES_EACH) >>> 12)
  const income = (words[word + 1] >> 5) & 7
  const model = MODEL_GUIDE[modelCells(type, RICHNESS[country], income) + ((own >>> (type * 5)) & 0x3f)]

  const rivals = tables.rivalCounts[tables.rivalLevel[placement] * GUIDE + ((choices >>> 14) & 0x3f)] + 1
  const price = drawBits(key, STREAM.rivals)
  const median =
    tables.prices[placement] *
    tables.countryPrice[country * PRICE_KINDS.length + tables.kind[placement]] *
    tables.pagePrice[page] *
    tables.valuePrice[valueClassOf(word0)] *
    tables.hourPrice[zone * HOURS_PER_DAY + hour] *
    MODEL_PRICE[model] *
    RIVAL_LIFT[rivals]
  const rival = Math.floor(median * RIVAL_PRICE[price >>> LOG_NORMAL_SHIFT])

  const browser = type > 2 || tables.inApp[placement] === 1 ? IN_APP : BROWSER_GUIDE[type * 16 + ((own >>> (13 + type)) & 15)]
  const visitor = drawBits(key, STREAM.visitor)
  const pop = tables.isPop[placement]

  rows.key[i] = key
  rows.minute[i] = minute
  rows.path[i] = path
  rows.device[i] = model * BROWSER_SLOTS + browser
  rows.page[i] = page
  rows.state[i] = stateOf(
    moment,
    connection,
    visitor >>> 16 < tables.bots[path] ? 1 : 0,
    connection !== CELLULAR && (own & 0x3f) === 5 ? 1 : 0,
    pop === 1 && (visitor & 0xffff) < tables.blocked[placement] ? 1 : 0
  )
  rows.sincePop[i] = lastPop < 0 ? NO_POP : minute - lastPop
  rows.rival[i] = rival
  // The second rival lies between 55 % and 100 % of the best; there is none under two rivals.
  rows.second[i] = rivals < 2 ? 0 : rival - Math.floor((rival * (price & 0xffff) * 0.45) / 65536)
  return pop
}

/** A day's opportunities in market order; `hourStart[h]` is the first row of hour h (25 entries). */
export interface MarketDay {
  rows: Opportunities
  hourStart: Uint32Array
}

/**
 * One UTC day of the whole market in market order: by (minute, person, k).
 * @param memory where its rows are to lie: at least so many bytes
 */
export function makeDay(
  world: World,
  day: number,
  memory: (bytes: number) => ArrayBufferLike = (bytes) => new ArrayBuffer(bytes)
): MarketDay {
  const tables = dayTables(world, day)
  const { count, words } = world.persons
  const minutes = new Uint16Array(MOST_A_DAY)
  const perMinute = new Uint32Array(1441)
  let room = Math.ceil(count * 2.6) + 1024
  let who = new Uint32Array(room)
  let slot = new Uint32Array(room)
  let total = 0
  for (let person = 0; person < count; person++) {
    const n = drawMinutes(tables, person, words[person * PERSON_WORDS], minutes)
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

  // Each goes straight to its place: what is read where it lies need not be waited for.
  const rows = opportunitiesOver(memory(opportunityBytes(total)), total)
  const times = new Uint8Array(total)
  for (let i = 0; i < total; i++) {
    const minute = slot[i] >>> 6
    const row = perMinute[minute]++
    rows.person[row] = who[i]
    rows.minute[row] = minute
    times[row] = slot[i] & 63
  }
  const lastPop = new Int16Array(count).fill(-1)
  for (let from = 0; from < total; from += BLOCK_ROWS) {
    const to = Math.min(total, from + BLOCK_ROWS)
    sendFor(words, lastPop, rows.person, from, to)
    for (let row = from; row < to; row++) {
      const person = rows.person[row]
      const minute = rows.minute[row]
      if (fillRow(tables, person, person * PERSON_WORDS, times[row], minute, lastPop[person], rows, row) === 1) lastPop[person] = minute
    }
  }
  return { rows, hourStart }
}

/** Rows whose people are sent for at once; they fit the nearer memory. */
export const BLOCK_ROWS = 1024
/** What was sent for last. */
let touched = 0

/**
 * Reads something of each of some people, who lie far apart: one need not have come before the next is sent for, as it must where
 * each is worked on.
 */
function sendFor(words: Int32Array, lastPop: Int16Array, persons: Uint32Array, from: number, to: number): number {
  let all = touched
  for (let row = from; row < to; row++) all ^= words[persons[row] * PERSON_WORDS] ^ lastPop[persons[row]]
  return (touched = all)
}

function grown(from: Uint32Array<ArrayBuffer>, room: number): Uint32Array<ArrayBuffer> {
  const to = new Uint32Array(room)
  to.set(from)
  return to
}
