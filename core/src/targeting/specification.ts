import * as yup from 'yup'
import { findCountry, findRegion } from '../places/index.js'
import { DEVICE_TYPES, DISPLAY_SIZES, PROPERTY_CLASSES } from '../taxonomy/index.js'
import { SOURCES } from '../market/index.js'

/**
 * What a line is restricted to. Inside a restriction the values are alternatives; all restrictions must hold; an
 * exclusion always wins. The order is the trader's: the sieve shows it, and each restriction takes the bit of its place.
 */
export const DIMENSIONS = ['where', 'device', 'size', 'class', 'property', 'placement', 'source'] as const
export type Dimension = (typeof DIMENSIONS)[number]

export interface Restriction {
  dimension: Dimension
  mode: 'include' | 'exclude'
  /** Codes or names of the dimension; properties and placements by number, written as text. */
  values: string[]
}

export interface Targeting {
  restrictions: Restriction[]
}

/** Restrictions must fit the bits of one signed 32-bit integer. */
export const MOST_RESTRICTIONS = 31

const KNOWN: Readonly<Record<Dimension, (value: string) => boolean>> = {
  where: (value) => findCountry(value) !== undefined || findRegion(value) !== undefined,
  device: (value) => (DEVICE_TYPES as readonly string[]).includes(value),
  size: (value) => (DISPLAY_SIZES as readonly string[]).includes(value),
  class: (value) => (PROPERTY_CLASSES as readonly string[]).includes(value),
  source: (value) => SOURCES.some((source) => source.name === value),
  property: (value) => /^\d{1,6}$/.test(value),
  placement: (value) => /^\d{1,6}$/.test(value)
}

const NOUNS: Readonly<Record<Dimension, string>> = {
  where: 'country or region code', device: 'device type', size: 'slot size', class: 'property class',
  property: 'property number', placement: 'placement number', source: 'supply source'
}

const restrictionSchema = yup.object({
  dimension: yup.string().oneOf(DIMENSIONS).required(),
  mode: yup.string().oneOf(['include', 'exclude'] as const).required(),
  values: yup.array().of(yup.string().required()).min(1, 'A restriction needs a value.').max(2000).required()
    .test('known', '', function (values) {
      const dimension = (this.parent as Restriction).dimension
      const wrong = values?.filter((value) => !KNOWN[dimension]?.(value)) ?? []
      return wrong.length === 0 || this.createError({ message: `Not a ${NOUNS[dimension]} we know: ${wrong.slice(0, 5).join(', ')}.` })
    })
}).noUnknown()

export const targetingSchema: yup.ObjectSchema<Targeting> = yup.object({
  restrictions: yup.array().of(restrictionSchema).required()
    .test('bits', '', function (restrictions) {
      const count = restrictions?.length ?? 0
      return count <= MOST_RESTRICTIONS || this.createError({ message: `A line takes at most ${MOST_RESTRICTIONS} restrictions; this one has ${count}.` })
    })
    .test('once', '', function (restrictions) {
      const seen = new Set<string>()
      for (const { dimension, mode } of restrictions ?? []) {
        if (seen.has(dimension + mode)) return this.createError({ message: `Two restrictions ${mode} by ${dimension}; put their values into one.` })
        seen.add(dimension + mode)
      }
      return true
    })
}).noUnknown()

/** The values a line includes (or excludes) of a dimension; empty when it has no such restriction. */
export function valuesOf(targeting: Targeting, dimension: Dimension, mode: Restriction['mode'] = 'include'): readonly string[] {
  return targeting.restrictions.find((r) => r.dimension === dimension && r.mode === mode)?.values ?? []
}

/** A copy in which a dimension's restriction has these values; it keeps its place, and goes when there are none. */
export function withValues(targeting: Targeting, dimension: Dimension, mode: Restriction['mode'], values: readonly string[]): Targeting {
  const isIt = (r: Restriction) => r.dimension === dimension && r.mode === mode
  const next = { dimension, mode, values: [...values] }
  const restrictions = targeting.restrictions.some(isIt)
    ? targeting.restrictions.map((r) => (isIt(r) ? next : r))
    : [...targeting.restrictions, next]
  return { restrictions: restrictions.filter((r) => r.values.length > 0) }
}
