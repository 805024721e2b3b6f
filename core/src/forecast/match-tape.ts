import { POSTAL_COUNTRY, POSTAL_ZONE } from '../places/index.js'
import { SHAPES } from '../taxonomy/index.js'
import { MINUTES_PER_DAY, MINUTES_PER_WEEK, ZONES, offsetMinutes, weekdayOf, zoneIndex } from '../time/index.js'
import { CELLULAR, DEVICE_TYPE, PERSON_WORDS, SOURCES, postalOf } from '../market/index.js'
import { PriceProgramme, dealsByPlacement, hasMultipliers, hourPerMille, rowNeed, type HourPlan } from '../pricing/index.js'
import { groupAt, viewsAt, visitChance } from '../response/index.js'
import { GROUPS, tapeEnd, type Tape } from '../tape/index.js'
import { compileTargeting, type CompiledTargeting } from '../targeting/index.js'
import { NO_SET, adChoice, type AdChoice } from './ad-choice.js'
import { KernelMatched } from './kernel-matched.js'
import { kernelOf } from './kernel-memory.js'
import type { EarlyWeeks } from './kernel-rows.js'
import { kernelTerms } from './kernel-terms.js'
import { learnedChance, paidParts } from './learned-chance.js'
import { cellFailures, fixedFailures, fullLanes, personFailures, type FullLanes } from './lanes.js'
import { BID_ITSELF, NEVER, type Matched } from './matched.js'
import { CancelledError, LOOK_EVERY, ownNeeds, type ForecastMarket, type ForecastQuestion } from './question.js'

/** What is wanted with a match: both weeks at a base bid in base units. */
export type EarlyOptions = Pick<EarlyWeeks, 'timelines' | 'full'> & { base: number }

/** Multiplier of the hour for tape minutes: `[zone][minute of the UTC tape week / 30]`, half hours since some zones have them. */
export function hourTable(hours: HourPlan, zone: string, tape: Tape): readonly Uint16Array[] {
  const noon = tapeEnd(tape) - 12
  const lineOffset = offsetMinutes(zoneIndex(zone), noon)
  const start = weekdayOf(tape.firstDay) * MINUTES_PER_DAY
  return ZONES.map((_, index) => {
    const offset = hours.clock === 'viewer' ? offsetMinutes(index, noon) : lineOffset
    return Uint16Array.from({ length: MINUTES_PER_WEEK / 30 }, (_, half) => hourPerMille(hours, start + half * 30, offset))
  })
}

/** A line's restrictions and price, compiled for one pass over the tape. */
interface Compiled {
  question: ForecastQuestion
  tape: Tape
  market: ForecastMarket
  targeting: CompiledTargeting
  lanes: FullLanes
  programme: PriceProgramme
  /** Deal of the line by placement, -1 for none. */
  deals: Int16Array
  /** Multiplier of the hour; null where it is 1,000 always. */
  hours: readonly Uint16Array[] | null
  isEvent: boolean
  /** Its ads, where any has rules of its own. */
  ads: AdChoice | null
  /** Whether one base bid is the same effective bid on every row. */
  isPlain: boolean
}

function compile(question: ForecastQuestion, tape: Tape, market: ForecastMarket): Compiled {
  const targeting = compileTargeting(question.targeting, market)
  const programme = new PriceProgramme(question.price, market)
  const isEvent = question.price.model === 'CPC' || question.price.model === 'view'
  const ads = adChoice(question, market)
  const hours = hasMultipliers(question.hours) ? hourTable(question.hours, question.zone, tape) : null
  return {
    question,
    tape,
    market,
    targeting,
    lanes: fullLanes(targeting, market.inventory, question.shapes, question.buys),
    programme,
    deals: dealsByPlacement(question.buys, market.inventory.placements.length),
    hours,
    isEvent,
    ads,
    isPlain: programme.isPlain && !hours && !isEvent && !ads
  }
}

/**
 * First pass over the tape for one line: by the compiled loops where they can, by the general ones otherwise.
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
  const compiled = compile(question, tape, market)
  const kernel = compiled.isPlain && question.buys.deals.length === 0 ? kernelOf(tape, market) : null
  if (!kernel) return generalMatch(compiled, 1, cancelled)
  if (cancelled()) throw new CancelledError()
  const { lanes, targeting, programme, deals } = compiled
  const rows = kernel.match(lanes, targeting.sincePop, early && earlyWeeks(compiled, early), ownNeeds(question, market))
  return new KernelMatched(rows, programme, deals, targeting, tape, market)
}

/** A match of every n-th person alone, to be replayed with the same `every`. */
export function thinnedMatch(
  question: ForecastQuestion,
  tape: Tape,
  market: ForecastMarket,
  every: number,
  cancelled: () => boolean
): Matched {
  return generalMatch(compile(question, tape, market), every, cancelled)
}

