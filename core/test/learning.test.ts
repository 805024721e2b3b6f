import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  Exchange,
  emptyTally,
  followBids,
  learn,
  learnedRate,
  learningWeights,
  nextCorrection,
  noFacts,
  type Tally
} from '../src/exchange/index.js'
import { RATE_WEIGHTS } from '../src/response/index.js'
import { lineRules, one, opening, runHours, sharedDay, smallWorld, winsOf } from './support/lines.js'

describe('learning', () => {
  const tally = (over: Partial<Tally>) => ({ ...emptyTally(), ...over })
  const sold = (worth = 0) => ({ worth, rates: { perConverting: 0.02, perSeen: 0.00001 } })

  it('shrinks a rate to the trade’s average until there are results, and parts to the line until there are fifty', () => {
    const facts = noFacts()
    expect(learnedRate(learn(facts, 'click', 60, sold()), 5000, 3, 0, 12)).toBe(5000)
    const day = tally({ wins: 1000, visits: 10, expectedVisits: 5_000_000 })
    facts.byDay.set(60, day)
    Object.assign(facts.total, day)
    facts.byPlacement.set(3, tally({ wins: 100, visits: 9, expectedVisits: 500_000 }))
    const early = learn(facts, 'click', 60, sold())
    expect([early.isReady, early.line]).toEqual([false, (10 + RATE_WEIGHTS.click) / (5 + RATE_WEIGHTS.click)])
    expect(learnedRate(early, 5000, 3, 0, 12)).toBe(learnedRate(early, 5000, 4, 0, 12))
    Object.assign(facts.total, { visits: 60, expectedVisits: 40_000_000 })
    Object.assign(day, { visits: 60, expectedVisits: 40_000_000 })
    const ready = learn(facts, 'click', 60, sold())
    expect(ready.isReady).toBe(true)
    expect(learnedRate(ready, 5000, 3, 0, 12)).toBeGreaterThan(1.3 * learnedRate(ready, 5000, 4, 0, 12))
  })

  it('gives the likelier best ad most showings and none under three in a hundred', () => {
    const weights = learningWeights(
      [
        { ad: 1, trials: 10_000, events: 120 },
        { ad: 2, trials: 10_000, events: 60 },
        { ad: 3, trials: 10_000, events: 65 }
      ],
      9
    )
    expect(weights[0]).toBeGreaterThan(900)
    expect(Math.min(...weights)).toBeGreaterThanOrEqual(30)
    expect(
      learningWeights(
        [
          { ad: 1, trials: 50, events: 0 },
          { ad: 2, trials: 60, events: 0 }
        ],
        9
      )
    ).toEqual([500, 500])
    expect(learningWeights([{ ad: 4, trials: 5, events: 1 }], 9)).toEqual([1000])
  })

  it('gives each of any number of ads its floor, the best one most, and all of them together everything', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 200 }), fc.integer(), (count, seed) => {
        const ads = Array.from({ length: count }, (_, ad) => ({ ad, trials: 5000, events: ad === 0 ? 200 : 20 }))
        const weights = learningWeights(ads, seed)
        expect(Math.max(...weights)).toBe(weights[0])
        expect(Math.min(...weights)).toBeGreaterThanOrEqual(Math.min(30, Math.floor(500 / count)))
        expect(Math.abs(weights.reduce((sum, weight) => sum + weight, 0) - 1000)).toBeLessThanOrEqual(count)
      }),
      { numRuns: 20 }
    )
  })

  it('lowers an aim where its plan lets through less than nine tenths, whatever its events cost, and not before', () => {
    const aim = { event: 'click' as const, micros: 500_000 }
    const cheap = { spend: 1_000_000, predicted: 20_000_000, events: 20 }
    expect(nextCorrection(1000, aim, cheap, 0, 0.3)).toBe(940)
    expect(nextCorrection(1000, aim, cheap, 0, 1)).toBe(1060)
    expect(nextCorrection(1000, aim, cheap, 0, 0.89)).toBeLessThan(1000)
    expect(nextCorrection(1000, aim, { spend: 0, predicted: 0, events: 0 }, 0, 0.5)).toBeLessThan(1000)
    expect(nextCorrection(1000, aim, { spend: 0, predicted: 0, events: 0 }, 0, 1)).toBe(1000)
  })

  it('corrects an aim by at most six in a hundred an hour, and not before there is something to go by', () => {
    const aim = { event: 'click' as const, micros: 1000 }
    expect(nextCorrection(1000, aim, { spend: 1_000_000, predicted: 100_000, events: 0 }, 0)).toBe(1000)
    expect(nextCorrection(1000, aim, { spend: 1_000_000, predicted: 500_000_000, events: 500 }, 0)).toBe(940)
    expect(nextCorrection(1000, aim, { spend: 1000, predicted: 500_000_000, events: 500 }, 0)).toBe(1060)
    expect(nextCorrection(5000, aim, { spend: 1000, predicted: 500_000_000, events: 500 }, 0)).toBe(5000)
  })

  it('an aim at value begins at what a conversion is said to be worth, and ends at what conversions bring', () => {
    const conversions = (n: number, each: number) =>
      Object.assign(noFacts(), { total: tally({ conversions: n, wins: 1000, expectedConverting: n * 1_000_000, valueMicros: n * each }) })
    expect(learn(noFacts(), 'conversion', 60, sold(20_000)).valueMicros).toBe(20_000)
    expect(learn(conversions(10_000, 50_000), 'conversion', 60, sold(20_000)).valueMicros).toBeGreaterThan(49_900)
    // The exchange asks the trackers: without a stated worth there is nothing to bid with, and the dearer it is the more is won.
    const line = lineRules(1, {
      targeting: { restrictions: [] },
      price: { model: 'CPM', bidMicros: 0, maxMicros: 6_000_000 },
      aim: { event: 'value', micros: 2000 }
    })
    const won = (valueMicros: number | null) =>
      winsOf(
        runHours(
          new Exchange(
            smallWorld(),
            one(line, { trackers: [{ advertiser: 1, tracker: 7, kind: 'trial', clickHours: 24, viewHours: 6, valueMicros }] }),
            opening(),
            sharedDay
          ),
          6
        )
      ).length
    const [none, some, more] = [won(null), won(4_000_000), won(16_000_000)]
    expect(none).toBe(0)
    expect(some).toBeGreaterThan(0)
    expect(more).toBeGreaterThan(some)
  })

  it('follows the market: what is wanted is won, for less than one bid for all would pay, and never above the most', () => {
    const landscape = {
      path: [0, 12],
      perDay: [1000, 1000],
      needs: [Array.from({ length: 16 }, (_, n) => 100 + n * 10), Array.from({ length: 16 }, (_, n) => 400 + n * 60)],
      hours: []
    }
    const bids = new Int32Array(20)
    followBids(landscape, 1, 800, 1500, () => true, bids)
    const won = landscape.path.map((path, n) => (landscape.needs[n].filter((need) => need <= bids[path]).length / 16) * 1000)
    expect(won[0] + won[1]).toBeGreaterThanOrEqual(800)
    expect(bids[0]).toBeLessThanOrEqual(250)
    followBids(landscape, 1, Infinity, 700, () => true, bids)
    expect(Math.max(...bids)).toBeLessThanOrEqual(700)
    expect(bids[0]).toBe(250)
    followBids(landscape, 1, 1, 700, () => false, bids)
    expect(bids[12]).toBeLessThan(400)
  })
})
