import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayAllowance } from '../src/exchange/index.js'
import {
  NO_LIMITS,
  NOTHING_SPENT,
  flightTimeline,
  hasLimits,
  mainFigures,
  moneyStep,
  weekTimeline,
  workOut,
  type ForecastQuestion,
  type MoneyCalendar,
  type MoneyLimits
} from '../src/forecast/index.js'
import { buildTape } from '../src/tape/index.js'
import { START, numbers, randomLine, smallWorld } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const world = smallWorld()
const tape = buildTape(world, 59)
const market = marketOf(world)
const never = () => false
const figures = (q: ForecastQuestion) => mainFigures(workOut(q, tape, market, never), never)
const NO_MONEY: MoneyLimits = {
  pacing: 'even',
  own: NO_LIMITS,
  campaign: NO_LIMITS,
  mates: [],
  spent: NOTHING_SPENT,
  campaignSpent: NOTHING_SPENT
}
const calendar: MoneyCalendar = {
  days: 7,
  firstMinute: 0,
  span: 10_080,
  weekday: 0,
  daysLeftInMonth: 31,
  flightDays: 7,
  openMinutes: new Array<number>(168).fill(60)
}
const own = (limits: Partial<typeof NO_LIMITS>, over: Partial<MoneyLimits> = {}): MoneyLimits => ({
  ...NO_MONEY,
  own: { ...NO_LIMITS, ...limits },
  ...over
})

