import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Exchange, dayLimit, type Cap } from '../src/exchange/index.js'
import { CancelledError, forecast, moneyStep, propertyTable, rowPrice, scanTape, type ForecastQuestion, type MoneyLimits } from '../src/forecast/index.js'
import { effectiveBid } from '../src/pricing/index.js'
import { makeWorld, publishMeasures } from '../src/market/index.js'
import { buildTape } from '../src/tape/index.js'
import { compileTargeting, explain } from '../src/targeting/index.js'
import { SMALL, START, campaignRules, lineRules, numbers, opening, randomLine, runHours, sharedDay, smallWorld, targetingOf, winsOf } from './support/lines.js'

const world = smallWorld()
const tape = buildTape(world, 59)
const NO_MONEY: MoneyLimits = { dailyMicros: null, totalMicros: null, pacing: 'even', campaignDailyMicros: null, campaignTotalMicros: null, campaignShare: 1 }

function question(over: Partial<ForecastQuestion> = {}): ForecastQuestion {
  return {
    targeting: targetingOf(['ES', 'PT', 'FR', 'DE']), price: { model: 'CPM', bidMicros: 1_500_000, maxMicros: null }, caps: [], money: NO_MONEY,
    matesDemandMicros: 0, zone: 'UTC', startHour: START, endHour: START + 7 * 24, nowHour: START, ...over
  }
}

/** The same question answered row by row, person by person, without tables: UTC weeks as they stand. */
function plainDay(q: ForecastQuestion) {
  const compiled = compileTargeting(q.targeting, world.inventory)
  const bid = effectiveBid(q.price)
  let matched = 0
  let wins = 0
  let spend = 0
  let reach = 0
  for (const week of [0, 1]) {
    const seen = new Map<number, number[]>()
    for (let i = 0; i < tape.rowCount; i++) {
      const { region, device, placement, source, person, floor, rival } = tape.rows
      if (Math.floor(tape.minute[i] / 10_080) !== week) continue
      if (explain(compiled, region[i], device[i], placement[i], source[i]).length > 0) continue
      matched++
      if (bid < floor[i] || bid <= rival[i]) continue
      const times = seen.get(person[i]) ?? []
      if (q.caps.some((cap) => times.filter((minute) => minute > tape.minute[i] - cap.hours * 60).length >= cap.times)) continue
      seen.set(person[i], [...times, tape.minute[i]])
      wins++
      spend += rowPrice(tape, i, bid)
    }
    reach += seen.size
  }
  const scale = world.sample / 14
  return { matched: matched * scale, wins: wins * scale, spend: spend * scale, reach: (reach * world.sample) / 2 }
}

const CAPS: Cap[][] = [[], [{ times: 1, hours: 24 }], [{ times: 3, hours: 5 }, { times: 5, hours: 100 }], [{ times: 2, hours: 720 }]]

