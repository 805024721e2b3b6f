import { describe, expect, it } from 'vitest'
import { Exchange, NO_LIMITS } from '../src/exchange/index.js'
import { OwnLines, generalReplay, mainFigures, matchTape, replay, takerOf, workOut, type ForecastQuestion } from '../src/forecast/index.js'
import { makeWorld } from '../src/market/index.js'
import { buildTape } from '../src/tape/index.js'
import { SMALL, START, campaignRules, lineRules, numbers, opening, runHours, sharedDay, targetingOf } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const never = () => false
const world = makeWorld({ ...SMALL, people: 30_000 })
const tape = buildTape(world, 59)

/** The same market among some live lines. */
const among = (lines: readonly { line: number; question: ForecastQuestion }[]) => {
  const market = marketOf(world)
  const takers = lines.map((live) => takerOf(live, tape, market, never))
  market.own = new OwnLines(tape, takers)
  return market
}
const price = (bidMicros: number) => ({ model: 'CPM' as const, bidMicros, maxMicros: null })
const winsOf = (q: ForecastQuestion, market: ReturnType<typeof marketOf>) =>
  mainFigures(workOut(q, tape, market, never), never).day.wins.value

describe('our own lines', () => {
  it('take what they bid more for: all of it without a budget, a part of it with one, and nothing from a dearer line', () => {
    const cheap = question({ price: price(1_000_000) })
    const dear = question({ price: price(3_000_000) })
    const alone = winsOf(cheap, marketOf(world))
    const free = among([{ line: 2, question: dear }])
    expect(winsOf({ ...cheap, among: 1 }, free)).toBe(0)
    // Who is not said to be among them is asked about alone.
    expect(winsOf(cheap, free)).toBe(alone)
    expect(winsOf({ ...dear, price: price(4_000_000), among: 1 }, free)).toBe(winsOf({ ...dear, price: price(4_000_000) }, marketOf(world)))
    const spend = mainFigures(workOut(dear, tape, marketOf(world), never), never).day.spend.value
    const held = among([{ line: 2, question: { ...dear, limits: { ...NO_LIMITS, dailyMicros: Math.round(spend / 4) } } }])
    const left = winsOf({ ...cheap, among: 1 }, held)
    expect(left).toBeGreaterThan(0.5 * alone)
    expect(left).toBeLessThan(0.95 * alone)
    // Nobody competes with themselves.
    expect(winsOf({ ...cheap, among: 2 }, held)).toBe(alone)
  })

  it('leave the compiled and the general loops of one mind, at every bid', () => {
    const below = numbers(5)
    const live = Array.from({ length: 4 }, (_, n) => ({
      line: n + 2,
      question: question({
        targeting: targetingOf([['DE'], ['FR', 'ES'], ['DE', 'PT'], ['GB', 'DE', 'FR']][n]),
        price: price(1000 * (500 + below(4000))),
        limits: { ...NO_LIMITS, dailyMicros: 100_000 + below(400_000) }
      })
    }))
    const market = among(live)
    for (let n = 0; n < 12; n++) {
      const q = question({ price: price(1000 * (300 + below(5000))), caps: below(2) ? [{ times: 2, hours: 24 }] : [], among: 1 })
      const work = workOut(q, tape, market, never)
      for (const base of [work.play.base, 400 + below(5000), work.play.base]) {
        const [fast, plain] = [replay, generalReplay].map((run) => run({ ...work.play, base }, work.weeks[0], { full: true }, never))
        expect(fast.wins).toBe(plain.wins)
        expect(fast.byGroup.spend).toEqual(plain.byGroup.spend)
        expect(fast.byGroup.visits).toEqual(plain.byGroup.visits)
      }
      // A bid that is higher wins no less, whoever else is there.
      const wins = [0.5, 1, 1.5, 2].map(
        (by) => replay({ ...work.play, base: Math.round(work.play.base * by) }, work.weeks[0], { full: false }, never).wins
      )
      expect([...wins].sort((a, b) => a - b)).toEqual(wins)
      expect(
        [...matchTape(q, tape, market, never).need].every((need, m) => need >= (market.own?.needs(1)[work.matched.rows[m]] ?? 0))
      ).toBe(true)
    }
  })

  it('leave to another what the exchange leaves it', () => {
    const rules = [
      lineRules(1, { price: price(1_200_000) }),
      lineRules(2, { price: price(2_500_000), dailyMicros: 1_200_000 }),
      lineRules(3, { price: price(1_800_000), targeting: targetingOf(['DE', 'FR']), dailyMicros: 600_000 })
    ]
    const exchange = new Exchange(world, { publication: 1, lines: rules, campaigns: [campaignRules()] }, opening(), sharedDay)
    const came = runHours(exchange, 72)
      .flatMap(({ hourTotals }) => hourTotals)
      .filter(({ line }) => line === 1)
      .reduce((sum, { wins }) => sum + wins, 0)
    const asked = rules.map(({ line, targeting, price: own, limits, ads }) => ({
      line,
      question: question({ targeting, price: own, limits, shapes: ads.map((ad) => ad.shape), endHour: START + 72 })
    }))
    const market = among(asked)
    const figures = (q: ForecastQuestion) => mainFigures(workOut(q, tape, market, never), never).flight.wins.value
    const [{ question: own }] = asked
    expect(Math.abs(figures({ ...own, among: 1 }) / came - 1)).toBeLessThan(0.15)
    expect(figures(own) / came).toBeGreaterThan(1.15)
  })
})
