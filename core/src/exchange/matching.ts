import {
  BLOCKS,
  BLOCK_ROWS,
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
  type Opportunities,
  type People
} from '../market/index.js'
import { POSTAL_REGION, REGIONS } from '../places/index.js'
import { DEVICE_TYPES, SHAPES } from '../taxonomy/index.js'
import { LANES, laneSize, type Catalogue, type Lane } from '../dimensions/index.js'
import { compileTargeting, type CompiledTargeting, type Targeting } from '../targeting/index.js'

/** Which tables can stop any line of a list's word, where region, shape and device type are known. */
const READS = { postal: 1, path: 2, device: 4, state: 8, page: 16, person: 32 } as const
const OF_PERSON = ['demographic', 'tongue', 'job', 'profile', 'employer', 'cell', 'fixed'] as const
const TYPES = DEVICE_TYPES.length
if (REGIONS.length * SHAPES.length * TYPES > 0xffff) throw new Error('There are more lists than their numbers hold.')

/**
 * Inverted bit sets: for each value of a lane the set of lines that it does not stop. The lines that match an
 * opportunity are the intersection over the lanes that any line reads. Made from the same compiled tables that the forecast reads.
 * Lines lie in the order of where and what they buy, so that most words of a set are zero for one region, device type and shape of
 * slot: those that are not are kept for each, with what is still to be asked.
 */
export class Matcher {
  /** 32-bit words a set takes. */
  readonly words: number
  /** Place of each line in the sets, and the line at each place. */
  readonly order: Int32Array
  readonly compiled: readonly CompiledTargeting[]
  private readonly sets: Readonly<Record<Lane, LaneSets | null>>
  /** Lines with a least time since the last pop, and that time. */
  private readonly sincePop: { word: number; bit: number; minutes: number }[] = []
  /**
   * Words that any line of a region, shape and device type lies in, from `starts[(region * SHAPES + shape) * TYPES +
   * type]` on: which of its lines, and what they read.
   */
  private readonly starts: Uint32Array
  private readonly lists: Uint16Array
  private readonly listBits: Int32Array
  private readonly listReads: Uint8Array
  private readonly shapeByPath: Uint8Array
  /** List of each row from `located` on. */
  private readonly listOf = new Uint16Array(BLOCK_ROWS)
  private located = 0
  /** What the last call found: words and their bits. */
  readonly foundWord: Uint16Array
  readonly foundBits: Int32Array

