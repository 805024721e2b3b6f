import { GRADES, SHAPES, shapesOf, type Format, type Grade } from '../taxonomy/index.js'
import { CELLULAR, PERSON_WORDS, SOURCES } from '../market/index.js'
import { TAPE_DAYS, type Tape } from '../tape/index.js'
import { compileTargeting, type Catalogue, type Targeting } from '../targeting/index.js'
import { cellFailures, fixedFailures, fullLanes, personFailures } from './matched.js'
import { PRICE_BINS, binMedian, priceBin } from './price-bins.js'

/** A property as the Market table shows it, for the traffic asked about. */
export interface PropertyRow {
  property: number
  opportunitiesADay: number
  /** Different people in the 14 days of the tape. */
  people: number
  /** Lowest floor met, micros a thousand. */
  floorMicros: number
  /** Median of max(floor, best rival), micros a thousand. */
  clearingMicros: number
  /** Published by the measurer, shares 0 to 1, weighted by opportunities. */
  viewability: number
  bots: number
  grade: Grade
  sizes: string[]
}

/** Counts the properties that traffic of a specification and a format is found on; those without any are left out. */
export function propertyTable(targeting: Targeting, format: Format, tape: Tape, catalogue: Catalogue): PropertyRow[] {
  const { inventory, measures } = catalogue
  const compiled = compileTargeting(targeting, catalogue)
  const lanes = fullLanes(compiled, inventory, shapesOf(format).map((shape) => SHAPES.indexOf(shape)), { open: true, deals: [] })
  const { words, starts, peopleCount, rows: { path, device, page, state, sincePop, rival } } = tape
  const { floors, placements } = inventory
  const properties = inventory.properties.map(() => ({ rows: 0, people: 0, last: -1, floor: 0xffffffff, viewable: 0, bots: 0, grade: 0, prices: null as Uint32Array | null, shapes: new Set<number>() }))
  for (let person = 0; person < peopleCount; person++) {
    const end = starts[person + 1]
    let i = starts[person]
    if (i === end || personFailures(lanes, words, person) !== 0) continue
    const word2 = words[person * PERSON_WORDS + 2]
    const cell = cellFailures(lanes, word2)
    const fixed = fixedFailures(lanes, word2)
    for (; i < end; i++) {
      const at = path[i]
      if ((lanes.path[at] | lanes.device[device[i]] | lanes.page[page[i]] | lanes.state[state[i]] | (((state[i] >> 3) & 3) === CELLULAR ? cell : fixed)) !== 0 || sincePop[i] < compiled.sincePop) continue
      const p = Math.floor(at / SOURCES.length)
      const row = properties[placements[p].property]
      row.rows++
      if (row.last !== person) row.people++
      row.last = person
      if (floors[at] < row.floor) row.floor = floors[at]
      row.viewable += measures.viewable[p]
      row.bots += measures.bots[p]
      row.grade += measures.grade[p]
      row.shapes.add(placements[p].shape)
      row.prices ??= new Uint32Array(PRICE_BINS)
      row.prices[priceBin(Math.max(floors[at], rival[i]))]++
    }
  }
  return properties.flatMap((row, property): PropertyRow[] => (row.rows === 0 ? [] : [{
    property,
    opportunitiesADay: (row.rows * tape.sample) / TAPE_DAYS,
    people: row.people * tape.sample,
    floorMicros: row.floor * 1000,
    clearingMicros: binMedian(row.prices ?? []) * 1000,
    viewability: row.viewable / row.rows / 100,
    bots: row.bots / row.rows / 100,
    grade: GRADES[Math.round(row.grade / row.rows)],
    sizes: [...row.shapes].sort((a, b) => a - b).map((shape) => SHAPES[shape])
  }]))
}
