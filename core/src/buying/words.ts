import { findCountry, findRegion } from '../places/index.js'
import { DEVICE_NAMES, type DeviceType } from '../taxonomy/index.js'
import type { Restriction } from '../targeting/index.js'

/** A value of a dimension as people say it. */
export function valueWords(dimension: Restriction['dimension'], value: string): string {
  if (dimension === 'where') return findCountry(value)?.name ?? findRegion(value)?.name ?? value
  if (dimension === 'device') return DEVICE_NAMES[value as DeviceType]?.toLowerCase() ?? value
  return value
}

const NOUNS: Readonly<Partial<Record<Restriction['dimension'], string>>> = { placement: 'placement', property: 'property' }

/** A restriction's values in words; numbers of placements and properties are counted, not listed. */
export function restrictionWords({ dimension, mode, values }: Restriction): string {
  const noun = NOUNS[dimension]
  const plural = noun === 'property' ? 'properties' : `${noun}s`
  const words = noun ? `${values.length} ${values.length === 1 ? noun : plural}` : values.map((value) => valueWords(dimension, value)).join(', ')
  return mode === 'exclude' ? `without ${words}` : words
}
