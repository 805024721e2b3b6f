import {
  DIMENSION_KINDS,
  LANES,
  PERSON_LANES,
  ROW_LANES,
  laneSize,
  type Catalogue,
  type Lane,
  type LaneValues
} from '../dimensions/index.js'
import { CELLULAR, connectionOf } from '../market/index.js'
import { MOST_RESTRICTIONS, type Restriction, type Targeting } from './specification.js'

/**
 * A specification as look-up tables. A set bit says that the restriction of that place in the trader's order fails; no
 * bit set in any of them is a match. A lane that no restriction reads is null.
 */
export interface CompiledTargeting {
  restrictions: readonly Restriction[]
  lanes: Readonly<Record<Lane, Int32Array | null>>
  /** Bit of the restriction by minutes since the last pop, 0 for none; it fails below `sincePop`. */
  sincePopBit: number
  sincePop: number
  /** All of them, where several stand side by side: adjustments of a price may have many. */
  sincePops: readonly { bit: number; minutes: number }[]
}

/** Which values of a lane carry what a restriction names: 1 or 0 for each. */
interface Carried {
  lane: Lane
  carries: Uint8Array
}
const carried = new WeakMap<Catalogue['inventory'], Map<string, Carried[]>>()
/** Restrictions whose tables are kept: an edit changes one of a line's, the others are those of the last question. */
const MOST_CARRIED = 64

function carriedBy(restriction: Restriction, catalogue: Catalogue): Carried[] {
  let known = carried.get(catalogue.inventory)
  if (!known) carried.set(catalogue.inventory, (known = new Map()))
  const key = JSON.stringify([restriction.dimension, restriction.values, restriction.group ?? null, restriction.exact ?? false])
  let found = known.get(key)
  if (!found) {
    const tests = DIMENSION_KINDS[restriction.dimension].tests(restriction, catalogue)
    found = (Object.keys(tests) as Lane[]).map((lane) => {
      const test = tests[lane] as (i: number) => boolean
      const carries = new Uint8Array(laneSize(lane, catalogue.inventory))
      for (let i = 0; i < carries.length; i++) carries[i] = test(i) ? 1 : 0
      return { lane, carries }
    })
    if (known.size >= MOST_CARRIED) known.delete(known.keys().next().value as string)
    known.set(key, found)
  }
  return found
}

/**
 * Compiles a checked specification.
 * @throws RangeError for more restrictions than there are bits
 */
export function compileTargeting(targeting: Targeting, catalogue: Catalogue): CompiledTargeting {
  const { restrictions } = targeting
  if (restrictions.length > MOST_RESTRICTIONS)
    throw new RangeError(`${restrictions.length} restrictions; at most ${MOST_RESTRICTIONS} fit.`)
  const lanes = Object.fromEntries(LANES.map((lane) => [lane, null])) as Record<Lane, Int32Array | null>
  const sincePops: { bit: number; minutes: number }[] = []
  restrictions.forEach((restriction, place) => {
    const bit = 1 << place
    if (restriction.dimension === 'since pop') {
      sincePops.push({ bit, minutes: Math.min(...restriction.values.map(Number)) })
      return
    }
    const failsOn = restriction.mode === 'exclude' ? 1 : 0
    for (const { lane, carries } of carriedBy(restriction, catalogue)) {
      const table = (lanes[lane] ??= new Int32Array(carries.length))
      for (let i = 0; i < table.length; i++) if (carries[i] === failsOn) table[i] |= bit
    }
  })
  return { restrictions, lanes, sincePopBit: sincePops[0]?.bit ?? 0, sincePop: sincePops[0]?.minutes ?? 0, sincePops }
}

/** Bits of the restrictions that fail; 0 is a match. */
export function failures({ lanes, sincePopBit, sincePop }: CompiledTargeting, values: LaneValues): number {
  let bits = values.sincePop < sincePop ? sincePopBit : 0
  for (const lane of PERSON_LANES) bits |= lanes[lane]?.[values[lane]] ?? 0
  for (const lane of ROW_LANES) bits |= lanes[lane]?.[values[lane]] ?? 0
  const network = connectionOf(values.state) === CELLULAR ? 'cell' : 'fixed'
  return bits | (lanes[network]?.[values[network]] ?? 0)
}

/** Whether all restrictions hold. */
export function matches(compiled: CompiledTargeting, values: LaneValues): boolean {
  return failures(compiled, values) === 0
}

/** The restrictions that fail, in the trader's order. Empty for a match. */
export function explain(compiled: CompiledTargeting, values: LaneValues): Restriction[] {
  const bits = failures(compiled, values)
  return compiled.restrictions.filter((_, place) => (bits >> place) & 1)
}
