import { describe, expect, it } from 'vitest'
import { Exchange, NO_LIMITS, type LineRules } from '../src/exchange/index.js'
import { answer, forLive, mainFigures, workOut, type ForecastPart, type ForecastQuestion } from '../src/forecast/index.js'
import { makeWorld } from '../src/market/index.js'
import { buildTape } from '../src/tape/index.js'
import { SMALL, START, campaignRules, lineRules, opening, runHours, sharedDay } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const never = () => false
const world = makeWorld({ ...SMALL, people: 40_000 })
const tape = buildTape(world, 59)
const market = marketOf(world)
const price = { model: 'CPM' as const, bidMicros: 3_000_000, maxMicros: 3_000_000 }
const asked = (over: Partial<ForecastQuestion> = {}) => question({ price, endHour: START + 72, ...over })
const figures = (q: ForecastQuestion) => mainFigures(workOut(q, tape, market, never), never)
const part = <K extends ForecastPart['part']>(q: ForecastQuestion, name: K) =>
  [...answer(q, 'wins', tape, market, never)].find((one) => one.part === name) as Extract<ForecastPart, { part: K }>

/** What the exchange buys in three days, after some that are not counted. */
function came(q: ForecastQuestion, over: Partial<LineRules>, before = 0) {
  const { targeting, limits, shapes } = q
  const rules = lineRules(1, {
    targeting,
    limits,
    shapes,
    price,
    zone: 'UTC',
    ads: shapes.map((shape) => ({ ad: 1000 + shape, shape, weight: 1 })),
    ...over
  })
  const exchange = new Exchange(world, { publication: 1, lines: [rules], campaigns: [campaignRules()] }, opening(), sharedDay)
  runHours(exchange, before * 24)
  const totals = runHours(exchange, 72).flatMap(({ hourTotals }) => hourTotals)
  return {
    wins: totals.reduce((sum, { wins }) => sum + wins, 0),
    spend: totals.reduce((sum, { spendMicros }) => sum + spendMicros, 0),
    visits: totals.reduce((sum, { visits }) => sum + visits, 0)
  }
}
const daily = Math.round(figures(asked()).day.spend.value / 5)
const limits = { ...NO_LIMITS, dailyMicros: daily }

describe('a line that follows the market', () => {
  it('is forecast at the bids it would make for its money, as the exchange then buys', () => {
    const q = asked({ limits, follow: true })
    const { flight } = figures(q)
    const { landscape } = forLive(q, tape, market, never)
    const { wins, spend } = came(q, { follow: landscape })
    expect(Math.abs(flight.wins.value / wins - 1)).toBeLessThan(0.12)
    expect(Math.abs(flight.spend.value / spend - 1)).toBeLessThan(0.06)
    // A fixed bid of its maximum buys far less for the same.
    expect(flight.wins.value).toBeGreaterThan(1.5 * figures(asked({ limits })).flight.wins.value)
  })

  it('goes up to its maximum, whatever bid stands beside it', () => {
    const low = asked({ follow: true, price: { ...price, bidMicros: 200_000 } })
    expect(figures(low).day.wins).toEqual(figures(asked({ follow: true })).day.wins)
    expect(figures(low).day.wins.value).toBeGreaterThan(figures(asked({ price: { ...price, bidMicros: 200_000 } })).day.wins.value)
  })

  it('has the ladder of what its bid could win, which rises with the bid', () => {
    const { rungs, current } = part(asked({ follow: true, limits }), 'ladder').ladder
    expect(rungs.map(({ wins }) => wins)).toEqual([...rungs].map(({ wins }) => wins).sort((a, b) => a - b))
    expect(rungs[current].wins).toBeCloseTo(part(asked(), 'ladder').ladder.rungs[current].wins, 6)
  })
})

