import { POSTAL_ZONE } from '../places/index.js'
import { MINUTES_PER_WEEK } from '../time/index.js'
import { CELLULAR, PERSON_WORDS, SOURCES, postalOf } from '../market/index.js'
import { GROUPS, TAPE_DAYS, type Tape } from '../tape/index.js'
import { compileTargeting, type Restriction } from '../targeting/index.js'
import { NO_SET, adChoice } from './ad-choice.js'
import { SLOT_BIT, cellFailures, fixedFailures, fullLanes, personFailures } from './lanes.js'
import { hourTable } from './match-tape.js'
import { PRICE_BINS, binMedian, priceBin } from './price-bins.js'
import { ratioRange, type Ranged } from './ranges.js'
import { CancelledError, LOOK_EVERY, type ForecastMarket, type ForecastQuestion } from './question.js'

/** One step of the sieve: a restriction in the trader's order, then the hours, then what single ads ask. A day, of the market. */
export interface SieveStep {
  restriction: Restriction | 'hours' | 'ads'
  /** What is left after it and all before it, and the median price there, micros a thousand. */
  left: number
  price: number
  /** What it alone keeps out, and the median price of that: volume, not wins. */
  lifted: number
  liftedPrice: number
}

export interface Sieve {
  /** All traffic whose slots the ads fit. */
  all: number
  allPrice: number
  steps: SieveStep[]
  /** What is left of all traffic, of any slot: where the ads fit, then after each step; ranges over who is on the tape. */
  shares: Ranged[]
  /** First step after which nothing is left; null when something is. */
  emptiedBy: number | null
}

/** What the sieve depends on: it is kept until one of these changes. */
export function sieveKey({ targeting, shapes, ads, buys, hours, zone }: ForecastQuestion): string {
  return JSON.stringify([targeting, shapes, ads?.map((ad) => [ad.shape, ad.targeting]), buys, hours, hours ? zone : ''])
}

/** A pass of its own over all rows, without leaving out people early: each row fails a set of restrictions. */
export function sieve(question: ForecastQuestion, tape: Tape, market: ForecastMarket, cancelled: () => boolean): Sieve {
  const { restrictions } = question.targeting
  const compiled = compileTargeting(question.targeting, market)
  const lanes = fullLanes(compiled, market.inventory, question.shapes, question.buys)
  const hours = question.hours && question.hours.perMille.some((m) => m === 0) ? hourTable(question.hours, question.zone, tape) : null
  const choice = question.ads?.some(({ targeting }) => targeting) ? adChoice(question, market) : null
  const network = new Int32Array(2)
  const ofHours = hours ? (['hours'] as const) : []
  // With 31 restrictions and hours no bit is left: what no ad may be shown for is then counted with the hours.
  const hasBit = choice !== null && restrictions.length + ofHours.length < 32
  const after = [...ofHours, ...(hasBit ? (['ads'] as const) : [])]
  const count = restrictions.length + after.length
  // The bits after the last restriction; with 31 of them it is the slot's, whose rows are left out before.
  const hoursBit = 1 << restrictions.length
  const adsBit = hasBit ? 1 << (count - 1) : hoursBit
  const firstFails = new Uint32Array((count + 1) * PRICE_BINS)
  const alone = new Uint32Array((count + 1) * PRICE_BINS)
  const byGroup = new Float64Array((count + 1) * GROUPS)
  const allByGroup = new Float64Array(GROUPS)
  const { words, rows, starts, peopleCount, group } = tape
  const { path, device, page, state, sincePop, minute, rival } = rows
  const { floors, placements } = market.inventory
  const { path: pathFails, device: deviceFails, page: pageFails, state: stateFails } = lanes
  for (let person = 0; person < peopleCount; person++) {
    if (person % LOOK_EVERY === 0 && cancelled()) throw new CancelledError()
    const own = personFailures(lanes, words, person)
    const word2 = words[person * PERSON_WORDS + 2]
    const cell = own | cellFailures(lanes, word2)
    const fixed = own | fixedFailures(lanes, word2)
    const multipliers = hours ? hours[POSTAL_ZONE[postalOf(words[person * PERSON_WORDS])]] : null
    const narrowed = choice ? choice.ofPerson(words, person, network) : 0
    const g = group[person]
    allByGroup[g] += starts[person + 1] - starts[person]
    for (let i = starts[person]; i < starts[person + 1]; i++) {
      let fails = pathFails[path[i]]
      if ((fails & SLOT_BIT) !== 0) continue
      fails |= deviceFails[device[i]] | pageFails[page[i]] | stateFails[state[i]] | (((state[i] >> 3) & 3) === CELLULAR ? cell : fixed)
      if (sincePop[i] < compiled.sincePop) fails |= compiled.sincePopBit
      if (multipliers && multipliers[Math.floor((minute[i] % MINUTES_PER_WEEK) / 30)] === 0) fails |= hoursBit
      if (choice && choice.setOf(rows, i, placements[Math.floor(path[i] / SOURCES.length)].shape, narrowed, network) === NO_SET)
        fails |= adsBit
      const floor = floors[path[i]]
      const bin = priceBin(floor > rival[i] ? floor : rival[i])
      const lowest = fails & -fails
      const first = fails === 0 ? count : 31 - Math.clz32(lowest)
      firstFails[first * PRICE_BINS + bin]++
      byGroup[first * GROUPS + g]++
      if (fails !== 0 && fails === lowest) alone[first * PRICE_BINS + bin]++
    }
  }
  return { ...summed([...restrictions, ...after], firstFails, alone, tape.sample), shares: sharesOf(count, byGroup, allByGroup) }
}

/** What is left at each step, of all rows, by what each row fails first. */
function sharesOf(count: number, byGroup: Float64Array, all: Float64Array): Ranged[] {
  const left = new Float64Array(GROUPS)
  const shares: Ranged[] = []
  for (let step = count; step >= 0; step--) {
    for (let g = 0; g < GROUPS; g++) left[g] += byGroup[step * GROUPS + g]
    shares.unshift(ratioRange(left, all))
  }
  return shares
}

function summed(
  named: readonly SieveStep['restriction'][],
  firstFails: Uint32Array,
  alone: Uint32Array,
  sample: number
): Omit<Sieve, 'shares'> {
  const count = named.length
  const aDay = (rows: number) => (rows * sample) / TAPE_DAYS
  const left = new Float64Array(PRICE_BINS)
  const sum = (counts: ArrayLike<number>, from = 0) => {
    let total = 0
    for (let bin = 0; bin < PRICE_BINS; bin++) total += counts[from + bin]
    return total
  }
  const steps: SieveStep[] = []
  // From the last step back: what is left after a step fails none up to it.
  for (let step = count; step >= 0; step--) {
    for (let bin = 0; bin < PRICE_BINS; bin++) left[bin] += firstFails[step * PRICE_BINS + bin]
    if (step === 0) break
    steps.unshift({
      restriction: named[step - 1],
      left: aDay(sum(left)),
      price: binMedian(left) * 1000,
      lifted: aDay(sum(alone, (step - 1) * PRICE_BINS)),
      liftedPrice: binMedian(alone, (step - 1) * PRICE_BINS) * 1000
    })
  }
  const emptied = steps.findIndex((step) => step.left === 0)
  return { all: aDay(sum(left)), allPrice: binMedian(left) * 1000, steps, emptiedBy: emptied < 0 ? null : emptied }
}