describe('the money step', () => {
  it('is never over the limit, does not fall when it grows, and equals its closed form within a day', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 5000 }), { minLength: 168, maxLength: 168 }),
        fc.integer({ min: 1, max: 60_000 }),
        fc.constantFrom('even' as const, 'fast' as const, 'traffic' as const),
        (slots, daily, pacing) => {
          const stepOf = (dailyMicros: number) => moneyStep(slots, slots, own({ dailyMicros }, { pacing }), calendar, 1)
          const result = stepOf(daily)
          const more = stepOf(daily * 1.1)
          for (let day = 0; day < 7; day++) {
            expect(result.daySpend[day]).toBeLessThanOrEqual(daily + 1e-6)
            expect(more.daySpend[day]).toBeGreaterThanOrEqual(result.daySpend[day] - 1e-6)
            const demand = [0]
            for (let h = 0; h < 24; h++) demand.push(demand[h] + slots[day * 24 + h])
            const plan = (hours: number) =>
              pacing === 'fast'
                ? daily
                : pacing === 'even'
                  ? (daily * hours) / 24
                  : demand[24] > 0
                    ? (daily * demand[hours]) / demand[24]
                    : 0
            let closed = demand[24]
            for (let u = 0; u < 24; u++) closed = Math.min(closed, plan(u + 1) + demand[24] - demand[u + 1])
            closed = Math.min(closed, pacing === 'fast' ? daily : plan(24))
            expect(result.daySpend[day]).toBeCloseTo(closed, 6)
          }
        }
      ),
      { numRuns: 60 }
    )
  })

  it('spreads totals over the days that are left, weeks from Monday and months by the calendar', () => {
    const slots = new Float64Array(168).fill(1000)
    const stepOf = (limits: MoneyLimits, over: Partial<MoneyCalendar> = {}) =>
      moneyStep(slots, slots, limits, { ...calendar, ...over }, 1).daySpend.map(Math.round)
    expect(stepOf(own({ totalMicros: 70_000 }))).toEqual(new Array<number>(7).fill(10_000))
    expect(stepOf(own({ totalMicros: 70_000 }, { pacing: 'fast' }))).toEqual([24_000, 24_000, 22_000, 0, 0, 0, 0])
    // The first day is a Saturday: two days of the old week, then five of the next.
    expect(stepOf(own({ weeklyMicros: 14_000 }), { weekday: 5, flightDays: null })).toEqual([7000, 7000, 2000, 2000, 2000, 2000, 2000])
    expect(
      stepOf(own({ weeklyMicros: 14_000 }, { spent: { ...NOTHING_SPENT, week: { micros: 10_000, impressions: 0 } } }), {
        weekday: 5,
        flightDays: null
      }).slice(0, 3)
    ).toEqual([2000, 2000, 2000])
    expect(stepOf(own({ monthlyMicros: 30_000 }), { daysLeftInMonth: 3, flightDays: null }).slice(0, 4)).toEqual([
      10_000, 10_000, 10_000, 1000
    ])
    expect(stepOf(own({ dailyImpressions: 500 }))).toEqual(new Array<number>(7).fill(500))
    expect(stepOf(own({ dailyMicros: 9000, dailyImpressions: 500 }))).toEqual(new Array<number>(7).fill(500))
    expect(hasLimits(NO_LIMITS)).toBe(false)
    const weights = { day: 60, week: 120, month: 120, flight: 120 }
    expect(
      dayAllowance({ daily: null, weekly: null, monthly: null, total: null }, { day: 0, week: 0, month: 0, total: 0 }, weights, false)
    ).toBe(Infinity)
    expect(
      dayAllowance({ daily: 5, weekly: null, monthly: null, total: 100 }, { day: 0, week: 0, month: 0, total: 0 }, weights, false)
    ).toBe(5)
  })

  it('gives hours that are off nothing, and what they would have had to the open ones', () => {
    const slots = new Float64Array(168).fill(1000)
    const open = Array.from({ length: 168 }, (_, hour) => (hour % 24 < 12 ? 0 : 60))
    const { shares } = moneyStep(
      slots.map((a, slot) => (slot % 24 < 12 ? 0 : a)),
      slots,
      own({ dailyMicros: 6000 }),
      { ...calendar, openMinutes: open },
      1
    )
    expect(shares[3]).toBe(0)
    expect(shares[20]).toBeCloseTo(0.5, 9)
  })

  it('shares a campaign day', () => {
    const slots = new Float64Array(168).fill(1000)
    const { daySpend } = moneyStep(
      slots,
      slots,
      { ...NO_MONEY, campaign: { ...NO_LIMITS, dailyMicros: 8000 }, mates: [{ demandMicros: 72_000, dailyMicros: null }] },
      calendar,
      1
    )
    expect(daySpend[3]).toBeCloseTo(2000, 6)
    // What a mate cannot use is left to it.
    const mates = [{ demandMicros: 72_000, dailyMicros: 1000 }]
    const { plans } = moneyStep(slots, slots, { ...NO_MONEY, campaign: { ...NO_LIMITS, dailyMicros: 8000 }, mates }, calendar, 1)
    expect(plans[3].micros).toBe(7000)
  })

  it('a budget of its own or of its campaign is never forecast to be passed', () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer({ min: 5_000, max: 3_000_000 }), fc.boolean(), (seed, limit, ofCampaign) => {
        const { targeting, price, caps, pacing } = randomLine(1, numbers(seed))
        const { day, flight } = figures(
          question({
            targeting,
            price,
            caps,
            pacing,
            zone: 'Europe/Lisbon',
            endHour: START + 12 * 24,
            limits: { ...NO_LIMITS, dailyMicros: ofCampaign ? null : limit },
            campaignLimits: { ...NO_LIMITS, dailyMicros: ofCampaign ? limit : null, totalMicros: limit * 3 }
          })
        )
        expect(day.spend.value).toBeLessThanOrEqual(limit * 1.000001)
        expect(flight.spend.value).toBeLessThanOrEqual(limit * 3 * 1.000001)
        expect(flight.reach.value).toBeLessThanOrEqual(flight.wins.value + 1e-6)
      }),
      { numRuns: 12 }
    )
  })
})

describe('time', () => {
  it('a week as it stands takes each of its rows once, whatever the zone', () => {
    for (const offset of [-480, 0, 330, 600]) {
      for (const week of [0, 1] as const) {
        const { time, clock } = weekTimeline(tape, week, offset)
        let taken = 0
        for (const minute of tape.rows.minute) {
          if (time[minute] < 0) continue
          taken++
          if (clock[minute] < 0 || clock[minute] >= 10_080) throw new Error('outside the week')
        }
        expect(taken).toBe(tape.rows.minute.filter((minute) => Math.floor(minute / 10_080) === week).length)
      }
    }
    expect(flightTimeline(tape, 60, 20, 0, 0).repeats).toBe(2)
  })
})