  /** @param fits which paths each line could buy by at all, beyond its targeting; null for all */
  constructor(targetings: readonly Targeting[], catalogue: Catalogue, fits: readonly (Uint8Array | null)[] = []) {
    const { inventory } = catalogue
    const compiled = targetings.map((targeting, line) => narrowed(compileTargeting(targeting, catalogue), fits[line] ?? null))
    this.shapeByPath = Uint8Array.from(inventory.floors, (_, path) => inventory.placements[Math.floor(path / SOURCES.length)].shape)
    const regions = compiled.map(({ lanes }) => passing(lanes.postal, POSTAL_REGION, REGIONS.length))
    const shapes = compiled.map(({ lanes }) => passing(lanes.path, this.shapeByPath, SHAPES.length))
    const types = compiled.map(({ lanes }) => passing(lanes.device, DEVICE_TYPE, TYPES))
    const sortKeys = compiled.map(({ lanes }, l) =>
      [regions[l], types[l], shapes[l]]
        .map((ways) => ways.findIndex((passes) => passes !== NONE))
        .concat(lanes.path ? lanes.path.indexOf(0) : -1)
    )
    const compare = (a: number[], b: number[]) => a[0] - b[0] || a[1] - b[1] || a[2] - b[2] || a[3] - b[3]
    const places = targetings.map((_, line) => line).sort((a, b) => compare(sortKeys[a], sortKeys[b]) || a - b)
    this.order = Int32Array.from(places)
    this.compiled = compiled
    const words = (this.words = Math.max(1, Math.ceil(targetings.length / 32)))
    this.foundWord = new Uint16Array(words)
    this.foundBits = new Int32Array(words)
    places.forEach((l, place) => {
      if (compiled[l].sincePop > 0) this.sincePop.push({ word: place >> 5, bit: 1 << (place & 31), minutes: compiled[l].sincePop })
    })
    const keys = REGIONS.length * SHAPES.length * TYPES
    const found = Array.from({ length: keys }, () => [] as [word: number, bits: number, reads: number][])
    for (let word = 0; word < words; word++) {
      const members = places.slice(word * 32, word * 32 + 32)
      const bitsWhere = (passes: (l: number) => boolean) => members.reduce((bits, l, n) => (passes(l) ? bits | (1 << n) : bits), 0)
      const masks = (perValue: readonly Uint8Array[], count: number) =>
        Array.from({ length: count }, (_, value) => ({
          some: bitsWhere((l) => perValue[l][value] !== NONE),
          part: bitsWhere((l) => perValue[l][value] === PART)
        }))
      const [ofRegion, ofShape, ofType] = [masks(regions, REGIONS.length), masks(shapes, SHAPES.length), masks(types, TYPES)]
      const reading = {
        state: bitsWhere((l) => compiled[l].lanes.state !== null),
        page: bitsWhere((l) => compiled[l].lanes.page !== null),
        person: bitsWhere((l) => OF_PERSON.some((lane) => compiled[l].lanes[lane] !== null))
      }
      ofRegion.forEach((region, r) => {
        if (region.some !== 0)
          ofShape.forEach((shape, s) => {
            if ((region.some & shape.some) !== 0)
              ofType.forEach((type, t) => {
                const bits = region.some & shape.some & type.some
                if (bits === 0) return
                const reads = { postal: region.part, path: shape.part, device: type.part, ...reading }
                found[(r * SHAPES.length + s) * TYPES + t].push([
                  word,
                  bits,
                  (Object.keys(READS) as (keyof typeof READS)[]).reduce(
                    (flags, name) => ((bits & reads[name]) !== 0 ? flags | READS[name] : flags),
                    0
                  )
                ])
              })
          })
      })
    }
    this.starts = new Uint32Array(keys + 1)
    found.forEach((list, key) => (this.starts[key + 1] = this.starts[key] + list.length))
    const lists = found.flat()
    this.lists = Uint16Array.from(lists, ([word]) => word)
    this.listBits = Int32Array.from(lists, ([, bits]) => bits)
    this.listReads = Uint8Array.from(lists, ([, , reads]) => reads)
    const invert = (lane: Lane) => {
      // What no list asks is not kept.
      const flag = lane in READS ? READS[lane as keyof typeof READS] : READS.person
      if (!this.listReads.some((reads) => (reads & flag) !== 0) || compiled.every((line) => line.lanes[lane] === null)) return null
      return new LaneSets(
        places.map((l) => compiled[l].lanes[lane]),
        laneSize(lane, inventory),
        words
      )
    }
    this.sets = Object.fromEntries(LANES.map((lane) => [lane, invert(lane)])) as Record<Lane, LaneSets | null>
  }

  /**
   * Notes which list each of some rows asks; to be called before they are matched. People lie far apart and each has to be waited
   * for: here one need not have come before the next is sent for.
   * @param to at most `from` + BLOCK_ROWS
   */
  locate(people: People, rows: Opportunities, from: number, to: number): void {
    const { listOf, shapeByPath } = this
    for (let i = from; i < to; i++)
      listOf[i - from] =
        (POSTAL_REGION[postalOf(people.words[rows.person[i] * PERSON_WORDS])] * SHAPES.length + shapeByPath[rows.path[i]]) * TYPES +
        DEVICE_TYPE[rows.device[i]]
    this.located = from
  }

  /**
   * Finds the lines that match a row that was located; the words that hold any are in `foundWord` and `foundBits`, written over by the
   * next call. What lies in the row is asked before the person's other attributes.
   * @returns how many words
   */
  match(people: People, rows: Opportunities, i: number): number {
    const { sets, starts, lists, listBits, listReads, foundWord, foundBits } = this
    const list = this.listOf[i - this.located]
    const end = starts[list + 1]
    let found = 0
    for (let n = starts[list]; n < end; n++) {
      const w = lists[n]
      let bits = listBits[n]
      const reads = listReads[n]
      if ((reads & READS.device) !== 0 && sets.device !== null) bits &= sets.device.rows[sets.device.startOf[rows.device[i]] + w]
      if ((reads & READS.path) !== 0 && sets.path !== null) bits &= sets.path.rows[sets.path.startOf[rows.path[i]] + w]
      if ((reads & READS.postal) !== 0 && sets.postal !== null)
        bits &= sets.postal.rows[sets.postal.startOf[postalOf(people.words[rows.person[i] * PERSON_WORDS])] + w]
      if (bits === 0) continue
      if ((reads & READS.state) !== 0 && sets.state !== null) bits &= sets.state.rows[sets.state.startOf[rows.state[i]] + w]
      if ((reads & READS.page) !== 0 && sets.page !== null) bits &= sets.page.rows[sets.page.startOf[rows.page[i]] + w]
      if (bits !== 0 && (reads & READS.person) !== 0)
        bits = this.ofPerson(bits, w, people.words, rows.person[i] * PERSON_WORDS, rows.state[i])
      if (bits === 0) continue
      foundWord[found] = w
      foundBits[found++] = bits
    }
    if (found > 0 && this.sincePop.length > 0) found = this.withoutPops(found, rows.sincePop[i])
    return found
  }