describe('the forecast', () => {
  it('equals a plain reading of the tape on random lines', () => {
    const below = numbers(11)
    for (let n = 0; n < 24; n++) {
      const { targeting, price } = randomLine(1, below)
      const q = question({ targeting, price, caps: CAPS[n % CAPS.length] })
      const plain = plainDay(q)
      const { day } = forecast(q, tape, world.inventory)
      // Tape week 0 of UTC starts on a Monday here, so the local week of UTC is the week as it stands.
      expect(day.matched).toBeCloseTo(plain.matched, 6)
      expect(day.wins).toBeCloseTo(plain.wins, 6)
      expect(day.spendMicros).toBeCloseTo(plain.spend, 3)
      expect(day.reach).toBeCloseTo(plain.reach, 6)
    }
  })

  it('never falls with a higher bid, a looser restriction or a looser cap, before budgets', () => {
    fc.assert(fc.property(fc.integer(), (seed) => {
      const below = numbers(seed)
      const { targeting, price } = randomLine(1, below)
      const caps = [{ times: 1 + below(3), hours: [6, 24, 72][below(3)] }]
      const base = forecast(question({ targeting, price, caps }), tape, world.inventory).flight
      const more = [
        question({ targeting, caps, price: { ...price, bidMicros: price.bidMicros + 200_000 } }),
        question({ price, caps, targeting: { restrictions: targeting.restrictions.slice(0, -1) } }),
        question({ targeting, price, caps: [{ ...caps[0], times: caps[0].times + 1 }] })
      ].map((q) => forecast(q, tape, world.inventory).flight)
      for (const flight of more) {
        expect(flight.wins).toBeGreaterThanOrEqual(base.wins)
        expect(flight.reach).toBeGreaterThanOrEqual(base.reach)
      }
      expect(more[2].reach).toBe(base.reach)
    }), { numRuns: 25 })
  })

  it('a longer flight reaches more; beyond 28 days reach stays and the answer says how far it looked', () => {
    const of = (days: number) => forecast(question({ endHour: START + days * 24 }), tape, world.inventory).flight
    expect(of(14).reach).toBeGreaterThan(of(3).reach)
    expect(of(40).reach).toBe(of(28).reach)
    expect(of(40).replayedDays).toBe(28)
    expect(of(40).wins / of(28).wins).toBeCloseTo(40 / 28, 1)
    expect(forecast(question({ endHour: null }), tape, world.inventory).flight.open).toBe(true)
  })

  it('shares the campaign\'s day with its other lines in proportion to what each could spend', () => {
    const money = { ...NO_MONEY, campaignDailyMicros: 300_000 }
    const alone = forecast(question({ money }), tape, world.inventory)
    const shared = forecast(question({ money, matesDemandMicros: alone.demandMicros }), tape, world.inventory)
    expect(shared.day.spendMicros / alone.day.spendMicros).toBeCloseTo(0.5, 2)
  })

  it('a flight under way counts from the clock on', () => {
    const whole = forecast(question(), tape, world.inventory).flight
    const late = forecast(question({ nowHour: START + 12 }), tape, world.inventory).flight
    expect(late.wins).toBeLessThan(whole.wins)
    expect(late.wins).toBeGreaterThan(whole.wins * 0.85)
  })

  it('stops when its cancel word is set', () => {
    expect(() => forecast(question(), tape, world.inventory, () => true)).toThrow(CancelledError)
  })

  it('matches nothing without an error', () => {
    const none = forecast(question({ targeting: targetingOf(['PT'], ['phone'], ['300x600']) }), tape, world.inventory)
    expect(none).toMatchObject({ winRate: 0, tapeWins: 0, day: { matched: 0, wins: 0, cpmMicros: 0, frequency: 0 } })
  })
})

describe('the money step', () => {
  const calendar = { days: 7, firstMinute: 0, flightDays: 7 }

  it('is never over the limit, does not fall when it grows, and equals its closed form within a day', () => {
    fc.assert(fc.property(fc.array(fc.integer({ min: 0, max: 5000 }), { minLength: 168, maxLength: 168 }), fc.integer({ min: 1, max: 60_000 }), fc.constantFrom('even' as const, 'fast' as const), (slots, daily, pacing) => {
      const spend = Float64Array.from(slots)
      const of = (dailyMicros: number) => moneyStep(spend, spend, { ...NO_MONEY, pacing, dailyMicros }, calendar, 1)
      const result = of(daily)
      const more = of(daily * 1.1)
      for (let day = 0; day < 7; day++) {
        expect(result.daySpend[day]).toBeLessThanOrEqual(daily + 1e-6)
        expect(more.daySpend[day]).toBeGreaterThanOrEqual(result.daySpend[day] - 1e-6)
        const plan = (hours: number) => (pacing === 'fast' ? daily : (daily * hours) / 24)
        const demand = [0]
        for (let h = 0; h < 24; h++) demand.push(demand[h] + slots[day * 24 + h])
        let closed = demand[24]
        for (let u = 0; u < 24; u++) closed = Math.min(closed, plan(u + 1) + demand[24] - demand[u + 1])
        closed = Math.min(closed, plan(24))
        expect(result.daySpend[day]).toBeCloseTo(closed, 6)
      }
    }), { numRuns: 60 })
  })

  it('spreads a total over the days that are left', () => {
    const spend = new Float64Array(168).fill(1000)
    const { daySpend } = moneyStep(spend, spend, { ...NO_MONEY, totalMicros: 70_000 }, calendar, 1)
    for (const day of daySpend) expect(day).toBeCloseTo(10_000, 6)
    const fast = moneyStep(spend, spend, { ...NO_MONEY, totalMicros: 70_000, pacing: 'fast' }, calendar, 1)
    expect(fast.daySpend.slice(0, 4).map(Math.round)).toEqual([24_000, 24_000, 22_000, 0])
    expect(dayLimit(null, null, 'even', 60, null)).toBe(Infinity)
    expect(dayLimit(5, 100, 'even', 60, 120)).toBe(5)
  })

  it('shares a campaign day', () => {
    const spend = new Float64Array(168).fill(1000)
    const { daySpend } = moneyStep(spend, spend, { ...NO_MONEY, campaignDailyMicros: 8000, campaignShare: 0.25 }, calendar, 1)
    expect(daySpend[3]).toBeCloseTo(2000, 6)
  })
})

