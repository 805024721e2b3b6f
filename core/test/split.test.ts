import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { adviseSplit, companyOf, valueAt, type SplitCurve } from '../src/forecast/index.js'
import { buildTape } from '../src/tape/index.js'
import { smallWorld, targetingOf } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const curve = (line: number, values: number[]): SplitCurve => ({
  line,
  points: values.map((value, n) => ({ dailyMicros: n * 1_000_000, spendMicros: n * 1_000_000, wins: value, value }))
})

describe('the split of a day’s money', () => {
  it('goes where it buys most, and stops where it buys nothing', () => {
    const advised = adviseSplit([curve(1, [0, 10, 12, 12, 12]), curve(2, [0, 6, 12, 18, 18])], 4_000_000)
    expect([advised.get(1), advised.get(2)]).toEqual([1_000_000, 3_000_000])
    expect([...adviseSplit([curve(1, [0, 5, 5, 5, 5])], 4_000_000).values()]).toEqual([1_000_000])
    expect([...adviseSplit([curve(1, [0, 0, 0])], 2_000_000).values()]).toEqual([0])
  })

  it('finds a line that pays off only beyond a first step', () => {
    const advised = adviseSplit([curve(1, [0, 1, 2, 3, 4]), curve(2, [0, 0, 0, 20, 20])], 4_000_000)
    expect([advised.get(1), advised.get(2)]).toEqual([1_000_000, 3_000_000])
  })

  it('is within the money, and buys at least what an even split buys of curves that flatten', () => {
    const flattening = fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 4, maxLength: 4 }).map((steps) => {
      const falling = [...steps].sort((a, b) => b - a)
      return [0, ...falling.map((_, n) => falling.slice(0, n + 1).reduce((sum, step) => sum + step, 0))]
    })
    fc.assert(
      fc.property(fc.array(flattening, { minLength: 1, maxLength: 4 }), (values) => {
        const curves = values.map((value, n) => curve(n, value))
        const advised = adviseSplit(curves, 4_000_000)
        const total = [...advised.values()].reduce((sum, micros) => sum + micros, 0)
        expect(total).toBeLessThanOrEqual(4_000_000)
        const bought = curves.reduce((sum, one) => sum + valueAt(one, advised.get(one.line) ?? 0), 0)
        const even = curves.reduce((sum, one) => sum + valueAt(one, 4_000_000 / curves.length), 0)
        // Money is given in fortieths: an even split may fall between two.
        expect(bought).toBeGreaterThanOrEqual(even * 0.97 - 1e-9)
      })
    )
  })

  it('is asked of the tape: more money never buys less, and a line shares all with itself and nothing across countries', () => {
    const world = smallWorld()
    const tape = buildTape(world, 59)
    const ask = (where: string[], over = {}) => question({ targeting: targetingOf(where), ...over })
    const { curves, overlaps } = companyOf(
      [
        { line: 1, question: ask(['DE', 'FR']) },
        { line: 2, question: ask(['FR']) },
        { line: 3, question: ask(['ES']) }
      ],
      400_000,
      'wins',
      tape,
      marketOf(world),
      () => false
    )
    for (const { points } of curves) {
      expect(points[0].value).toBe(0)
      points.forEach((point, n) => expect(point.spendMicros).toBeLessThanOrEqual(point.dailyMicros * 1.001 + (n === 0 ? 0 : 1)))
      for (let n = 1; n < points.length; n++) expect(points[n].wins).toBeGreaterThanOrEqual(points[n - 1].wins * 0.999)
    }
    const overlapOf = (first: number, second: number) => overlaps.find((one) => one.first === first && one.second === second)
    expect(overlapOf(1, 2)?.opportunitiesADay).toBeCloseTo(overlapOf(2, 2)?.opportunitiesADay ?? 0, 6)
    expect(overlapOf(1, 2)?.people).toBe(overlapOf(2, 2)?.people)
    expect([overlapOf(1, 3)?.opportunitiesADay, overlapOf(2, 3)?.people]).toEqual([0, 0])
    expect(() => companyOf([{ line: 1, question: ask(['DE']) }], 1, 'wins', tape, marketOf(world), () => true)).toThrow('cancelled')
  })
})
