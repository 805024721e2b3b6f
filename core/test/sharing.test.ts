import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Exchange, fillShares, type CampaignRules, type LineRules, type Sharer } from '../src/exchange/index.js'
import { START, campaignRules, lineRules, one, opening, runHours, sharedDay, smallWorld, targetingOf } from './support/lines.js'

const sharers = fc.array(
  fc.record({
    weight: fc.integer({ min: 0, max: 5_000_000 }),
    spent: fc.integer({ min: 0, max: 400_000 }),
    room: fc.oneof(fc.integer({ min: 0, max: 3_000_000 }), fc.constant(Infinity))
  }),
  { minLength: 1, maxLength: 9 }
)
const sum = (values: readonly number[]) => values.reduce((all, value) => all + value, 0)

describe('a day that lines share', () => {
  it('is used to the last unit while a line could use it, and nobody has less than it spent or more than it could use', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4_000_000 }), sharers, (total, lines: Sharer[]) => {
        const shares = fillShares(total, lines)
        shares.forEach((share, n) => {
          expect(Number.isInteger(share)).toBe(true)
          expect(share).toBeGreaterThanOrEqual(lines[n].spent)
          expect(share).toBeLessThanOrEqual(lines[n].spent + lines[n].room)
        })
        const could = sum(lines.map(({ spent, room }) => spent + room))
        const spent = sum(lines.map((line) => line.spent))
        expect(sum(shares)).toBe(Math.max(spent, Math.min(total, could)))
      }),
      { numRuns: 500 }
    )
  })

  it('goes by what lines could spend where nothing holds them, and one that needs less leaves its part to the others', () => {
    const line = (weight: number, room = Infinity, spent = 0): Sharer => ({ weight, room, spent })
    expect(fillShares(100, [line(1000), line(3000)])).toEqual([25, 75])
    expect(fillShares(100, [line(1000), line(3000, 30)])).toEqual([70, 30])
    expect(fillShares(100, [line(1000, 0, 60), line(1000)])).toEqual([60, 40])
    expect(fillShares(100, [line(1000, 10), line(1000, 20)])).toEqual([10, 20])
    expect(fillShares(10, [line(0), line(0)])).toEqual([5, 5])
    expect(fillShares(50, [line(1000, 5, 80), line(1000, 5)])).toEqual([80, 0])
  })
})

describe('a campaign', () => {
  const hours = 48
  const run = (campaign: CampaignRules, lines: LineRules[]) => {
    const owners = lines.map(({ line, zone }) => ({ line, campaign: 1, advertiser: 1, zone }))
    const facts = runHours(
      new Exchange(smallWorld(), { ...one(lines[0]), lines, owners, campaigns: [campaign] }, opening(), sharedDay),
      hours
    )
    const spent = (line: number, day: number) =>
      sum(
        facts
          .slice(day * 24, day * 24 + 24)
          .flatMap(({ hourTotals }) => hourTotals.filter((total) => total.line === line).map(({ spendMicros }) => spendMicros))
      )
    return { day: (n: number) => sum(lines.map(({ line }) => spent(line, n))), spent }
  }
  // By UTC, so that a day is a day of the run.
  const line = (number: number, over: Parameters<typeof lineRules>[1]) =>
    lineRules(number, { zone: 'UTC', caps: [], demandMicros: 1_000_000, ...over })
  const budget = (dailyMicros: number) => campaignRules({ zone: 'UTC', dailyMicros })
  const wide = { targeting: { restrictions: [] } }

  it('spends its day though a line has a limit of its own, another finds little, and what was forecast of both was wrong', () => {
    const alone = run(budget(1e12), [line(1, wide)]).day(0)
    const daily = Math.floor(alone * 0.3)
    const lines = [
      line(1, { ...wide, demandMicros: alone / 2 }),
      line(2, { targeting: targetingOf(['PT'], ['tablet']), demandMicros: alone * 2 }),
      line(3, { targeting: targetingOf(['ES']), demandMicros: alone, dailyMicros: Math.floor(daily * 0.05) })
    ]
    const { day, spent } = run(budget(daily), lines)
    for (const n of [0, 1]) {
      expect(day(n)).toBeLessThan(daily * 1.001)
      expect(day(n)).toBeGreaterThan(daily * 0.97)
    }
    expect(spent(3, 0)).toBeLessThan(daily * 0.051)
  })

  it('leaves its day to a line that begins at noon, and to those of other zones until it ends', () => {
    const alone = run(budget(1e12), [line(1, wide)]).day(0)
    const daily = Math.floor(alone * 0.2)
    const late = line(2, { ...wide, startHour: START + 12, liveFromHour: START + 12, demandMicros: alone })
    const far = line(3, { ...wide, zone: 'America/New_York', demandMicros: alone })
    const { day, spent } = run(budget(daily), [line(1, { ...wide, demandMicros: alone }), late, far])
    expect(day(0)).toBeGreaterThan(daily * 0.97)
    expect(day(1)).toBeGreaterThan(daily * 0.97)
    expect(spent(2, 0)).toBeGreaterThan(daily * 0.05)
    expect(spent(3, 1)).toBeGreaterThan(daily * 0.1)
  })

  it('lets a line of another zone buy whose last hours of a day of its own nothing was forecast of', () => {
    const alone = run(budget(1e12), [line(1, wide)]).day(0)
    // Nothing from 19:00 to midnight in New York: the first hours of the campaign's day.
    const traffic = Array.from({ length: 168 }, (_, hour) => (hour % 24 >= 19 ? 0 : alone / 19))
    const far = line(2, { ...wide, zone: 'America/New_York', pacing: 'traffic', traffic, demandMicros: alone })
    const { spent } = run(budget(Math.floor(alone * 0.2)), [line(1, { ...wide, demandMicros: alone }), far])
    expect(spent(2, 0)).toBeGreaterThan(alone * 0.05)
    expect(spent(2, 1)).toBeGreaterThan(alone * 0.05)
  })
})
