import { describe, expect, it } from 'vitest'
import {
  NO_LIMITS,
  countRange,
  dailySpread,
  mainFigures,
  ratioRange,
  smallRange,
  variedRange,
  workOut,
  type ForecastQuestion
} from '../src/forecast/index.js'
import { makeWorld } from '../src/market/index.js'
import { gammaQuantile, gammaShare } from '../src/report/index.js'
import { GROUPS, buildTape } from '../src/tape/index.js'
import { SMALL, smallWorld } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const world = smallWorld()
const tape = buildTape(world, 59)
const market = marketOf(world)
const never = () => false
const figures = (q: ForecastQuestion) => mainFigures(workOut(q, tape, market, never), never)

describe('ranges', () => {
  it('groups hold alike many people, whoever is on the tape', () => {
    const wide = buildTape(makeWorld({ ...SMALL, people: 40_000 }), 59)
    const counts = new Array<number>(GROUPS).fill(0)
    for (const group of wide.group) counts[group]++
    for (const count of counts) {
      expect(count / wide.peopleCount).toBeGreaterThan(0.025)
      expect(count / wide.peopleCount).toBeLessThan(0.038)
    }
  })

  it('follow the formula of the design', () => {
    const totals = Float64Array.from({ length: GROUPS }, (_, g) => 100 + (g % 5))
    const sum = totals.reduce((a, b) => a + b, 0)
    const mean = sum / 32
    const value = 28 * sum
    const variance =
      28 * 28 * (32 / 31) * totals.reduce((total, t) => total + (t - mean) ** 2, 0) +
      1.5 * value +
      value ** 2 * 0.02 ** 2 * (1 / 7 + 1 / 14)
    const range = countRange(totals, { sample: 28, horizon: 7, sd: 0.02 })
    expect(range.value).toBe(value)
    expect(range.high - value).toBeCloseTo(1.31 * Math.sqrt(variance), 6)
    expect(value - range.low).toBeCloseTo(1.31 * Math.sqrt(variance), 6)
    expect(smallRange(0, 0, 14)).toEqual({ value: 0, low: 0, high: 1.15 * 28 * 1.5 })
    expect(
      ratioRange(
        totals.map((t) => t / 4),
        totals
      )
    ).toMatchObject({ value: 0.25, low: expect.closeTo(0.25, 9) })
    const still = { value: 100, without: new Array<number>(32).fill(100), up: 100, down: 100, draws: [] }
    expect(variedRange(still, 9).high).toBeCloseTo(100 + 1.31 * 3, 9)
    // Draws of a rate move the middle and widen the range; days widen it by half of what they move.
    expect(variedRange({ ...still, draws: [100, 108] }, 9)).toEqual({
      value: 104,
      low: expect.closeTo(104 - 1.31 * 5, 9),
      high: expect.closeTo(104 + 1.31 * 5, 9)
    })
    expect(variedRange({ ...still, up: 104, down: 96 }, 9).high).toBeCloseTo(100 + 1.31 * 5, 9)
    // Of few it is that of a gamma distribution with the same mean and variance: 2 and 2 are shape 2, scale 1.
    const few = variedRange({ ...still, value: 2, without: new Array<number>(32).fill(2), up: 2, down: 2 }, 2)
    expect([few.low, few.high]).toEqual([expect.closeTo(0.5318, 3), expect.closeTo(3.8897, 3)])
  })

  it('gamma quantiles are those of tables', () => {
    // Chi-square with 2 degrees of freedom is gamma with shape 1 and scale 2: median 1.386, 90 % 4.605; with 10: 15.987.
    expect(gammaQuantile(0.5, 1, 2)).toBeCloseTo(1.3863, 3)
    expect(gammaQuantile(0.9, 1, 2)).toBeCloseTo(4.6052, 3)
    expect(gammaQuantile(0.9, 5, 2)).toBeCloseTo(15.987, 2)
    expect(gammaShare(3, 3)).toBeCloseTo(0.5768, 3)
  })

  it('the spread of days is read from all traffic, weekdays taken out', () => {
    const traffic = new Uint32Array(5 * 24 * 14)
    for (let day = 0; day < 14; day++) traffic[day] = day % 7 === 6 ? 2000 : 1000
    expect(dailySpread({ traffic }, 0, [0])).toBe(0)
    traffic[0] = 1100
    expect(dailySpread({ traffic }, 0, [0])).toBeCloseTo(Math.sqrt((2 * (50 / 1050) ** 2) / 7), 9)
    expect(dailySpread({ traffic }, 0, [])).toBeCloseTo(Math.sqrt((2 * (50 / 1050) ** 2) / 7), 9)
  })

  it('hold every figure, and narrow where a budget decides', () => {
    const free = figures(question())
    for (const period of [free.day, free.flight]) {
      for (const [name, figure] of Object.entries(period)) {
        if (figure === null || typeof figure !== 'object' || !('low' in figure)) continue
        expect([name, figure.low <= figure.value && figure.value <= figure.high]).toEqual([name, true])
      }
    }
    const bound = figures(question({ limits: { ...NO_LIMITS, dailyMicros: 100_000 } }))
    const width = (figure: { value: number; low: number; high: number }) => (figure.high - figure.low) / figure.value
    expect(width(bound.day.spend)).toBeLessThan(width(free.day.spend) / 2)
  })
})
