import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { NO_LIMITS, emptyTally, noFacts, ownHistory, type OwnHistory } from '../src/exchange/index.js'
import { mainFigures, workOut, type ForecastQuestion } from '../src/forecast/index.js'
import { RATE_KINDS, RATE_WEIGHTS, knownRate, repeatFactor, withMean } from '../src/response/index.js'
import { buildTape } from '../src/tape/index.js'
import { smallWorld } from './support/lines.js'
import { RATES_KNOWN, marketOf, question } from './support/questions.js'

const never = () => false
const world = smallWorld()
const tape = buildTape(world, 59)
const market = marketOf(world)
const day = (over: Partial<ForecastQuestion>) => mainFigures(workOut(question(over), tape, market, never), never).day
const width = ({ low, high }: { low: number; high: number }) => high - low
const passedOf = (perDay: number): OwnHistory => ({
  ...RATES_KNOWN,
  passed: Array.from({ length: 7 }, (_, n) => ({ day: tape.firstDay + 7 + n, count: perDay }))
})

describe('what a line’s own results say', () => {
  it('moves the level to what came, the more the more is known, and leaves a range that is as sure', () => {
    const asTape = day({ history: RATES_KNOWN })
    const [half, twice] = [0.5, 2].map((times) => day({ history: passedOf(asTape.wins.value * times) }))
    expect(half.wins.value / asTape.wins.value).toBeGreaterThan(0.45)
    expect(half.wins.value / asTape.wins.value).toBeLessThan(0.62)
    expect(twice.wins.value / asTape.wins.value).toBeGreaterThan(1.75)
    expect(twice.spend.value / asTape.spend.value).toBeCloseTo(twice.wins.value / asTape.wins.value, 9)
    // As many as the tape says: people who are on it by chance are divided out.
    const same = day({ history: passedOf(asTape.wins.value) })
    expect(Math.abs(same.wins.value / asTape.wins.value - 1)).toBeLessThan(0.12)
    expect(width(same.wins)).toBeLessThan(width(asTape.wins))
  })

  it('of a budget stays within it, whatever the level', () => {
    const limits = { ...NO_LIMITS, dailyMicros: 100_000 }
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 3000 }), (perDay) => {
        expect(day({ history: passedOf(perDay), limits }).spend.value).toBeLessThanOrEqual(100_000 * 1.0001)
      }),
      { numRuns: 15 }
    )
  })

  it('multiplies rates, and narrows what is said of them', () => {
    // As good as known: what is believed before results has no weight left.
    const rates = { ...RATES_KNOWN.rates, click: { factor: 1.5, sd: 0.001 } }
    const [before, after] = [RATES_KNOWN, { ...RATES_KNOWN, rates }].map((history) => day({ history }))
    expect(after.visits.value / before.visits.value).toBeCloseTo(1.5, 2)
    expect(after.wins).toEqual(before.wins)
    const unsure = day({ history: { ...RATES_KNOWN, rates: { ...rates, click: { factor: 1.5, sd: 0.25 } } } })
    expect(width(unsure.visits)).toBeGreaterThan(width(after.visits))
  })

  it('is read by the functions that the exchange learns with: nothing is nothing, and much is what it was', () => {
    const rules = { price: { model: 'CPC' as const, bidMicros: 500_000, maxMicros: null }, follow: false }
    const sold = { worth: 0, rates: { perConverting: 0.02, perSeen: 0 } }
    const none = ownHistory(rules, noFacts(), { today: 60, sold, passed: [] })
    for (const kind of RATE_KINDS) expect(none.rates[kind]).toEqual(knownRate(kind, { events: 0, expected: 0 }))
    expect(none.rates.click).toEqual({ factor: 1, sd: 1 / Math.sqrt(RATE_WEIGHTS.click) })
    const facts = noFacts()
    const tally = { ...emptyTally(), wins: 100_000, visits: 3000, expectedVisits: 2000 * 1e6 }
    facts.total = tally
    facts.byDay.set(59, tally)
    const much = ownHistory(rules, facts, { today: 60, sold, passed: [1, 2, 3].map((n) => ({ day: n, count: n })) })
    expect(much.rates.click.factor).toBeCloseTo(1.5, 1)
    expect(much.learned?.line).toBe(much.rates.click.factor)
    // Where bids move with what is learned, only the last day stood under the same bids.
    expect(much.passed).toEqual([{ day: 3, count: 3 }])
  })

  it('expects fewer clicks of people who see it often, the less the more is known', () => {
    const [once, often] = [
      [100, 0, 0, 0, 0, 0, 0, 0, 0, 0],
      [0, 0, 0, 0, 0, 0, 0, 0, 0, 100]
    ].map((people, n) => repeatFactor(people, n === 0 ? 100 : 1000))
    expect(once).toBeGreaterThan(1)
    expect(often).toBeLessThan(0.7 * once)
    const none = knownRate('click', { events: 0, expected: 0 })
    expect(withMean('click', none, 0.6).factor).toBeCloseTo(0.6, 9)
    const much = knownRate('click', { events: 2000, expected: 2000 })
    expect(withMean('click', much, 0.6).factor).toBeGreaterThan(0.99)
  })

  it('bids by it: a line whose ads are clicked more than the mean wins more by the click', () => {
    const price = { model: 'CPC' as const, bidMicros: 400_000, maxMicros: null }
    const learnedOf = (line: number) => ({ event: 'click' as const, events: 10, line, ad: [], placement: [], device: [], hour: [] })
    const [low, mean, high] = [0.6, 1, 1.6].map((line) => day({ price, history: { ...RATES_KNOWN, learned: learnedOf(line) } }).wins.value)
    expect(low).toBeLessThan(mean)
    expect(high).toBeGreaterThan(mean)
  })
})
