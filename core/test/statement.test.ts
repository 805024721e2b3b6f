import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { hoursOfMonth, lastsHours, monthOfHour, monthsBetween, statementOf, type Booked } from '../src/money/index.js'
import { ZONES, dateOfDay, zoneIndex } from '../src/time/index.js'

const lisbon = zoneIndex('Europe/Lisbon')
const booked = (over: Partial<Booked> = {}): Booked => ({ hour: 1440, kind: 'spend', advertiser: 1, note: '', amountMicros: -1, ...over })

describe('months of a ledger', () => {
  it('meet without a gap in every zone, whatever clocks do in them', () => {
    const months = monthsBetween('2026-01', '2028-03').reverse()
    expect(months).toHaveLength(27)
    for (let zone = 0; zone < ZONES.length; zone++)
      for (const [n, month] of months.entries()) {
        const { from, to } = hoursOfMonth(zone, month)
        expect(monthOfHour(zone, from), `${ZONES[zone]} ${month}`).toBe(month)
        expect(monthOfHour(zone, to - 1)).toBe(month)
        if (n > 0) expect(hoursOfMonth(zone, months[n - 1]).to).toBe(from)
      }
  })

  it('are refused where there is none', () => {
    expect(() => hoursOfMonth(lisbon, '2026-13')).toThrow(RangeError)
    expect(monthsBetween('2026-12', '2027-01')).toEqual(['2027-01', '2026-12'])
  })

  it('have an hour less in March, where clocks go forward', () => {
    const { from, to } = hoursOfMonth(lisbon, '2026-03')
    expect(to - from).toBe(31 * 24 - 1)
  })
})

describe('a statement', () => {
  it('sums spend by day and advertiser, keeps money in apart and first, and runs the balance', () => {
    const { rows, inMicros, outMicros, closingMicros } = statementOf(lisbon, 100, [
      booked({ amountMicros: -7 }),
      booked({ hour: 1445, amountMicros: -5 }),
      booked({ hour: 1446, advertiser: 2, amountMicros: -3 }),
      booked({ hour: 1450, kind: 'top-up', advertiser: null, note: 'Card', amountMicros: 50 }),
      booked({ hour: 1450, kind: 'top-up', advertiser: null, note: 'Card', amountMicros: 50 }),
      booked({ hour: 1464, amountMicros: -2 })
    ])
    expect(rows.map((row) => [dateOfDay(row.day), row.kind, row.advertiser, row.amountMicros, row.balanceMicros])).toEqual([
      ['2026-03-02', 'top-up', null, 50, 150],
      ['2026-03-02', 'top-up', null, 50, 200],
      ['2026-03-02', 'spend', 1, -12, 188],
      ['2026-03-02', 'spend', 2, -3, 185],
      ['2026-03-03', 'spend', 1, -2, 183]
    ])
    expect([inMicros, outMicros, closingMicros]).toEqual([100, -17, 183])
  })

  it('adds up to the micro, in whatever order it was booked; months carry on where the one before ended', () => {
    const entry = fc.record({
      hour: fc.integer({ min: 0, max: 24 * 120 }),
      kind: fc.constantFrom('top-up' as const, 'spend' as const),
      advertiser: fc.constantFrom(null, 1, 2, 3),
      note: fc.constantFrom('', 'Card'),
      amountMicros: fc.integer({ min: 1, max: 1e9 })
    })
    fc.assert(
      fc.property(fc.array(entry, { maxLength: 60 }), fc.integer({ min: 0, max: ZONES.length - 1 }), (entries, zone) => {
        const all = entries.map((one) => (one.kind === 'spend' ? { ...one, amountMicros: -one.amountMicros } : one))
        const sum = all.reduce((total, { amountMicros }) => total + amountMicros, 0)
        let carried = 0
        for (const month of monthsBetween('2025-12', '2026-05').reverse()) {
          const { from, to } = hoursOfMonth(zone, month)
          const own = all.filter(({ hour }) => hour >= from && hour < to)
          const told = statementOf(zone, carried, own)
          expect(told.openingMicros + told.inMicros + told.outMicros).toBe(told.closingMicros)
          expect(told.rows.at(-1)?.balanceMicros ?? carried).toBe(told.closingMicros)
          expect(statementOf(zone, carried, [...own].reverse()).closingMicros).toBe(told.closingMicros)
          carried = told.closingMicros
        }
        expect(carried).toBe(sum)
      })
    )
  })

  it('tells how long money lasts at the pace of a day; nothing spent is no pace', () => {
    expect(lastsHours(240, 24)).toBe(240)
    expect(lastsHours(239, 240)).toBe(23)
    expect(lastsHours(10, 0)).toBeNull()
    expect(lastsHours(0, 0)).toBe(0)
    expect(lastsHours(-5, 10)).toBe(0)
  })
})
