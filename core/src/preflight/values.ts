import { valueWords } from '../buying/index.js'
import type { Dimension } from '../dimensions/index.js'

/** The first values of a restriction in words, and how many more there are. */
export const sayValues = (dimension: Dimension, values: readonly string[]) =>
  `${values
    .slice(0, 3)
    .map((value) => valueWords(dimension, value))
    .join(', ')}${values.length > 3 ? ` and ${values.length - 3} more` : ''}`

/** Values but some: restrictions have thousands of them. */
export function without(values: readonly string[], others: readonly string[]): string[] {
  const gone = new Set(others)
  return values.filter((value) => !gone.has(value))
}
