import { FORMATS, SHAPE_FORMAT } from '../taxonomy/index.js'
import { exactLog } from '../random/index.js'
import type { Placement } from './placement.js'

/** Placements by price among those of their format, in quarters: the dearer, the more rivals. */
export const RIVAL_LEVELS = 4
/** How often 1, 2, ... 12 rivals bid, by level. */
export const RIVAL_COUNTS: readonly (readonly number[])[] = [
  [22, 26, 22, 14, 9, 5, 2, 0, 0, 0, 0, 0],
  [10, 18, 22, 20, 14, 9, 5, 2, 0, 0, 0, 0],
  [3, 8, 14, 18, 19, 16, 11, 7, 4, 0, 0, 0],
  [0, 2, 5, 9, 13, 16, 17, 14, 11, 7, 4, 2]
]
/** More rivals, dearer best bid: by their number. */
export const RIVAL_LIFT = [0, 0.76, 0.84, 0.9, 0.95, 0.99, 1.02, 1.05, 1.08, 1.1, 1.12, 1.14, 1.16]

/** Logarithm of what rivals lift a price by in the mean, by level. */
export const LEVEL_LIFTS = RIVAL_COUNTS.map((counts) => {
  const all = counts.reduce((sum, count) => sum + count, 0)
  return counts.reduce((sum, count, n) => sum + (count / all) * exactLog(RIVAL_LIFT[n + 1]), 0)
})

/** Quarter of each placement's price among those of its format. */
export function rivalLevels(placements: readonly Placement[]): Uint8Array {
  const levels = new Uint8Array(placements.length)
  FORMATS.forEach((_, format) => {
    const own = placements.filter(({ shape }) => SHAPE_FORMAT[shape] === format).sort((a, b) => a.price - b.price || a.index - b.index)
    own.forEach(({ index }, n) => (levels[index] = Math.floor((n * RIVAL_LEVELS) / own.length)))
  })
  return levels
}
