import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Exchange, Means, NOTHING_TOLD, OUTCOME } from '../src/exchange/index.js'
import { chargedMicros, isCardNumber, isLow, marginAt, moneyTermsSchema, topUpSchema } from '../src/money/index.js'
import { START, campaignRules, lineRules, opening, runHours, sharedDay, smallWorld, winsOf } from './support/lines.js'

const world = smallWorld()
const owners = [1, 2, 3].map((line) => ({ line, campaign: 1, advertiser: line === 3 ? 20 : 10, zone: 'UTC' }))

describe('what lines may spend', () => {
  it('is the balance or what is left to their advertiser, whichever is less; what one pays is gone for all it is shared with', () => {
    const means = new Means([1, 2, 3, 4], owners, 100)
    expect([0, 1, 2, 3].map((place) => means.of(place))).toEqual([100, 100, 100, 100])
    means.begin({
      balanceMicros: 90,
      limits: [
        { advertiser: 10, leftMicros: 50 },
        { advertiser: 77, leftMicros: 1 }
      ]
    })
    means.pay(0, 30)
    expect([0, 1, 2, 3].map((place) => means.of(place))).toEqual([20, 20, 60, 60])
    means.pay(2, 55)
    expect([0, 1, 2, 3].map((place) => means.of(place))).toEqual([5, 5, 5, 5])
    means.begin({ balanceMicros: 7, limits: [] })
    expect(means.of(1)).toBe(7)
  })

  it('is never passed, hour after hour: lines stop and say so, and go on when there is money again', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60_000 }), fc.integer({ min: 0, max: 30_000 }), fc.integer(), (balance, left, seed) => {
        const price = { model: 'CPM' as const, bidMicros: 2_000_000 + Math.abs(seed % 7) * 1_000, maxMicros: null }
        const lines = [1, 2, 3].map((line) => lineRules(line, { pacing: 'fast', price }))
        const exchange = new Exchange(world, { publication: 1, lines, campaigns: [campaignRules()], owners }, opening(), sharedDay)
        let [there, ofFirst] = [balance, left]
        for (let hour = 0; hour < 6; hour++) {
          if (hour === 4) [there, ofFirst] = [there + 50_000, ofFirst + 20_000]
          const begun = Math.min(there, ofFirst)
          const facts = exchange.runHour(undefined, NOTHING_TOLD, {
            balanceMicros: there,
            limits: [{ advertiser: 10, leftMicros: ofFirst }]
          })
          if (!facts) throw new Error('The hour was given up.')
          const spent = (advertiser: number) =>
            facts.hourTotals.reduce((sum, total) => (owners[total.line - 1].advertiser === advertiser ? sum + total.spendMicros : sum), 0)
          expect(spent(10)).toBeLessThanOrEqual(ofFirst)
          expect(spent(10) + spent(20)).toBeLessThanOrEqual(there)
          there -= spent(10) + spent(20)
          ofFirst -= spent(10)
          const stopped = facts.outcomes.find(({ line }) => line === 1)?.counts[OUTCOME.no_money] ?? 0
          expect(stopped > 0 || begun > 0).toBe(true)
        }
      }),
      {
        numRuns: 12,
        examples: [
          [0, 0, 1],
          [60_000, 0, 1],
          [0, 30_000, 1]
        ]
      }
    )
  })

  it('changes nothing where it is enough', () => {
    const lines = [1, 2].map((line) => lineRules(line))
    const rules = { publication: 1, lines, campaigns: [campaignRules()], owners }
    const plain = winsOf(runHours(new Exchange(world, rules, opening(), sharedDay), 5))
    const exchange = new Exchange(world, rules, opening(), sharedDay)
    const told = Array.from({ length: 5 }, () =>
      exchange.runHour(undefined, NOTHING_TOLD, { balanceMicros: 1e12, limits: [{ advertiser: 10, leftMicros: 1e12 }] })
    )
    expect(winsOf(told.flatMap((facts) => facts ?? []))).toEqual(plain)
    expect(plain.length).toBeGreaterThan(0)
    expect(plain[0].hour).toBe(START)
  })
})