/** What is replayed on the way; null where the compiled loops cannot. */
function earlyWeeks({ question, programme }: Compiled, { timelines, full, base }: EarlyOptions): EarlyWeeks | null {
  if (!Number.isInteger(question.dataMicros) || question.price.repeatDiscount || question.viewPoint !== undefined) return null
  return { timelines, full, ...kernelTerms(question, programme.bid(base, 0, 1000, 0, 1_000_000, false)) }
}

/** Room for the longest match, kept between questions of a worker; what is found is copied out at its own length. */
const scratch = {
  rows: new Uint32Array(0),
  chain: new Uint16Array(0),
  hour: new Uint16Array(0),
  chance: new Uint32Array(0),
  set: new Uint16Array(0),
  people: new Uint32Array(0),
  starts: new Uint32Array(0)
}

function roomFor(tape: Tape): typeof scratch {
  if (scratch.rows.length < tape.rowCount) {
    scratch.rows = new Uint32Array(tape.rowCount)
    scratch.chain = new Uint16Array(tape.rowCount)
    scratch.hour = new Uint16Array(tape.rowCount)
    scratch.chance = new Uint32Array(tape.rowCount)
    scratch.set = new Uint16Array(tape.rowCount)
  }
  if (scratch.people.length < tape.peopleCount) {
    scratch.people = new Uint32Array(tape.peopleCount)
    scratch.starts = new Uint32Array(tape.peopleCount + 1)
  }
  return scratch
}

function generalMatch(compiled: Compiled, every: number, cancelled: () => boolean): Matched {
  const { tape, programme, deals, targeting, hours, isEvent, ads, isPlain } = compiled
  const found = roomFor(tape)
  const byGroup = new Float64Array(2 * GROUPS)
  const { starts: firstRow, group } = tape
  const minute = tape.rows.minute
  const matchPerson = personMatcher(compiled)
  let total = 0
  let persons = 0
  for (let person = 0, looked = 0; person < tape.peopleCount; person += every) {
    if (looked++ % LOOK_EVERY === 0 && cancelled()) throw new CancelledError()
    if (firstRow[person] === firstRow[person + 1]) continue
    const before = total
    total = matchPerson(person, total)
    if (total === before) continue
    let older = 0
    for (let match = before; match < total; match++) if (minute[found.rows[match]] < MINUTES_PER_WEEK) older++
    byGroup[group[person]] += older
    byGroup[GROUPS + group[person]] += total - before - older
    found.people[persons] = person
    found.starts[persons++] = before
  }
  found.starts[persons] = total
  const need = new Uint32Array(total)
  const matched: Matched = {
    people: found.people.slice(0, persons),
    starts: found.starts.slice(0, persons + 1),
    rows: found.rows.slice(0, total),
    need,
    base: isPlain ? need : new Uint32Array(total),
    pay: new Uint32Array(total),
    minute: new Uint16Array(total),
    visits: new Uint32Array(total),
    group: new Uint8Array(total),
    chain: programme.isPlain && !ads?.bids ? null : found.chain.slice(0, total),
    hour: hours ? found.hour.slice(0, total) : null,
    chance: isEvent ? found.chance.slice(0, total) : null,
    byGroup,
    programme,
    isEvent,
    deals,
    compiled: targeting,
    ownPriced: 0,
    ads: ads && { choice: ads, set: found.set.slice(0, total), chain: programme.isPlain ? null : found.chain.slice(0, total) }
  }
  if (ads?.bids && matched.chain) ownBids(matched, matched.chain, ads, tape)
  fillNeeds(matched, compiled)
  return matched
}

