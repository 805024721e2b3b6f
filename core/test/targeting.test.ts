import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Matcher } from '../src/exchange/index.js'
import { DEVICE_TYPES, KEYWORDS, SEGMENTS } from '../src/taxonomy/index.js'
import {
  compileTargeting,
  conflicts,
  explain,
  impossible,
  matches,
  targetingSchema,
  valuesOf,
  withValues,
  type Restriction,
  type Targeting
} from '../src/targeting/index.js'
import { catalogueOf, numbers, sharedDay, smallWorld } from './support/lines.js'
import { factsOf, holds } from './support/plain.js'
import { DIMENSIONS, DIMENSION_GROUPS, laneValues } from '../src/dimensions/index.js'
import { randomRestriction, randomTargeting } from './support/random-targeting.js'

const world = smallWorld()
const catalogue = catalogueOf(world)
const { rows } = sharedDay(world, 60)
const { words } = world.persons
const lanes = (i: number) => laneValues(words, rows.person[i], rows, i)
const include = (dimension: Restriction['dimension'], ...values: string[]): Restriction => ({ dimension, mode: 'include', values })

describe('targeting', () => {
  it.each(DIMENSIONS)('by %s: explain says what a plain reading says', (dimension) => {
    const below = numbers(DIMENSIONS.indexOf(dimension) * 97 + 5)
    for (let n = 0; n < 4; n++) {
      const restriction = randomRestriction(dimension, below)
      expect(targetingSchema.isValidSync({ restrictions: [restriction] })).toBe(true)
      const compiled = compileTargeting({ restrictions: [restriction] }, catalogue)
      const from = below(rows.count - 250)
      for (let i = from; i < from + 250; i++)
        expect(explain(compiled, lanes(i)).length === 0).toBe(holds(restriction, factsOf(catalogue, words, rows.person[i], rows, i)))
    }
  })

  it('match, explain, the plain reading and the inverted sets give one verdict, on many lines at once', () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer({ min: 1, max: 70 }), fc.integer({ min: 0, max: rows.count - 20 }), (seed, lines, from) => {
        const below = numbers(seed)
        const specs = Array.from({ length: lines }, () => randomTargeting(below))
        const compiled = specs.map((spec) => compileTargeting(spec, catalogue))
        const matcher = new Matcher(specs, catalogue)
        matcher.locate(world.persons, rows, from, from + 20)
        for (let i = from; i < from + 20; i++) {
          const facts = factsOf(catalogue, words, rows.person[i], rows, i)
          const found = matcher.match(world.persons, rows, i)
          const matching = new Set<number>()
          for (let f = 0; f < found; f++)
            for (let bit = 0; bit < 32; bit++)
              if ((matcher.foundBits[f] >> bit) & 1 && matcher.foundWord[f] * 32 + bit < lines)
                matching.add(matcher.order[matcher.foundWord[f] * 32 + bit])
          specs.forEach((spec, l) => {
            const failing = spec.restrictions.filter((r) => !holds(r, facts))
            expect(explain(compiled[l], lanes(i))).toEqual(failing)
            expect(matches(compiled[l], lanes(i))).toBe(failing.length === 0)
            expect(matching.has(l)).toBe(failing.length === 0)
          })
        }
      }),
      { numRuns: 20 }
    )
  })

  it('names what cannot be met: pairs of a device and a slot, of places, of networks and of what is both taken and left out', () => {
    const found = (...restrictions: Restriction[]) => conflicts(compileTargeting({ restrictions }, catalogue), catalogue)
    expect(found(include('device', 'phone'), include('size', '300x600'))).toEqual([{ first: 0, second: 1, values: [], empty: true }])
    expect(found(include('where', 'PT'), { dimension: 'where', mode: 'exclude', values: ['PT'] })).toEqual([
      { first: 0, second: 1, values: ['PT'], empty: true }
    ])
    expect(found(include('connection', 'Wi-Fi'), include('carrier', 'Beacon Mobile DE'))).toMatchObject([{ empty: true }])
    expect(found(include('where', 'JP'), include('provider', 'Nimbus Broadband DE'))).toMatchObject([{ empty: true }])
    expect(found(include('class', 'show'), include('category', 'cats'), include('device', 'desktop'))).toEqual([])
    expect(found(include('where', 'DE'), include('language', 'de'), include('device', 'phone'), include('connection', 'cellular'))).toEqual(
      []
    )
    expect(found(include('source', 'Graven'), include('size', 'whole page'))).toMatchObject([{ empty: true }])
  })

  it('no opportunity of a day meets a pair that is said to be empty', () => {
    const below = numbers(8)
    let seen = 0
    for (let n = 0; n < 400; n++) {
      const spec = {
        restrictions: [
          randomRestriction(DIMENSIONS[below(DIMENSIONS.length)], below),
          randomRestriction(DIMENSIONS[below(DIMENSIONS.length)], below)
        ]
      }
      const compiled = compileTargeting(spec, catalogue)
      const said = conflicts(compiled, catalogue).some((conflict) => conflict.empty) || impossible(compiled, catalogue).length > 0
      if (!said) continue
      seen++
      for (let i = 0; i < rows.count; i += 3) if (matches(compiled, lanes(i))) throw new Error(JSON.stringify(spec))
    }
    expect(seen).toBeGreaterThan(3)
  })

  it('a restriction that nothing in the market passes is told by its place', () => {
    const compiled = compileTargeting({ restrictions: [include('where', 'PT'), include('release year', '2029')] }, catalogue)
    expect(impossible(compiled, catalogue)).toEqual([1])
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
    expect(message([include('where', 'PT', 'XX')])).toContain('XX')
    expect(message([include('where', 'near:1,2,900')])).toContain('near:1,2,900')
    expect(message([include('device')])).toContain('needs a value')
    expect(message([include('keyword', 'blunderbuss')])).toContain('blunderbuss')
    expect(message([include('address range', '10.0.0.0/30')])).toContain('22 bits')
    expect(message([include('unwanted', 'bots')])).toContain('only exclude')
    expect(message([{ dimension: 'segments', mode: 'include', values: [], group: { join: 'xor', parts: ['students'] } }])).toContain(
      'and, or or not'
    )
    expect(message([{ dimension: 'segments', mode: 'include', values: [], group: { join: 'or', parts: ['nobody we know'] } }])).toContain(
      'nobody we know'
    )
    expect(message([include('size', '300x250'), include('size', '728x90')])).toContain('Two restrictions')
    const many = Array.from({ length: 32 }, () => include('size', '300x250'))
    expect(message(many)).toContain('32')
    expect(() => compileTargeting({ restrictions: many }, catalogue)).toThrow(RangeError)
  })

  it('has room for every dimension to be included and excluded where that makes sense, 31 in all', () => {
    const restrictions = DIMENSIONS.slice(0, 31).map((dimension) => randomRestriction(dimension, numbers(3)))
    const compiled = compileTargeting({ restrictions }, catalogue)
    const facts = factsOf(catalogue, words, rows.person[7], rows, 7)
    expect(explain(compiled, lanes(7))).toEqual(restrictions.filter((r) => !holds(r, facts)))
    expect(DIMENSION_GROUPS.flatMap((group) => group.dimensions)).toEqual([...DIMENSIONS])
  })

  it('changes one restriction and keeps the order, and the tree of a group', () => {
    const spec: Targeting = {
      restrictions: [
        include('where', 'PT'),
        include('device', 'phone'),
        { dimension: 'segments', mode: 'include', values: [], group: { join: 'and', parts: [SEGMENTS[0].name] } }
      ]
    }
    expect(withValues(spec, 'where', 'include', ['ES']).restrictions[0].values).toEqual(['ES'])
    expect(withValues(spec, 'where', 'include', []).restrictions).toHaveLength(2)
    expect(valuesOf(withValues(spec, 'placement', 'exclude', ['7']), 'placement', 'exclude')).toEqual(['7'])
    expect(DEVICE_TYPES).toHaveLength(6)
    expect(new Set(KEYWORDS.map((keyword) => keyword.word)).size).toBe(KEYWORDS.length)
  })
})