  private ofPerson(from: number, w: number, words: Int32Array, word: number, state: number): number {
    const { sets } = this
    const word1 = words[word + 1]
    const word2 = words[word + 2]
    let bits = from
    if (sets.demographic !== null) bits &= sets.demographic.rows[sets.demographic.startOf[demographicOf(word1)] + w]
    if (sets.tongue !== null) bits &= sets.tongue.rows[sets.tongue.startOf[tongueOf(word1)] + w]
    if (sets.job !== null) bits &= sets.job.rows[sets.job.startOf[jobOf(word1)] + w]
    if (sets.profile !== null) bits &= sets.profile.rows[sets.profile.startOf[profileOf(word1)] + w]
    if (sets.employer !== null) bits &= sets.employer.rows[sets.employer.startOf[employerOf(word2)] + w]
    if (((state >> 3) & 3) === CELLULAR) {
      if (sets.cell !== null) bits &= sets.cell.rows[sets.cell.startOf[carrierOf(word2) * BLOCKS + blockOf(word2)] + w]
    } else if (sets.fixed !== null) bits &= sets.fixed.rows[sets.fixed.startOf[providerOf(word2) * BLOCKS + blockOf(word2)] + w]
    return bits
  }

  private withoutPops(found: number, since: number): number {
    const { foundWord, foundBits } = this
    for (const { word, bit, minutes } of this.sincePop) {
      if (since >= minutes) continue
      for (let n = 0; n < found; n++) if (foundWord[n] === word) foundBits[n] &= ~bit
    }
    return found
  }
}

/** The lines that each value of a lane lets pass. Values that let the same pass share a row, so that few rows are read and stay near. */
class LaneSets {
  /** First word of each value's row in `rows`. */
  readonly startOf: Uint32Array
  readonly rows: Int32Array

  constructor(tables: readonly (Int32Array | null)[], size: number, words: number) {
    this.startOf = new Uint32Array(size)
    const row = new Int32Array(words)
    const known = new Map<string, number>()
    const rows: number[] = []
    const members = tables.flatMap((table, place) => (table ? [{ table, word: place >> 5, bit: 1 << (place & 31) }] : []))
    for (let value = 0; value < size; value++) {
      row.fill(-1)
      for (const { table, word, bit } of members) if (table[value] !== 0) row[word] &= ~bit
      const name = String.fromCharCode(...new Uint16Array(row.buffer))
      let start = known.get(name)
      if (start === undefined) {
        known.set(name, (start = rows.length))
        for (const bits of row) rows.push(bits)
      }
      this.startOf[value] = start
    }
    this.rows = Int32Array.from(rows)
  }
}

const NONE = 0
const PART = 1
const ALL = 2

/** Whether none, some or all of a lane's values pass, by what they are gathered in. */
function passing(table: Int32Array | null, groupOf: ArrayLike<number>, groups: number): Uint8Array {
  const [passed, all] = [new Uint32Array(groups), new Uint32Array(groups)]
  for (let value = 0; value < groupOf.length; value++) {
    all[groupOf[value]]++
    if (!table || table[value] === 0) passed[groupOf[value]]++
  }
  return Uint8Array.from(passed, (n, group) => (n === 0 ? NONE : n === all[group] ? ALL : PART))
}

/** Bit of a path that a line could not buy by. */
const NO_WAY = 1 << 31

function narrowed(compiled: CompiledTargeting, fits: Uint8Array | null): CompiledTargeting {
  if (!fits) return compiled
  const path = compiled.lanes.path?.slice() ?? new Int32Array(fits.length)
  for (let n = 0; n < fits.length; n++) if (fits[n] === 0) path[n] |= NO_WAY
  return { ...compiled, lanes: { ...compiled.lanes, path } }
}
