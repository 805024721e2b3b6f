import { COUNTRIES, REGIONS } from '../places/index.js'
import { DEVICE_TYPES, DISPLAY_SIZES } from '../taxonomy/index.js'
import { SOURCES, type Inventory } from '../market/index.js'
import { type Dimension, type Restriction, type Targeting, MOST_RESTRICTIONS } from './specification.js'

/**
 * A specification as four look-up tables, by region, device, placement and source. A set bit says that the
 * restriction of that place in the trader's order fails; no bit set in any of the four is a match.
 */
export interface CompiledTargeting {
  restrictions: readonly Restriction[]
  region: Int32Array
  device: Int32Array
  placement: Int32Array
  source: Int32Array
}

type TableName = 'region' | 'device' | 'placement' | 'source'
const TABLE_OF: Readonly<Record<Dimension, TableName>> = {
  where: 'region', device: 'device', source: 'source', size: 'placement', class: 'placement', property: 'placement', placement: 'placement'
}

/** Whether entry `i` of a dimension's table carries the value. */
function carries(dimension: Dimension, inventory: Inventory, i: number): (values: ReadonlySet<string>) => boolean {
  switch (dimension) {
    case 'where': return (values) => values.has(REGIONS[i].code) || values.has(COUNTRIES[REGIONS[i].country].code)
    case 'device': return (values) => values.has(DEVICE_TYPES[i])
    case 'source': return (values) => values.has(SOURCES[i].name)
    case 'size': return (values) => values.has(DISPLAY_SIZES[inventory.placements[i].size])
    case 'class': return (values) => values.has(inventory.properties[inventory.placements[i].property].class)
    case 'property': return (values) => values.has(String(inventory.placements[i].property))
    case 'placement': return (values) => values.has(String(i))
  }
}

/**
 * Compiles a checked specification.
 * @throws RangeError for more restrictions than there are bits
 */
export function compileTargeting(targeting: Targeting, inventory: Inventory): CompiledTargeting {
  const { restrictions } = targeting
  if (restrictions.length > MOST_RESTRICTIONS) throw new RangeError(`${restrictions.length} restrictions; at most ${MOST_RESTRICTIONS} fit.`)
  const compiled: CompiledTargeting = {
    restrictions,
    region: new Int32Array(REGIONS.length),
    device: new Int32Array(DEVICE_TYPES.length),
    placement: new Int32Array(inventory.placements.length),
    source: new Int32Array(SOURCES.length)
  }
  restrictions.forEach(({ dimension, mode, values }, place) => {
    const table = compiled[TABLE_OF[dimension]]
    const set = new Set(values)
    for (let i = 0; i < table.length; i++) {
      if (carries(dimension, inventory, i)(set) === (mode === 'exclude')) table[i] |= 1 << place
    }
  })
  return compiled
}

/** Bits of the restrictions that fail; 0 is a match. */
export function failures(compiled: CompiledTargeting, region: number, device: number, placement: number, source: number): number {
  return compiled.region[region] | compiled.device[device] | compiled.placement[placement] | compiled.source[source]
}

/** The restrictions that fail, in the trader's order. Empty for a match. */
export function explain(compiled: CompiledTargeting, region: number, device: number, placement: number, source: number): Restriction[] {
  const bits = failures(compiled, region, device, placement, source)
  return compiled.restrictions.filter((_, place) => (bits >> place) & 1)
}

export interface Conflict {
  /** Places of the two restrictions in the trader's order. */
  first: number
  second: number
  /** Values that both name, when one includes and the other excludes the same dimension. */
  values: string[]
  /** True when no opportunity can meet both. */
  empty: boolean
}

/** Pairs of restrictions that no opportunity can meet, and values both included and excluded. */
export function conflicts(compiled: CompiledTargeting, inventory: Inventory): Conflict[] {
  const found: Conflict[] = []
  const { restrictions } = compiled
  const passing = (place: number): number[] => {
    const table = compiled[TABLE_OF[restrictions[place].dimension]]
    return Array.from(table.keys()).filter((i) => !((table[i] >> place) & 1))
  }
  for (let first = 0; first < restrictions.length; first++) {
    for (let second = first + 1; second < restrictions.length; second++) {
      const a = restrictions[first]
      const b = restrictions[second]
      const values = a.dimension === b.dimension ? a.values.filter((value) => b.values.includes(value)) : []
      const empty = !meet(TABLE_OF[a.dimension], passing(first), TABLE_OF[b.dimension], passing(second), inventory)
      if (values.length > 0 || empty) found.push({ first, second, values, empty })
    }
  }
  return found
}

/** Whether entries of two tables can occur in one opportunity. */
function meet(a: TableName, inA: readonly number[], b: TableName, inB: readonly number[], inventory: Inventory): boolean {
  if (inA.length === 0 || inB.length === 0) return false
  if (a === b) return inA.some((i) => inB.includes(i))
  const pick = (name: TableName) => (a === name ? inA : b === name ? inB : undefined)
  const placements = pick('placement')
  const devices = pick('device')
  const sources = pick('source')
  if (placements && devices) return placements.some((p) => devices.some((d) => (inventory.placements[p].devices >> d) & 1))
  if (placements && sources) return placements.some((p) => sources.some((s) => inventory.sourceWeights[p * SOURCES.length + s] > 0))
  return true
}
