import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { NO_LIMITS, bindingOf, isLimit, judge, judgedHours, mainFigures, workOut, type MainFigures } from '../src/forecast/index.js'
import { bindingSentence } from '../src/wording/index.js'
import { buildTape } from '../src/tape/index.js'
import { smallWorld } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

describe('a record of forecasts', () => {
  it('judges the day of a forecast after a week unchanged, a shorter flight once it is through, and nothing that was changed before', () => {
    const flight = { from: 100, to: 100 + 72 }
    expect(judgedHours({ from: 100, to: 100 + 200, flight: { from: 100, to: null } })).toEqual({ from: 100, to: 268, by: 'day' })
    expect(judgedHours({ from: 100, to: 172, flight })).toEqual({ from: 100, to: 172, by: 'flight' })
    expect(judgedHours({ from: 100, to: 171, flight })).toBeNull()
    expect(judgedHours({ from: 120, to: 172, flight })).toBeNull()
  })

  it('holds a range to what came, whole events included, and says nothing of events that hardly any were expected of', () => {
    const range = (value: number, low: number, high: number) => ({ value, low, high })
    const figures = {
      wins: range(100, 90, 110),
      spend: range(10, 9, 11),
      views: range(0.5, 0.2, 0.9),
      visits: range(1, 0.6, 1.3),
      conversions: range(0, 0, 0)
    }
    const forecast = { day: figures, flight: figures } as unknown as MainFigures
    const came = { wins: 770, spend: 78, views: 3, visits: 10, conversions: 0 }
    const judged = judge(forecast, 'day', came)
    expect(judged.map(({ what, held }) => [what, held])).toEqual([
      ['wins', true],
      ['spend', false],
      ['views', true],
      ['visits', true]
    ])
    expect(judged[0].said).toEqual({ value: 700, low: 630, high: 770 })
  })
})

describe('what binds', () => {
  const world = smallWorld()
  const tape = buildTape(world, 59)
  const market = marketOf(world)
  const never = () => false

  it('is a limit only where more could be spent without it, whatever the limits, hours and pace', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 10_000, max: 3_000_000 }),
        fc.constantFrom('even' as const, 'traffic' as const, 'fast' as const),
        fc.constantFrom('dailyMicros' as const, 'totalMicros' as const, 'dailyImpressions' as const),
        fc.boolean(),
        (amount, pacing, name, isCampaign) => {
          const limits = { ...NO_LIMITS, [name]: name === 'dailyImpressions' ? Math.ceil(amount / 1000) : amount }
          const asked = isCampaign ? { campaignLimits: limits } : { limits }
          const work = workOut(question({ ...asked, pacing }), tape, market, never)
          const { binding, day } = mainFigures(work, never)
          const free = mainFigures(workOut(question({ pacing }), tape, market, never), never).day
          if (!isLimit(binding)) return
          expect(binding.whose).toBe(isCampaign ? 'campaign' : 'line')
          expect(binding.what).toBe(name === 'dailyImpressions' ? 'impressions' : 'money')
          expect(day.wins.value).toBeLessThan(free.wins.value)
          expect(day.spend.value).toBeLessThan(free.spend.value)
          // Spend without it is never below it.
          if (name === 'dailyMicros') expect(free.spend.value).toBeGreaterThan(amount)
        }
      ),
      { numRuns: 25 }
    )
  })

  it('is the bid, the cap or all there is where no money is set, and is said by name', () => {
    const named = (over: Parameters<typeof question>[0]) => mainFigures(workOut(question(over), tape, market, never), never)
    const bid = named({ price: { model: 'CPM', bidMicros: 700_000, maxMicros: null } })
    const all = named({ price: { model: 'CPM', bidMicros: 90_000_000, maxMicros: null } })
    const cap = named({ price: { model: 'CPM', bidMicros: 90_000_000, maxMicros: null }, caps: [{ times: 1, hours: 168 }] })
    expect([bid, all, cap].map(({ binding }) => binding.kind)).toEqual(['bid', 'supply', 'cap'])
    expect([bid, all, cap].map((figures) => bindingSentence(figures).split(/[:,]/)[0])).toEqual([
      'The bid binds',
      'It buys nearly all there is',
      'The cap binds'
    ])
    const limits = { ...NO_LIMITS, dailyMicros: 50_000 }
    const campaign = named({ campaignLimits: limits })
    expect(bindingSentence(campaign)).toMatch(/^The campaign’s day binds, not the bid: without it this bid would spend €\d+\.\d\d a day\.$/)
    expect(bindingOf([], { matched: 0, first: 0 }, 1)).toEqual({ kind: 'bid' })
  })
})
