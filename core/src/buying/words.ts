import { findCountry, findRegion } from '../places/index.js'
import { DEVICE_NAMES, deviceWords, type DeviceType } from '../taxonomy/index.js'
import type { Restriction } from '../targeting/index.js'

/** A value of a dimension as people say it. */
export function valueWords(dimension: Restriction['dimension'], value: string): string {
  if (dimension === 'where') {
    const [lat, lon, km] = value.startsWith('near:') ? value.slice(5).split(',') : []
    return km
      ? `${km} km round ${lat}, ${lon}`
      : (findCountry(value)?.name ?? findRegion(value)?.name ?? value.replace(/^(metro|city|post):/, ''))
  }
  if (dimension === 'language' || dimension === 'browser language') return languageName(value)
  if (dimension === 'since pop') return `no pop for ${value} minutes`
  if (dimension === 'viewability') return `at least ${value} % viewable`
  if (dimension === 'grade') return `${value} or better`
  if (dimension === 'device') return DEVICE_NAMES[value as DeviceType] ? deviceWords(value as DeviceType) : value
  return value
}

const languageNames = new Intl.DisplayNames('en', { type: 'language' })
/** English name of an ISO 639-1 code. */
export function languageName(code: string): string {
  return languageNames.of(code) ?? code
}

const NOUNS: Readonly<Partial<Record<Restriction['dimension'], string>>> = {
  placement: 'placement',
  property: 'property',
  publisher: 'publisher'
}

/** A restriction's values in words; numbers of placements and properties are counted, not listed. */
export function restrictionWords({ dimension, mode, values }: Restriction): string {
  const noun = NOUNS[dimension]
  const plural = noun === 'property' ? 'properties' : `${noun}s`
  const words = noun
    ? `${values.length} ${values.length === 1 ? noun : plural}`
    : values.map((value) => valueWords(dimension, value)).join(', ')
  return mode === 'exclude' ? `without ${words}` : words
}