describe('a line with an aim', () => {
  const aim = { event: 'click' as const, micros: 600_000 }

  it('is forecast at what its events may cost, and under a budget at the bids that spend it', () => {
    const free = figures(asked({ aim }))
    // At the trade's rates a click costs the aim, or less where the maximum ends it.
    const cost = (f: typeof free) => f.day.spend.value / f.day.visits.value
    expect(cost(free)).toBeLessThan(1.25 * aim.micros)
    const dear = asked({ aim: { ...aim, micros: 6_000_000 }, limits })
    const held = figures(dear)
    expect(held.day.spend.value).toBeGreaterThan(0.9 * daily)
    // Its bids are as low as the plan lets them: what a click costs is far below the aim.
    expect(cost(held)).toBeLessThan(0.6 * cost(figures(asked({ aim: { ...aim, micros: 6_000_000 } }))))
    // It begins there when it goes live, and does not come down from bids that are the maximum at first.
    const { correction } = forLive(dear, tape, market, never)
    expect(correction).toBeLessThan(300)
    const bought = came(dear, { aim: { ...aim, micros: 6_000_000 }, firstCorrection: correction ?? 1000, endHour: null })
    expect(bought.spend).toBeGreaterThan(0.9 * 3 * daily)
    expect(Math.abs((3 * held.day.wins.value) / bought.wins - 1)).toBeLessThan(0.3)
  })

  it('pays by the click for what it aims at, as the exchange then buys: never over its maximum a click, and nothing without one', () => {
    const stay = { event: 'stay' as const, micros: 900_000 }
    const click = { model: 'CPC' as const, bidMicros: 700_000, maxMicros: 700_000 }
    const q = asked({ price: click, aim: stay, limits })
    const { day } = figures(q)
    const bought = came(q, { price: click, aim: stay, firstCorrection: forLive(q, tape, market, never).correction ?? 1000, endHour: null })
    expect(bought.spend / bought.visits).toBeLessThanOrEqual(700_000)
    expect(bought.spend / bought.visits).toBeGreaterThan(0)
    expect(Math.abs((3 * day.wins.value) / bought.wins - 1)).toBeLessThan(0.4)
    // Half of the aim, half of what a click is worth: cheaper ones, and fewer.
    const half = figures({ ...q, limits: NO_LIMITS, aim: { ...stay, micros: 200_000 } }).day
    const whole = figures({ ...q, limits: NO_LIMITS, aim: { ...stay, micros: 400_000 } }).day
    expect(half.wins.value).toBeLessThan(whole.wins.value)
    expect(half.spend.value / half.visits.value).toBeLessThan(whole.spend.value / whole.visits.value)
  })

  it('reaches new people at what one may cost, and pages at what one opened may cost', () => {
    const reached = (micros: number) => figures(asked({ aim: { event: 'person', micros } })).day
    const [few, many] = [reached(600), reached(1200)]
    expect(few.reach.value).toBeLessThan(many.reach.value)
    for (const [micros, day] of [
      [600, few],
      [1200, many]
    ] as const)
      expect((7 * day.spend.value) / day.reach.value).toBeLessThan(1.15 * micros)
    const [page, stay] = (['page', 'stay'] as const).map((event) => figures(asked({ aim: { event, micros: 400_000 } })).day)
    // A visitor who stays opens more than two pages: a page for the same is worth more than twice as much.
    expect(page.wins.value).toBeGreaterThan(stay.wins.value)
  })

  it('has a ladder over its maximum', () => {
    const { rungs } = part(asked({ aim }), 'ladder').ladder
    const wins = rungs.map((rung) => rung.wins)
    expect(wins).toEqual([...wins].sort((a, b) => a - b))
    expect(wins[0]).toBeLessThan(wins[wins.length - 1])
  })
})

describe('lines of a campaign that run together', () => {
  it('meet each other once: what is told of alone knows of no other line', () => {
    const mate = { line: 7, question: { ...asked({ price: { ...price, bidMicros: 4_000_000, maxMicros: null } }), among: 7 } }
    const together = part({ ...asked(), among: 5, mates: [mate] }, 'together').together
    const plain = part({ ...asked(), mates: [{ ...mate, question: { ...mate.question, among: undefined } }] }, 'together').together
    expect(together).toEqual(plain)
  })
})
