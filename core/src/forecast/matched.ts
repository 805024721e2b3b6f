import { POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import { SHAPES } from '../taxonomy/index.js'
import { MINUTES_PER_DAY, MINUTES_PER_WEEK, ZONES, offsetMinutes, weekdayOf, zoneIndex } from '../time/index.js'
import {
  BLOCKS,
  CELLULAR,
  DEVICE_TYPE,
  PERSON_WORDS,
  SOURCES,
  blockOf,
  carrierOf,
  demographicOf,
  employerOf,
  jobOf,
  postalOf,
  profileOf,
  providerOf,
  tongueOf,
  type Inventory
} from '../market/index.js'
import { PriceProgramme, dealsByPlacement, rowNeed, type DealChoice, type HourPlan } from '../pricing/index.js'
import { clickAt, visitChance } from '../response/index.js'
import { GROUPS, tapeEnd, type Tape } from '../tape/index.js'
import { LANES, compileTargeting, laneSize, type CompiledTargeting, type Lane } from '../targeting/index.js'
import { KernelRows, kernelOf, type EarlyWeeks } from './kernel-memory.js'
import { BID_ITSELF } from './payment.js'
import { CancelledError, LOOK_EVERY, type ForecastMarket, type ForecastQuestion } from './question.js'

/** Bit of what is not the trader's restriction: a slot that no ad fits, or no way to buy it. */
export const SLOT_BIT = 1 << 31
/** Need of a row that no bid can win. */
export const NEVER = 0xffffffff
export { BID_ITSELF } from './payment.js'

/** The tables of a compiled specification, with zeros for lanes that nothing reads, so that one loop does for all. */
export type FullLanes = Readonly<Record<Lane, Int32Array>>

const zeros = new Map<number, Int32Array>()
function zero(size: number): Int32Array {
  let table = zeros.get(size)
  if (!table) zeros.set(size, (table = new Int32Array(size)))
  return table
}

/** Lanes of a line with the slot bit: path tables say where its ads fit and it may buy. */
export function fullLanes(compiled: CompiledTargeting, inventory: Inventory, shapes: readonly number[], buys: DealChoice): FullLanes {
  const lanes = Object.fromEntries(LANES.map((lane) => [lane, compiled.lanes[lane] ?? zero(laneSize(lane, inventory))])) as Record<
    Lane,
    Int32Array
  >
  const fits = new Uint8Array(SHAPES.length)
  for (const shape of shapes) fits[shape] = 1
  const deals = dealsByPlacement(buys, inventory.placements.length)
  const path = lanes.path.slice()
  const { placements } = inventory
  for (let at = 0, placement = 0; placement < placements.length; placement++) {
    const buyable = fits[placements[placement].shape] === 1 && (buys.open || deals[placement] >= 0)
    for (let source = 0; source < SOURCES.length; source++, at++) if (!buyable) path[at] |= SLOT_BIT
  }
  lanes.path = path
  return lanes
}

/** Bits that fail for everything that one person sees; and those of the two networks. */
export function personFailures(lanes: FullLanes, words: Int32Array, person: number): number {
  const at = person * PERSON_WORDS
  const word1 = words[at + 1]
  return (
    lanes.postal[postalOf(words[at])] |
    lanes.demographic[demographicOf(word1)] |
    lanes.tongue[tongueOf(word1)] |
    lanes.job[jobOf(word1)] |
    lanes.profile[profileOf(word1)] |
    lanes.employer[employerOf(words[at + 2])]
  )
}
export const cellFailures = (lanes: FullLanes, word2: number) => lanes.cell[carrierOf(word2) * BLOCKS + blockOf(word2)]
export const fixedFailures = (lanes: FullLanes, word2: number) => lanes.fixed[providerOf(word2) * BLOCKS + blockOf(word2)]

/**
 * All rows that match a line, with what they would take to win: kept while only bid, caps or money change.
 */
export interface Matched {
  /** Positions on the tape of the people who have any, and the first of each one's rows; one entry more. */
  people: Uint32Array
  starts: Uint32Array
  rows: Uint32Array
  /** Least effective bid that wins the row and that reaches its floor, micros an impression; `NEVER` for none. */
  need: Uint32Array
  /** Least base bid that wins it, the maximum ignored, in base units; `NEVER` where the base bid has no say. */
  base: Uint32Array
  /** What a second price pays; `BID_ITSELF` where the bid is paid. */
  pay: Uint32Array
  /** Minute of the tape; chance of a visit in millionths; format x branch. */
  minute: Uint16Array
  visits: Uint32Array
  group: Uint8Array
  /** Chain of adjustments, multiplier of the hour, and chance of the paid event in millionths; null when all rows are plain. */
  chain: Uint16Array | null
  hour: Uint16Array | null
  chance: Uint32Array | null
  /** Rows by week x group. */
  byGroup: Float64Array
  programme: PriceProgramme
  isEvent: boolean
  deals: Int16Array
  compiled: CompiledTargeting
  /** Rows whose price is their own, so that the base bid has no say. */
  ownPriced: number
}

/** What is wanted with a match: both weeks at a base bid in base units. */
export type EarlyOptions = Pick<EarlyWeeks, 'timelines' | 'full'> & { base: number }

/** A match in a kernel's memory: what is asked of it is copied out, or made, when it is first asked for. */
export class KernelMatched implements Matched {
  readonly chain = null
  readonly hour = null
  readonly chance = null
  readonly isEvent = false
  readonly ownPriced = 0
  private expected: { visits: Uint32Array; group: Uint8Array } | null = null

  constructor(
    readonly kept: KernelRows,
    readonly programme: PriceProgramme,
    readonly deals: Int16Array,
    readonly compiled: CompiledTargeting,
    private readonly tape: Tape,
    private readonly market: ForecastMarket
  ) {}

  get people(): Uint32Array {
    return this.kept.arrays().people
  }

  get starts(): Uint32Array {
    return this.kept.arrays().starts
  }

  get rows(): Uint32Array {
    return this.kept.arrays().rows
  }

  get minute(): Uint16Array {
    return this.kept.arrays().minute
  }

  get need(): Uint32Array {
    return this.kept.need()
  }

  get base(): Uint32Array {
    return this.kept.need()
  }

  get pay(): Uint32Array {
    return this.kept.pay()
  }

  get byGroup(): Float64Array {
    return this.kept.byGroup
  }

  get visits(): Uint32Array {
    return this.expectations().visits
  }

  get group(): Uint8Array {
    return this.expectations().group
  }

  /** The same rows under another price. */
  withProgramme(programme: PriceProgramme): KernelMatched {
    return new KernelMatched(this.kept, programme, this.deals, this.compiled, this.tape, this.market)
  }

  private expectations(): { visits: Uint32Array; group: Uint8Array } {
    if (this.expected) return this.expected
    const {
      tape,
      people,
      starts,
      rows,
      market: { groupByPath, benchmarks }
    } = this
    const made = { visits: new Uint32Array(rows.length), group: new Uint8Array(rows.length) }
    for (let p = 0; p < people.length; p++) {
      const country = POSTAL_COUNTRY[postalOf(tape.words[people[p] * PERSON_WORDS])]
      for (let m = starts[p]; m < starts[p + 1]; m++) {
        const of = groupByPath[tape.rows.path[rows[m]]]
        made.group[m] = of
        made.visits[m] = visitChance(benchmarks, of, DEVICE_TYPE[tape.rows.device[rows[m]]], country)
      }
    }
    return (this.expected = made)
  }
}

/** The same rows under another price. */
export function underPrice(matched: Matched, programme: PriceProgramme): Matched {
  return matched instanceof KernelMatched ? matched.withProgramme(programme) : { ...matched, programme }
}

/** Multiplier of the hour for tape minutes: `[zone][minute of the UTC tape week / 30]`, half hours since some zones have them. */
export function hourTable(hours: HourPlan, zone: string, tape: Tape): readonly Uint16Array[] {
  const noon = tapeEnd(tape) - 12
  const lineOffset = offsetMinutes(zoneIndex(zone), noon)
  const start = weekdayOf(tape.firstDay) * MINUTES_PER_DAY
  return ZONES.map((_, index) => {
    const offset = hours.clock === 'viewer' ? offsetMinutes(index, noon) : lineOffset
    return Uint16Array.from(
      { length: MINUTES_PER_WEEK / 30 },
      (_, half) => hours.perMille[Math.floor(((start + half * 30 + offset + 2 * MINUTES_PER_WEEK) % MINUTES_PER_WEEK) / 60)]
    )
  })
}

/** Room for the longest match, kept between questions of a worker; what is found is copied out at its own length. */
const scratch = {
  rows: new Uint32Array(0),
  chain: new Uint16Array(0),
  hour: new Uint16Array(0),
  chance: new Uint32Array(0),
  people: new Uint32Array(0),
  starts: new Uint32Array(0)
}

function roomFor(tape: Tape): typeof scratch {
  if (scratch.rows.length < tape.rowCount) {
    scratch.rows = new Uint32Array(tape.rowCount)
    scratch.chain = new Uint16Array(tape.rowCount)
    scratch.hour = new Uint16Array(tape.rowCount)
    scratch.chance = new Uint32Array(tape.rowCount)
  }
  if (scratch.people.length < tape.peopleCount) {
    scratch.people = new Uint32Array(tape.peopleCount)
    scratch.starts = new Uint32Array(tape.peopleCount + 1)
  }
  return scratch
}

/**
 * First pass over the tape for one line.
 * @param cancelled read every 4,096 people
 * @param early what to replay on the way, where the compiled loops do the work
 * @throws CancelledError
 */
export function matchTape(
  question: ForecastQuestion,
  tape: Tape,
  market: ForecastMarket,
  cancelled: () => boolean,
  early: EarlyOptions | null = null
): Matched {
  const { inventory, benchmarks } = market
  const compiled = compileTargeting(question.targeting, market)
  const lanes = fullLanes(compiled, inventory, question.shapes, question.buys)
  const programme = new PriceProgramme(question.price, market)
  const adjusting = programme.parts.map((part) =>
    fullLanes(
      part,
      inventory,
      SHAPES.map((_, shape) => shape),
      { open: true, deals: [] }
    )
  )
  const { model } = question.price
  const isEvent = model === 'CPC' || model === 'view'
  const hours = question.hours && question.hours.perMille.some((m) => m !== 1000) ? hourTable(question.hours, question.zone, tape) : null
  if (programme.isPlain && !hours && !isEvent && question.buys.deals.length === 0) {
    const kernel = kernelOf(tape, market)
    if (kernel) {
      if (cancelled()) throw new CancelledError()
      const { dataMicros, gapMinutes, campaignCaps } = question
      const weeks =
        early && Number.isInteger(dataMicros) && !question.price.repeatDiscount
          ? {
              timelines: early.timelines,
              full: early.full,
              bid: programme.bid(early.base, 0, 1000, 0, 1e6, false),
              data: dataMicros,
              gapMinutes,
              caps: [...question.caps, ...campaignCaps]
            }
          : null
      return new KernelMatched(
        kernel.match(lanes, compiled.sincePop, weeks),
        programme,
        dealsByPlacement(question.buys, inventory.placements.length),
        compiled,
        tape,
        market
      )
    }
  }
  const found = roomFor(tape)
  const isPlain = programme.isPlain && !hours && !isEvent
  const byGroup = new Float64Array(2 * GROUPS)
  const { words, rows, peopleCount, starts: firstRow, group } = tape
  const { path, device, page, state, sincePop, minute } = rows
  const { path: pathFails, device: deviceFails, page: pageFails, state: stateFails } = lanes
  const { sincePop: leastSincePop } = compiled
  let total = 0
  let persons = 0
  for (let person = 0; person < peopleCount; person++) {
    if (person % LOOK_EVERY === 0 && cancelled()) throw new CancelledError()
    let i = firstRow[person]
    const end = firstRow[person + 1]
    if (i === end || personFailures(lanes, words, person) !== 0) continue
    const word2 = words[person * PERSON_WORDS + 2]
    const cell = cellFailures(lanes, word2)
    const fixed = fixedFailures(lanes, word2)
    if (cell !== 0 && fixed !== 0) continue
    const postal = postalOf(words[person * PERSON_WORDS])
    const multipliers = hours ? hours[POSTAL_ZONE[postal]] : null
    const before = total
    let older = 0
    for (; i < end; i++) {
      const of = state[i]
      if (
        (pathFails[path[i]] |
          deviceFails[device[i]] |
          pageFails[page[i]] |
          stateFails[of] |
          (((of >> 3) & 3) === CELLULAR ? cell : fixed)) !==
          0 ||
        sincePop[i] < leastSincePop
      )
        continue
      if (!isPlain) {
        const hour = multipliers ? multipliers[Math.floor((minute[i] % MINUTES_PER_WEEK) / 30)] : 1000
        if (hour === 0) continue
        found.hour[total] = hour
        if (adjusting.length > 0) found.chain[total] = chainOf(programme, adjusting[0], tape, person, i)
        if (isEvent) {
          const at = market.groupByPath[path[i]]
          found.chance[total] =
            model === 'view' ? benchmarks.views[at] : benchmarks.clicks[clickAt(at, DEVICE_TYPE[device[i]], POSTAL_COUNTRY[postal])]
        }
      }
      if (minute[i] < MINUTES_PER_WEEK) older++
      found.rows[total++] = i
    }
    if (total > before) {
      byGroup[group[person]] += older
      byGroup[GROUPS + group[person]] += total - before - older
      found.people[persons] = person
      found.starts[persons++] = before
    }
  }
  found.starts[persons] = total
  const deals = dealsByPlacement(question.buys, inventory.placements.length)
  const matched: Matched = {
    people: found.people.slice(0, persons),
    starts: found.starts.slice(0, persons + 1),
    rows: found.rows.slice(0, total),
    need: new Uint32Array(total),
    base: new Uint32Array(0),
    pay: new Uint32Array(total),
    minute: new Uint16Array(total),
    visits: new Uint32Array(total),
    group: new Uint8Array(total),
    chain: programme.isPlain ? null : found.chain.slice(0, total),
    hour: hours ? found.hour.slice(0, total) : null,
    chance: isEvent ? found.chance.slice(0, total) : null,
    byGroup,
    programme,
    isEvent,
    deals,
    compiled,
    ownPriced: 0
  }
  matched.base = isPlain ? matched.need : new Uint32Array(total)
  fillNeeds(matched, question, tape, market)
  return matched
}

function chainOf(programme: PriceProgramme, lanes: FullLanes, tape: Tape, person: number, i: number): number {
  const { rows, words } = tape
  const word2 = words[person * PERSON_WORDS + 2]
  const network = ((rows.state[i] >> 3) & 3) === CELLULAR ? cellFailures(lanes, word2) : fixedFailures(lanes, word2)
  let popped = 0
  for (const { bit, minutes } of programme.parts[0].sincePops) if (rows.sincePop[i] < minutes) popped |= bit
  return programme.chainOf(
    personFailures(lanes, words, person) |
      network |
      lanes.path[rows.path[i]] |
      lanes.device[rows.device[i]] |
      lanes.page[rows.page[i]] |
      lanes.state[rows.state[i]] |
      popped
  )
}

function fillNeeds(matched: Matched, question: ForecastQuestion, tape: Tape, market: ForecastMarket): void {
  const { people, starts, rows, need, base, pay, minute, visits, group, chain, hour, chance, programme, isEvent, deals } = matched
  const { path, rival, device, minute: tapeMinute } = tape.rows
  const {
    inventory: { floors },
    firstPrice,
    groupByPath,
    benchmarks
  } = market
  const hasDeals = question.buys.deals.length > 0
  const isPlain = base === need
  for (let p = 0; p < people.length; p++) {
    const country = POSTAL_COUNTRY[postalOf(tape.words[people[p] * PERSON_WORDS])]
    for (let m = starts[p]; m < starts[p + 1]; m++) {
      const i = rows[m]
      const at = path[i]
      const floor = floors[at]
      const best = rival[i]
      const wanted = floor > best ? floor : best + 1
      need[m] = hasDeals
        ? rowNeed(floor, best, question.buys.open, question.buys.deals[deals[Math.floor(at / SOURCES.length)]] ?? null)
        : wanted
      pay[m] = firstPrice[at] === 1 ? BID_ITSELF : floor > best ? floor : best
      minute[m] = tapeMinute[i]
      const of = groupByPath[at]
      group[m] = of
      visits[m] = visitChance(benchmarks, of, DEVICE_TYPE[device[i]], country)
      if (isPlain) continue
      const least = programme.leastBase(need[m], chain ? chain[m] : 0, hour ? hour[m] : 1000, chance ? chance[m] : 0, isEvent)
      base[m] = least < NEVER ? least : NEVER
      if (chain && programme.chain(chain[m]).own >= 0) matched.ownPriced++
    }
  }
}