/** Finds the rows of one person that match, from place `total` on; returns the place after them. */
function personMatcher(compiled: Compiled): (person: number, total: number) => number {
  const { question, tape, market, lanes, targeting, programme, hours, isEvent, ads, isPlain } = compiled
  const network = new Int32Array(2)
  const shapeOf = (path: number) => market.inventory.placements[Math.floor(path / SOURCES.length)].shape
  const found = roomFor(tape)
  const every = SHAPES.map((_, shape) => shape)
  const [adjusting] = programme.parts.map((part) => fullLanes(part, market.inventory, every, { open: true, deals: [] }))
  const { words, rows, starts: firstRow } = tape
  const { path, device, page, state, sincePop, minute } = rows
  const { path: pathFails, device: deviceFails, page: pageFails, state: stateFails } = lanes
  const { sincePop: leastSincePop } = targeting
  const views = viewsAt(market.benchmarks, question.viewPoint)
  const isView = question.price.model === 'view'
  const learnedAt = isEvent ? learnedChance(paidParts(question), question, tape) : null
  return (person, total) => {
    if (personFailures(lanes, words, person) !== 0) return total
    const word2 = words[person * PERSON_WORDS + 2]
    const cell = cellFailures(lanes, word2)
    const fixed = fixedFailures(lanes, word2)
    if (cell !== 0 && fixed !== 0) return total
    const postal = postalOf(words[person * PERSON_WORDS])
    const multipliers = hours ? hours[POSTAL_ZONE[postal]] : null
    const narrowed = ads ? ads.ofPerson(words, person, network) : 0
    const end = firstRow[person + 1]
    for (let row = firstRow[person]; row < end; row++) {
      const facts = state[row]
      const fails = pathFails[path[row]] | deviceFails[device[row]] | pageFails[page[row]] | stateFails[facts]
      if ((fails | (((facts >> 3) & 3) === CELLULAR ? cell : fixed)) !== 0 || sincePop[row] < leastSincePop) continue
      if (ads) {
        const set = ads.setOf(rows, row, shapeOf(path[row]), narrowed, network)
        if (set === NO_SET) continue
        found.set[total] = set
      }
      if (!isPlain) {
        const hour = multipliers ? multipliers[Math.floor((minute[row] % MINUTES_PER_WEEK) / 30)] : 1000
        if (hour === 0) continue
        found.hour[total] = hour
        found.chain[total] = adjusting ? chainOf(programme, adjusting, tape, person, row) : 0
        if (isEvent) {
          const kind = groupAt(market.groupByPath[path[row]], facts)
          const type = DEVICE_TYPE[device[row]]
          const average = isView ? views[kind] : visitChance(market.benchmarks, kind, type, POSTAL_COUNTRY[postal])
          found.chance[total] = learnedAt ? learnedAt(average, path[row], type, minute[row]) : average
        }
      }
      found.rows[total++] = row
    }
    return total
  }
}

/** Gives each match the chain of the ad that is drawn for it. */
function ownBids({ rows, programme, ads }: Matched, chain: Uint16Array, choice: AdChoice, tape: Tape): void {
  if (!ads) return
  for (let m = 0; m < rows.length; m++) {
    const { base } = choice.sets[ads.set[m]].classes[choice.drawn(ads.set[m], tape.rows.key[rows[m]])]
    if (base >= 0) chain[m] = programme.withOwn(chain[m], base)
  }
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

function fillNeeds(matched: Matched, { question, tape, market }: Compiled): void {
  const { people, starts, rows, need, base, pay, minute, visits, group, chain, hour, chance, programme, isEvent, deals } = matched
  const { path, rival, device, state, minute: tapeMinute } = tape.rows
  const {
    inventory: { floors },
    firstPrice,
    groupByPath,
    benchmarks
  } = market
  const hasDeals = question.buys.deals.length > 0
  const isPlain = base === need
  const own = ownNeeds(question, market)
  for (let p = 0; p < people.length; p++) {
    const country = POSTAL_COUNTRY[postalOf(tape.words[people[p] * PERSON_WORDS])]
    for (let m = starts[p]; m < starts[p + 1]; m++) {
      const i = rows[m]
      const pathIndex = path[i]
      const floor = floors[pathIndex]
      const best = rival[i]
      const wanted = floor > best ? floor : best + 1
      need[m] = hasDeals
        ? rowNeed(floor, best, question.buys.open, question.buys.deals[deals[Math.floor(pathIndex / SOURCES.length)]] ?? null)
        : wanted
      // What one of ours buys for more is not to be had for less.
      if (own && own[i] > need[m] && need[m] < NEVER) need[m] = own[i]
      pay[m] = firstPrice[pathIndex] === 1 ? BID_ITSELF : floor > best ? floor : best
      minute[m] = tapeMinute[i]
      const groupHere = groupAt(groupByPath[pathIndex], state[i])
      group[m] = groupHere
      visits[m] = visitChance(benchmarks, groupHere, DEVICE_TYPE[device[i]], country)
      if (isPlain) continue
      const least = programme.leastBase(need[m], chain ? chain[m] : 0, hour ? hour[m] : 1000, chance ? chance[m] : 0, isEvent)
      base[m] = least < NEVER ? least : NEVER
      if (chain && programme.chain(chain[m]).own >= 0) matched.ownPriced++
    }
  }
}