describe('truth', () => {
  /** A tenth-scale market is big enough for lines of a thousand wins; days are made once for all lines. */
  const tenth = makeWorld({ ...SMALL, people: 100_000 })
  const wide = buildTape(tenth, 59)

  it('wins of 20 seeded lines over a week run by the exchange: median error at most 15 %', { timeout: 180_000 }, () => {
    const errors: number[] = []
    for (let seed = 0; errors.length < 20; seed++) {
      const line = { ...randomLine(1, numbers(seed * 31 + 5)), dailyMicros: null, totalMicros: null }
      const exchange = new Exchange(tenth, { publication: 1, lines: [line], campaigns: [campaignRules()] }, opening(), sharedDay)
      const wins = runHours(exchange, 168).reduce((sum, facts) => sum + facts.wins, 0)
      // Whether a line counts is decided by the truth alone, so that the choice cannot flatter the forecast.
      if (wins < 100) continue
      const { flight } = forecast(question({ targeting: line.targeting, price: line.price, caps: line.caps, zone: line.zone }), wide, tenth.inventory)
      errors.push(Math.abs(flight.wins / wins - 1))
    }
    errors.sort((a, b) => a - b)
    expect((errors[9] + errors[10]) / 2).toBeLessThan(0.15)
  })

  it('with a budget: wins and reach of the allocation step agree with a run', () => {
    const line = lineRules(1, { targeting: targetingOf(['ES', 'DE', 'FR']), dailyMicros: 900_000, caps: [{ times: 2, hours: 24 }] })
    const { flight, budgetBinds } = forecast(question({ targeting: line.targeting, price: line.price, caps: line.caps, zone: line.zone, money: { ...NO_MONEY, dailyMicros: 900_000 } }), wide, tenth.inventory)
    const hours = runHours(new Exchange(tenth, { publication: 1, lines: [line], campaigns: [campaignRules()] }, opening(), sharedDay), 168)
    const wins = winsOf(hours)
    expect(budgetBinds).toBe(true)
    expect(Math.abs(flight.wins / wins.length - 1)).toBeLessThan(0.05)
    expect(Math.abs(flight.reach / new Set(wins.map((win) => win.person)).size - 1)).toBeLessThan(0.1)
  })
})

describe('the property table', () => {
  const measures = publishMeasures(world.seed, world.inventory)
  it('counts every matching row once, and leaves properties without traffic out', () => {
    const targeting = targetingOf(['DE'], ['desktop'])
    const rows = propertyTable(targeting, tape, world.inventory, measures)
    const scan = scanTape(tape, compileTargeting(targeting, world.inventory), 0, () => false)
    expect(rows.reduce((sum, row) => sum + row.opportunitiesADay, 0)).toBeCloseTo((scan.matched * world.sample) / 14, 6)
    for (const row of rows) {
      expect(row.clearingMicros).toBeGreaterThanOrEqual(row.floorMicros)
      expect(row.viewability).toBeGreaterThan(0)
      expect(world.inventory.properties[row.property].class).not.toBe('app')
    }
  })
})
