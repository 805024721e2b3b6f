import { describe, expect, it } from 'vitest'
import { NO_LIMITS, answer, changed, mainFigures, workOut, type ForecastPart, type ForecastQuestion } from '../src/forecast/index.js'
import { buildTape } from '../src/tape/index.js'
import { smallWorld } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const world = smallWorld()
const tape = buildTape(world, 59)
const market = marketOf(world)
const never = () => false
const part = <K extends ForecastPart['part']>(all: ForecastPart[], name: K) =>
  all.find((one) => one.part === name) as Extract<ForecastPart, { part: K }>
const figures = (asked: ForecastQuestion) => mainFigures(workOut(asked, tape, market, never), never)

describe('a better use of the money', () => {
  it('states what asking again gives, that for the same money first', () => {
    const q = question({ caps: [{ times: 2, hours: 24 }] })
    for (const asked of [
      q,
      { ...q, limits: { ...NO_LIMITS, dailyMicros: 50_000_000 } },
      { ...q, limits: { ...NO_LIMITS, dailyMicros: 200_000 } }
    ]) {
      const answers = [...answer(asked, 'wins', tape, market, never)]
      const { holdbacks } = part(answers, 'holdbacks')
      expect(holdbacks.length).toBeGreaterThan(0)
      const before = part(answers, 'figures').figures.day.wins.value
      for (const { change, gain } of holdbacks) expect(figures(changed(asked, change)).day.wins.value - before).toBeCloseTo(gain, 6)
      const [same, more] = [false, true].map((takesMore) => holdbacks.filter((one) => one.takesMore === takesMore))
      expect([...same, ...more]).toEqual(holdbacks)
      for (const some of [same, more]) expect(some).toEqual([...some].sort((a, b) => b.gain - a.gain))
    }
  })

  it('tells a line that its money binds to bid less where the same money then wins more, and not to let in what it has no money for', () => {
    const caps = [{ times: 3, hours: 24 }]
    const asked = question({
      price: { model: 'CPM', bidMicros: 6_000_000, maxMicros: null },
      limits: { ...NO_LIMITS, dailyMicros: 150_000 },
      caps
    })
    const answers = [...answer(asked, 'wins', tape, market, never)]
    const { holdbacks } = part(answers, 'holdbacks')
    const lower = holdbacks.find(({ change }) => change.kind === 'bid')
    expect(lower?.change).toMatchObject({ micros: expect.any(Number) as number })
    const bidMicros = lower?.change.kind === 'bid' ? lower.change.micros : 0
    expect(bidMicros).toBeLessThan(6_000_000)
    const now = part(answers, 'figures').figures.day
    expect(lower?.gain).toBeGreaterThan(0.1 * now.wins.value)
    expect(lower?.spendMicros).toBeLessThanOrEqual(1)
    expect(lower?.takesMore).toBe(false)
    // No rung of the ladder wins a tenth more for this money than what is advised.
    const best = Math.max(...part(answers, 'ladder').ladder.rungs.map((rung) => rung.budgetWins))
    expect(Math.max(...holdbacks.filter(({ takesMore }) => !takesMore).map(({ wins }) => wins)) + now.wins.value).toBeGreaterThan(
      0.95 * best
    )
    expect(holdbacks.every(({ change }) => change.kind !== 'restriction' && change.kind !== 'hours')).toBe(true)
    // More money is the least that is spent, and says what one more costs.
    const budget = holdbacks.find(({ change }) => change.kind === 'daily budget')
    expect(budget?.takesMore).toBe(true)
    expect(budget?.eachMicros).toBeCloseTo((budget?.spendMicros ?? 0) / (budget?.gain ?? 1), 6)
  })

  it('is not more money where the campaign stops it', () => {
    const asked = question({ limits: { ...NO_LIMITS, dailyMicros: 300_000 }, campaignLimits: { ...NO_LIMITS, dailyMicros: 100_000 } })
    const { holdbacks } = part([...answer(asked, 'wins', tape, market, never)], 'holdbacks')
    expect(holdbacks.some(({ change }) => change.kind === 'daily budget')).toBe(false)
  })
})
