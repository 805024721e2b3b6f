import { BLOCKS, CELLULAR, PERSON_WORDS, SOURCES, blockOf, carrierOf, demographicOf, employerOf, jobOf, postalOf, profileOf, providerOf, tongueOf, type Opportunities, type People } from '../market/index.js'
import { POSTAL_REGION, REGIONS } from '../places/index.js'
import { SHAPES } from '../taxonomy/index.js'
import { LANES, compileTargeting, laneSize, type Catalogue, type CompiledTargeting, type Lane, type Targeting } from '../targeting/index.js'

const [NOTHING, PART, ALL] = [0, 1, 2]
const [READS_POSTAL, READS_PATH] = [1, 2]

/**
 * Inverted bit sets: for each value of a lane the set of lines that it does not stop. The lines that match an
 * opportunity are the intersection over the lanes that any line reads. Made from the same compiled tables that the forecast reads.
 * Lines lie in the order of where and what they buy, so that most words of a set are zero for one region and shape of slot:
 * those that are not are kept for each.
 */
export class Matcher {
  /** 32-bit words a set takes. */
  readonly words: number
  /** Place of each line in the sets, and the line at each place. */
  readonly order: Int32Array
  readonly compiled: readonly CompiledTargeting[]
  private readonly sets: Readonly<Record<Lane, Int32Array | null>>
  /** Lines with a least time since the last pop, and that time. */
  private readonly sincePop: { word: number; bit: number; minutes: number }[] = []
  /** Words that any line of a region and shape lies in: `lists[starts[region * SHAPES + shape]]` and on, and which of its lines. */
  private readonly starts: Uint32Array
  private readonly lists: Uint16Array
  private readonly listBits: Int32Array
  /** Whether postal code (1) or path (2) can stop any of them within region and shape. */
  private readonly listReads: Uint8Array
  private readonly shapeByPath: Uint8Array
  /** What the last call found: words and their bits. */
  readonly foundWord: Uint16Array
  readonly foundBits: Int32Array

  /** @param fits which paths each line could buy by at all, beyond its targeting; null for all */
  constructor(targetings: readonly Targeting[], catalogue: Catalogue, fits: readonly (Uint8Array | null)[] = []) {
    const { inventory } = catalogue
    const compiled = targetings.map((targeting, line) => narrowed(compileTargeting(targeting, catalogue), fits[line] ?? null))
    this.shapeByPath = Uint8Array.from(inventory.floors, (_, path) => inventory.placements[Math.floor(path / SOURCES.length)].shape)
    const regions = compiled.map(({ lanes }) => regionsOf(lanes.postal))
    const shapes = compiled.map(({ lanes }) => this.shapesOf(lanes.path))
    const placement = compiled.map(({ lanes }) => (lanes.path ? lanes.path.indexOf(0) : -1))
    const first = regions.map((of) => of.findIndex((passes) => passes > 0))
    const firstShape = shapes.map((of) => of.findIndex((passes) => passes > 0))
    const places = targetings.map((_, line) => line).sort((a, b) => first[a] - first[b] || firstShape[a] - firstShape[b] || placement[a] - placement[b] || a - b)
    this.order = Int32Array.from(places)
    this.compiled = compiled
    const words = (this.words = Math.max(1, Math.ceil(targetings.length / 32)))
    this.foundWord = new Uint16Array(words)
    this.foundBits = new Int32Array(words)
    const invert = (lane: Lane) => {
      if (compiled.every((line) => line.lanes[lane] === null)) return null
      const size = laneSize(lane, inventory)
      const sets = new Int32Array(size * words)
      places.forEach((l, at) => {
        const table = compiled[l].lanes[lane]
        const bit = 1 << (at & 31)
        for (let value = 0, word = at >> 5; value < size; value++, word += words) if (!table || table[value] === 0) sets[word] |= bit
      })
      return sets
    }
    places.forEach((l, at) => {
      if (compiled[l].sincePop > 0) this.sincePop.push({ word: at >> 5, bit: 1 << (at & 31), minutes: compiled[l].sincePop })
    })
    this.starts = new Uint32Array(REGIONS.length * SHAPES.length + 1)
    const lists: number[] = []
    const listBits: number[] = []
    const listReads: number[] = []
    for (let region = 0; region < REGIONS.length; region++) {
      for (let shape = 0; shape < SHAPES.length; shape++) {
        this.starts[region * SHAPES.length + shape] = lists.length
        for (let word = 0; word < words; word++) {
          let [bits, reads] = [0, 0]
          for (let at = word * 32; at < Math.min(places.length, word * 32 + 32); at++) {
            const [inRegion, ofShape] = [regions[places[at]][region], shapes[places[at]][shape]]
            if (inRegion === 0 || ofShape === 0) continue
            bits |= 1 << (at & 31)
            reads |= (inRegion === PART ? READS_POSTAL : 0) | (ofShape === PART ? READS_PATH : 0)
          }
          if (bits === 0) continue
          lists.push(word)
          listBits.push(bits)
          listReads.push(reads)
        }
      }
    }
    this.starts[REGIONS.length * SHAPES.length] = lists.length
    this.lists = Uint16Array.from(lists)
    this.listBits = Int32Array.from(listBits)
    this.listReads = Uint8Array.from(listReads)
    // What no list reads is not kept: a table of postal codes by lines is the largest of all.
    const isRead = (flag: number) => listReads.some((reads) => (reads & flag) !== 0)
    this.sets = Object.fromEntries(LANES.map((lane) => [lane, (lane === 'postal' && !isRead(READS_POSTAL)) || (lane === 'path' && !isRead(READS_PATH)) ? null : invert(lane)])) as Record<Lane, Int32Array | null>
  }

