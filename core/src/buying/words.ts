import { DIMENSION_KINDS, type Dimension } from '../dimensions/index.js'
import type { Restriction } from '../targeting/index.js'

/** A value of a dimension as people say it. */
export function valueWords(dimension: Dimension, value: string): string {
  return DIMENSION_KINDS[dimension].words?.(value) ?? value
}

/** More placements, properties or publishers than a sentence names. */
const MOST_SAID = 2
/** How many placements, properties or publishers there are, where they are too many to be named; null for few, and for other dimensions. */
export function countWords(dimension: Dimension, count: number): string | null {
  const { counted } = DIMENSION_KINDS[dimension]
  return counted && count > MOST_SAID ? `${count} ${counted[1]}` : null
}

/** A restriction's values in words. */
export function restrictionWords({ dimension, mode, values }: Restriction): string {
  const words = countWords(dimension, values.length) ?? values.map((value) => valueWords(dimension, value)).join(', ')
  return mode === 'exclude' ? `without ${words}` : words
}
