import {
  BLOCKS, CELLULAR, PERSON_WORDS, blockOf, carrierOf, demographicOf, employerOf, jobOf, postalOf, profileOf, providerOf, tongueOf, type Opportunities, type People
} from '../market/index.js'
import { LANES, PERSON_LANES, ROW_LANES, compileTargeting, laneSize, laneValues, type Catalogue, type Lane, type LaneValues, type Targeting } from '../targeting/index.js'

/**
 * Inverted bit sets: for each value of a lane the set of lines that it does not stop. The lines that match an
 * opportunity are the intersection over the lanes that any line reads. Made from the same compiled tables that the forecast reads.
 */
export class Matcher {
  /** 32-bit words a set takes. */
  readonly words: number
  /** Sets by lane: `value * words + w`; lanes that no line reads are left out. */
  private readonly sets: { lane: Lane; sets: Int32Array }[]
  private readonly of: Readonly<Record<Lane, Int32Array | null>>
  private readonly networks: { cell: Int32Array | null; fixed: Int32Array | null }
  /** Lines with a least time since the last pop, and that time. */
  private readonly sincePop: { line: number; minutes: number }[] = []
  private readonly result: Int32Array

  constructor(targetings: readonly Targeting[], catalogue: Catalogue) {
    const compiled = targetings.map((targeting) => compileTargeting(targeting, catalogue))
    this.words = Math.max(1, Math.ceil(targetings.length / 32))
    this.result = new Int32Array(this.words)
    const invert = (lane: Lane) => {
      if (compiled.every((line) => line.lanes[lane] === null)) return null
      const size = laneSize(lane, catalogue.inventory)
      const sets = new Int32Array(size * this.words)
      compiled.forEach(({ lanes }, l) => {
        const table = lanes[lane]
        for (let value = 0; value < size; value++) {
          if (!table || table[value] === 0) sets[value * this.words + (l >> 5)] |= 1 << (l & 31)
        }
      })
      return sets
    }
    this.of = Object.fromEntries(LANES.map((lane) => [lane, invert(lane)])) as Record<Lane, Int32Array | null>
    this.sets = [...ROW_LANES, ...PERSON_LANES].flatMap((lane) => {
      const sets = this.of[lane]
      return sets ? [{ lane, sets }] : []
    })
    this.networks = { cell: this.of.cell, fixed: this.of.fixed }
    compiled.forEach(({ sincePop }, line) => {
      if (sincePop > 0) this.sincePop.push({ line, minutes: sincePop })
    })
  }

  /**
   * The set of matching lines, in words that are written over by the next call. What lies in the row is asked before the
   * person is looked up, which in market order misses the cache.
   */
  match(people: People, rows: Opportunities, i: number): Int32Array {
    return this.words === 1 ? this.matchOneWord(people.words, rows, i) : this.matchValues(laneValues(people.words, rows.person[i], rows, i))
  }

  /** Up to 32 lines, as a demo or a small team has. */
  private matchOneWord(words: Int32Array, rows: Opportunities, i: number): Int32Array {
    const { result, of } = this
    const state = rows.state[i]
    let bits = -1
    if (of.path) bits &= of.path[rows.path[i]]
    if (of.device) bits &= of.device[rows.device[i]]
    if (of.state) bits &= of.state[state]
    if (of.page) bits &= of.page[rows.page[i]]
    if (bits !== 0) {
      const at = rows.person[i] * PERSON_WORDS
      const word1 = words[at + 1]
      const word2 = words[at + 2]
      if (of.postal) bits &= of.postal[postalOf(words[at])]
      if (of.demographic) bits &= of.demographic[demographicOf(word1)]
      if (of.tongue) bits &= of.tongue[tongueOf(word1)]
      if (of.job) bits &= of.job[jobOf(word1)]
      if (of.profile) bits &= of.profile[profileOf(word1)]
      if (of.employer) bits &= of.employer[employerOf(word2)]
      if (of.cell && ((state >> 3) & 3) === CELLULAR) bits &= of.cell[carrierOf(word2) * BLOCKS + blockOf(word2)]
      if (of.fixed && ((state >> 3) & 3) !== CELLULAR) bits &= of.fixed[providerOf(word2) * BLOCKS + blockOf(word2)]
      for (const { line, minutes } of this.sincePop) if (rows.sincePop[i] < minutes) bits &= ~(1 << line)
    }
    result[0] = bits
    return result
  }

  matchValues(values: LaneValues): Int32Array {
    const { words, result, sets, networks } = this
    result.fill(-1)
    for (const { lane, sets: of } of sets) {
      const at = values[lane] * words
      for (let w = 0; w < words; w++) result[w] &= of[at + w]
    }
    const network = ((values.state >> 3) & 3) === CELLULAR ? 'cell' : 'fixed'
    const of = networks[network]
    if (of) for (let w = 0; w < words; w++) result[w] &= of[values[network] * words + w]
    for (const { line, minutes } of this.sincePop) if (values.sincePop < minutes) result[line >> 5] &= ~(1 << (line & 31))
    return result
  }
}

