import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { daysDue, hoursRun, joined, type HourRange } from '../src/results/index.js'
import { zoneIndex } from '../src/time/index.js'
import { START } from './support/lines.js'

const zone = zoneIndex('UTC')
const flight = { startHour: START, endHour: START + 20 * 24 }
const openFrom = (from: number, to: number) => ({
  clock: 'line' as const,
  perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 >= from && hour % 24 < to ? 1000 : 0))
})
const ranges = fc
  .array(fc.tuple(fc.integer({ min: -50, max: 600 }), fc.integer({ min: 0, max: 200 })), { maxLength: 6 })
  .map((all) => all.map(([from, length]): HourRange => ({ from: START + from, to: START + from + length })))

describe('what is due of a plan', () => {
  it('is a day for each day in which all open hours ran, and nothing for hours that were shut, paused or outside the flight', () => {
    const all = [{ from: START - 48, to: START + 100 * 24 }]
    const office = openFrom(8, 18)
    expect(daysDue(flight, { hours: null, zone }, all, START + 36)).toBeCloseTo(1.5, 9)
    expect(daysDue(flight, { hours: office, zone }, all, START + 8)).toBe(0)
    expect(daysDue(flight, { hours: office, zone }, all, START + 13)).toBeCloseTo(0.5, 9)
    expect(daysDue(flight, { hours: office, zone }, all, START + 24)).toBeCloseTo(1, 9)
    expect(daysDue(flight, { hours: office, zone }, all, START + 999)).toBeCloseTo(20, 9)
    // Paused over the second day.
    const paused = [
      { from: START, to: START + 24 },
      { from: START + 48, to: START + 72 }
    ]
    expect(daysDue(flight, { hours: office, zone }, paused, START + 72)).toBeCloseTo(2, 9)
    expect(hoursRun(flight, paused, START + 60)).toBe(36)
    expect(daysDue(flight, { hours: null, zone }, [], START + 72)).toBe(0)
  })

  it('never falls as time goes on, and is the same however its ranges are cut', () => {
    fc.assert(
      fc.property(ranges, fc.integer({ min: 0, max: 700 }), fc.integer({ min: 0, max: 100 }), fc.boolean(), (all, until, more, shut) => {
        const inForce = joined(all)
        const plan = { hours: shut ? openFrom(6, 23) : null, zone }
        const due = (hour: number) => daysDue(flight, plan, inForce, hour)
        expect(due(START + until + more)).toBeGreaterThanOrEqual(due(START + until) - 1e-9)
        for (let n = 1; n < inForce.length; n++) expect(inForce[n].from).toBeGreaterThan(inForce[n - 1].to)
        const cut = inForce.flatMap(({ from, to }) => {
          const middle = Math.floor((from + to) / 2)
          return [
            { from, to: middle },
            { from: middle, to }
          ]
        })
        expect(daysDue(flight, plan, cut, START + until)).toBeCloseTo(due(START + until), 6)
        expect(joined(cut)).toEqual(inForce)
      })
    )
  })
})
