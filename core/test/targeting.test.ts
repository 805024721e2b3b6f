import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { COUNTRIES, REGIONS } from '../src/places/index.js'
import { SOURCES } from '../src/market/index.js'
import { DEVICE_TYPES, DISPLAY_SIZES, PROPERTY_CLASSES } from '../src/taxonomy/index.js'
import { Matcher } from '../src/exchange/index.js'
import { DIMENSIONS, compileTargeting, conflicts, explain, failures, targetingSchema, withValues, valuesOf, type Dimension, type Restriction } from '../src/targeting/index.js'
import { sharedDay, smallWorld } from './support/lines.js'

const world = smallWorld()
const { inventory } = world

const values: Record<Dimension, readonly string[]> = {
  where: [...COUNTRIES.map((c) => c.code), ...REGIONS.map((r) => r.code)],
  device: DEVICE_TYPES, size: DISPLAY_SIZES, class: PROPERTY_CLASSES, source: SOURCES.map((s) => s.name),
  property: inventory.properties.map((p) => String(p.index)), placement: inventory.placements.map((p) => String(p.index))
}

const restriction = fc.constantFrom(...DIMENSIONS).chain((dimension) => fc.record({
  dimension: fc.constant(dimension), mode: fc.constantFrom('include' as const, 'exclude' as const),
  values: fc.uniqueArray(fc.constantFrom(...values[dimension]), { minLength: 1, maxLength: 12 })
}))
const targeting = fc.uniqueArray(restriction, { maxLength: 8, selector: (r) => r.dimension + r.mode }).map((restrictions) => ({ restrictions }))

/** The plain reading of a restriction, value by value. */
function holds({ dimension, mode, values: wanted }: Restriction, region: number, device: number, placement: number, source: number): boolean {
  const place = inventory.placements[placement]
  const property = inventory.properties[place.property]
  const own: Record<Dimension, string[]> = {
    where: [REGIONS[region].code, COUNTRIES[REGIONS[region].country].code], device: [DEVICE_TYPES[device]], size: [DISPLAY_SIZES[place.size]],
    class: [property.class], property: [String(property.index)], placement: [String(placement)], source: [SOURCES[source].name]
  }
  return own[dimension].some((value) => wanted.includes(value)) === (mode === 'include')
}

describe('targeting', () => {
  const { rows } = sharedDay(world, 60)

  it('match, explain, the plain reading and the inverted sets give one verdict', () => {
    fc.assert(fc.property(fc.array(targeting, { minLength: 1, maxLength: 40 }), fc.integer({ min: 0, max: rows.count - 200 }), (specs, from) => {
      const compiled = specs.map((spec) => compileTargeting(spec, inventory))
      const matcher = new Matcher(specs, inventory)
      for (let i = from; i < from + 60; i++) {
        const at = [rows.region[i], rows.device[i], rows.placement[i], rows.source[i]] as const
        specs.forEach((spec, l) => {
          const failing = spec.restrictions.filter((r) => !holds(r, ...at))
          expect(explain(compiled[l], ...at)).toEqual(failing)
          expect(failures(compiled[l], ...at) === 0).toBe(failing.length === 0)
          expect(((matcher.word(l >> 5, ...at) >> (l & 31)) & 1) === 1).toBe(failing.length === 0)
        })
      }
    }), { numRuns: 60 })
  })

  it('names what cannot be met', () => {
    const compiled = compileTargeting({ restrictions: [
      { dimension: 'device', mode: 'include', values: ['phone'] }, { dimension: 'size', mode: 'include', values: ['300x600'] },
      { dimension: 'where', mode: 'include', values: ['PT'] }, { dimension: 'where', mode: 'exclude', values: ['PT'] }
    ] }, inventory)
    expect(conflicts(compiled, inventory)).toEqual([
      { first: 0, second: 1, values: [], empty: true },
      { first: 2, second: 3, values: ['PT'], empty: true }
    ])
  })

  it('refuses what it does not know, by name, and more restrictions than bits', () => {
    const message = (restrictions: unknown[]) => {
      try {
        targetingSchema.validateSync({ restrictions })
      } catch (error) {
        return (error as Error).message
      }
      return 'accepted'
    }
    expect(message([{ dimension: 'where', mode: 'include', values: ['PT', 'XX'] }])).toContain('XX')
    expect(message([{ dimension: 'device', mode: 'include', values: [] }])).toContain('needs a value')
    expect(message([{ dimension: 'size', mode: 'include', values: ['300x250'] }, { dimension: 'size', mode: 'include', values: ['728x90'] }])).toContain('Two restrictions')
    expect(message(Array.from({ length: 32 }, () => ({ dimension: 'size', mode: 'include', values: ['300x250'] })))).toContain('32')
    expect(() => compileTargeting({ restrictions: Array.from({ length: 32 }, () => ({ dimension: 'size', mode: 'include', values: ['300x250'] })) }, inventory)).toThrow(RangeError)
  })

  it('changes one restriction and keeps the order', () => {
    const spec = { restrictions: [{ dimension: 'where' as const, mode: 'include' as const, values: ['PT'] }, { dimension: 'device' as const, mode: 'include' as const, values: ['phone'] }] }
    expect(withValues(spec, 'where', 'include', ['ES']).restrictions[0].values).toEqual(['ES'])
    expect(withValues(spec, 'where', 'include', []).restrictions).toHaveLength(1)
    expect(valuesOf(withValues(spec, 'placement', 'exclude', ['7']), 'placement', 'exclude')).toEqual(['7'])
  })
})