  /** Of each shape how much of its paths pass. */
  private shapesOf(path: Int32Array | null): Uint8Array {
    return passing(path, this.shapeByPath, SHAPES.length)
  }

  /**
   * Finds the lines that match; the words that hold any are in `foundWord` and `foundBits`, written over by the next call.
   * What lies in the row is asked before the person's other attributes.
   * @returns how many words
   */
  match(people: People, rows: Opportunities, i: number): number {
    const { sets, words, starts, lists, listBits, listReads, foundWord, foundBits } = this
    const path = rows.path[i]
    const at = rows.person[i] * PERSON_WORDS
    const postal = postalOf(people.words[at])
    const list = POSTAL_REGION[postal] * SHAPES.length + this.shapeByPath[path]
    const end = starts[list + 1]
    let found = 0
    for (let n = starts[list]; n < end; n++) {
      const w = lists[n]
      let bits = listBits[n]
      // What lies in the nearest memory is asked first.
      if (sets.device !== null) bits &= sets.device[rows.device[i] * words + w]
      if (bits === 0) continue
      const reads = listReads[n]
      if ((reads & READS_PATH) !== 0 && sets.path !== null) bits &= sets.path[path * words + w]
      if ((reads & READS_POSTAL) !== 0 && sets.postal !== null) bits &= sets.postal[postal * words + w]
      if (bits === 0) continue
      if (sets.state !== null) bits &= sets.state[rows.state[i] * words + w]
      if (sets.page !== null) bits &= sets.page[rows.page[i] * words + w]
      if (bits === 0) continue
      bits = this.ofPerson(bits, w, people.words[at + 1], people.words[at + 2], rows.state[i])
      if (bits === 0) continue
      foundWord[found] = w
      foundBits[found++] = bits
    }
    if (found > 0 && this.sincePop.length > 0) found = this.withoutPops(found, rows.sincePop[i])
    return found
  }

  private ofPerson(from: number, w: number, word1: number, word2: number, state: number): number {
    const { sets, words } = this
    let bits = from
    if (sets.demographic !== null) bits &= sets.demographic[demographicOf(word1) * words + w]
    if (sets.tongue !== null) bits &= sets.tongue[tongueOf(word1) * words + w]
    if (sets.job !== null) bits &= sets.job[jobOf(word1) * words + w]
    if (sets.profile !== null) bits &= sets.profile[profileOf(word1) * words + w]
    if (sets.employer !== null) bits &= sets.employer[employerOf(word2) * words + w]
    if (((state >> 3) & 3) === CELLULAR) {
      if (sets.cell !== null) bits &= sets.cell[(carrierOf(word2) * BLOCKS + blockOf(word2)) * words + w]
    } else if (sets.fixed !== null) bits &= sets.fixed[(providerOf(word2) * BLOCKS + blockOf(word2)) * words + w]
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

/** Of each region how much of its postal codes pass. */
const regionsOf = (postal: Int32Array | null) => passing(postal, POSTAL_REGION, REGIONS.length)

/** Whether none, some or all of a lane's values pass, by what they are gathered in. */
function passing(table: Int32Array | null, groupOf: ArrayLike<number>, groups: number): Uint8Array {
  const [passed, all] = [new Uint32Array(groups), new Uint32Array(groups)]
  for (let value = 0; value < groupOf.length; value++) {
    all[groupOf[value]]++
    if (!table || table[value] === 0) passed[groupOf[value]]++
  }
  return Uint8Array.from(passed, (n, group) => (n === 0 ? NOTHING : n === all[group] ? ALL : PART))
}

/** Bit of a path that a line could not buy by. */
const NO_WAY = 1 << 31

function narrowed(compiled: CompiledTargeting, fits: Uint8Array | null): CompiledTargeting {
  if (!fits) return compiled
  const path = compiled.lanes.path?.slice() ?? new Int32Array(fits.length)
  for (let at = 0; at < fits.length; at++) if (fits[at] === 0) path[at] |= NO_WAY
  return { ...compiled, lanes: { ...compiled.lanes, path } }
}
