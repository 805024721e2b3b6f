import type { LineDraft } from '../buying/index.js'
import { CODE_FORMS, pathPlacement, positionsOf, type Coded } from '../market/index.js'
import { SHAPES, SHAPE_FORMAT, FORMATS } from '../taxonomy/index.js'
import { LANES, type Catalogue } from '../dimensions/index.js'
import { compileTargeting, conflicts, impossible, type CompiledTargeting, type Conflict } from '../targeting/index.js'

/** What can be told of a line from the market's inventory alone. Floors in micros a thousand. */
export interface Reach {
  conflicts: Conflict[]
  /** Names that nothing in the market has, by the place of their restriction. */
  unknown: { place: number; values: string[] }[]
  /** Places of restrictions that nothing passes. */
  impossible: number[]
  /** Lowest and highest floor of all paths that could match; null where none can. */
  floors: { least: number; most: number } | null
  /** Numbers of ads that are narrowed to what their line leaves out. */
  neverShown: number[]
}

/**
 * @param shapes what its ads fit, in words; all of its format where it has none yet
 * @throws RangeError for targeting that cannot be compiled
 */
export function reachOf(draft: Pick<LineDraft, 'targeting' | 'format' | 'ads'>, shapes: readonly string[], catalogue: Catalogue): Reach {
  const compiled = compileTargeting(draft.targeting, catalogue)
  const { path } = compiled.lanes
  const { inventory } = catalogue
  const format = FORMATS.indexOf(draft.format)
  const fits = SHAPES.map((shape, n) => SHAPE_FORMAT[n] === format && (shapes.length === 0 || shapes.includes(shape)))
  let least = Infinity
  let most = 0
  for (let i = 0; i < inventory.floors.length; i++) {
    if (inventory.sourceWeights[i] <= 0 || (path?.[i] ?? 0) !== 0 || !fits[inventory.placements[pathPlacement(i)].shape]) continue
    const floor = inventory.floors[i] * 1000
    least = Math.min(least, floor)
    most = Math.max(most, floor)
  }
  const positions = positionsOf(inventory)
  const unknown = draft.targeting.restrictions.flatMap(({ dimension, values }, place) => {
    const known = dimension in CODE_FORMS ? positions[dimension as Coded] : null
    const left = known ? values.filter((value) => !known.has(value)) : []
    return left.length > 0 ? [{ place, values: left }] : []
  })
  return {
    unknown,
    conflicts: conflicts(compiled, catalogue),
    impossible: impossible(compiled, catalogue),
    floors: most === 0 ? null : { least, most },
    neverShown: (draft.ads ?? [])
      .filter(({ targeting }) => targeting && meetsNone(compiled, compileTargeting(targeting, catalogue)))
      .map(({ ad }) => ad)
  }
}

/** Whether two specifications pass no value of some lane together. */
function meetsNone(a: CompiledTargeting, b: CompiledTargeting): boolean {
  return LANES.some((lane) => {
    const [one, other] = [a.lanes[lane], b.lanes[lane]]
    return other !== null && !other.some((fails, value) => fails === 0 && (one === null || one[value] === 0))
  })
}
