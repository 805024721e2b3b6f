import { DISPLAY_SIZES, type Grade } from '../taxonomy/index.js'
import { gradeOf, type Inventory, type PublishedMeasures } from '../market/index.js'
import { TAPE_DAYS, type Tape } from '../tape/index.js'
import { compileTargeting, type Targeting } from '../targeting/index.js'

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

/** Counts the properties that traffic of a specification is found on; those without any are left out. */
export function propertyTable(targeting: Targeting, tape: Tape, inventory: Inventory, measures: PublishedMeasures): PropertyRow[] {
  const compiled = compileTargeting(targeting, inventory)
  const { region, device, placement, source, floor, rival } = tape.rows
  const properties = inventory.properties.map(() => ({ rows: 0, people: 0, last: -1, floor: 0xffffffff, viewable: 0, bots: 0, score: 0, prices: [] as number[], sizes: new Set<number>() }))
  for (let person = 0; person < tape.peopleCount; person++) {
    const end = tape.starts[person + 1]
    let i = tape.starts[person]
    if (i === end || compiled.region[region[i]] !== 0) continue
    for (; i < end; i++) {
      const p = placement[i]
      if ((compiled.placement[p] | compiled.device[device[i]] | compiled.source[source[i]]) !== 0) continue
      const row = properties[inventory.placements[p].property]
      row.rows++
      if (row.last !== person) row.people++
      row.last = person
      if (floor[i] < row.floor) row.floor = floor[i]
      row.viewable += measures.viewable[p]
      row.bots += measures.bots[p]
      row.score += measures.score[p]
      row.sizes.add(inventory.placements[p].size)
      row.prices.push(Math.max(floor[i], rival[i]))
    }
  }
  return properties.flatMap((row, property): PropertyRow[] => (row.rows === 0 ? [] : [{
    property,
    opportunitiesADay: (row.rows * tape.sample) / TAPE_DAYS,
    people: row.people * tape.sample,
    floorMicros: row.floor * 1000,
    clearingMicros: median(row.prices) * 1000,
    viewability: row.viewable / row.rows / 100,
    bots: row.bots / row.rows / 100,
    grade: gradeOf(row.score / row.rows, measures.fifths),
    sizes: [...row.sizes].sort((a, b) => a - b).map((size) => DISPLAY_SIZES[size])
  }]))
}

/** Median; the lower of the two middle values for an even number. */
function median(values: number[]): number {
  const sorted = Float64Array.from(values).sort()
  return sorted[(sorted.length - 1) >> 1]
}