describe('a margin', () => {
  it('is charged exactly, and rounded once: the whole is never off, parts by half a micro at most', () => {
    const part = fc.record({ costMicros: fc.integer({ min: 0, max: 1e12 }), ppm: fc.integer({ min: 0, max: 10_000 }).map((n) => n * 100) })
    fc.assert(
      fc.property(fc.array(part, { maxLength: 40 }), (parts) => {
        const whole = chargedMicros(parts)
        const exact = parts.reduce((sum, { costMicros, ppm }) => sum + BigInt(costMicros) * BigInt(1_000_000 + ppm), 0n)
        expect(BigInt(whole) * 1_000_000n - exact).toBeLessThanOrEqual(500_000n)
        expect(exact - BigInt(whole) * 1_000_000n).toBeLessThan(500_000n)
        const apart = parts.reduce((sum, one) => sum + chargedMicros([one]), 0)
        expect(Math.abs(apart - whole)).toBeLessThanOrEqual(parts.length / 2 + 0.5)
        expect(whole).toBeGreaterThanOrEqual(parts.reduce((sum, { costMicros }) => sum + costMicros, 0))
      })
    )
    expect(chargedMicros([{ costMicros: 80_000_000, ppm: 125_000 }])).toBe(90_000_000)
    expect(chargedMicros([{ costMicros: 1, ppm: 500_000 }])).toBe(2)
  })

  it('is that of the hour in which the money was spent', () => {
    const history = [
      { fromHour: 10, ppm: 100_000 },
      { fromHour: 20, ppm: 50_000 }
    ]
    expect([9, 10, 19, 20, 99].map((hour) => marginAt(history, hour))).toEqual([0, 100_000, 100_000, 50_000, 50_000])
    expect(marginAt([], 5)).toBe(0)
  })

  it('is from 0 to 100 %, in hundredths of a per cent', () => {
    const said = (marginPpm: unknown, limitMicros: unknown = null) => {
      try {
        moneyTermsSchema.validateSync({ marginPpm, limitMicros }, { strict: true })
        return ''
      } catch (error) {
        return (error as Error).message
      }
    }
    expect(said(0)).toBe('')
    expect(said(1_000_000, 0)).toBe('')
    expect(said(1_000_100)).toBe('A margin is at most 100 %.')
    expect(said(-100)).toBe('A margin is not under 0 %.')
    expect(said(50)).toBe('A margin goes in hundredths of a per cent.')
    expect(said(0, 5)).toBe('An amount has whole cents.')
    expect(said('much')).toContain('number')
  })
})

describe('money that is paid in', () => {
  it('is by a card whose digits can be, or by transfer without one', () => {
    expect(isCardNumber('9200 0000 0000 0017')).toBe(true)
    for (const wrong of ['9200 0000 0000 0018', '', '17', '9200-0000-0000-001x', '0'.repeat(20)]) expect(isCardNumber(wrong)).toBe(false)
    // Any single digit that is mistyped is noticed.
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 15 }), fc.integer({ min: 1, max: 9 }), (place, by) => {
        const digits = [...'9200000000000017']
        digits[place] = String((Number(digits[place]) + by) % 10)
        expect(isCardNumber(digits.join(''))).toBe(false)
      })
    )
    expect(topUpSchema.isValidSync({ amountMicros: 10_000_000, method: 'transfer' })).toBe(true)
    expect(topUpSchema.isValidSync({ amountMicros: 10_000_000, method: 'card' })).toBe(false)
  })

  it('is low when it lasts for fewer days than is to be warned of', () => {
    expect(isLow(0, null, 0)).toBe(true)
    expect(isLow(5, null, 3)).toBe(false)
    expect(isLow(5, 71, 3)).toBe(true)
    expect(isLow(5, 72, 3)).toBe(false)
  })
})
