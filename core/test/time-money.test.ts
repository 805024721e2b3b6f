import { describe, expect, it } from 'vitest'
import { MoneyFormatError, cpmOf, marksOf, parseMoney, perImpression, plainMoney } from '../src/money/index.js'
import { ZONES, dateOfDay, dayOfDate, localDayOf, offsetMinutes, startOfLocalDay, weekdayOf, zoneIndex } from '../src/time/index.js'

/** Offset by the machine's own zone database. */
function intlOffset(format: Intl.DateTimeFormat, hour: number): number {
  const instant = new Date(Date.UTC(2026, 0, 1) + hour * 3_600_000)
  const parts = format.formatToParts(instant)
  const partOf = (type: string) => Number(parts.find((part) => part.type === type)?.value)
  return (Date.UTC(partOf('year'), partOf('month') - 1, partOf('day'), partOf('hour'), partOf('minute')) - instant.getTime()) / 60_000
}

describe('time', () => {
  it('counts days and weekdays from 1 January 2026, a Thursday', () => {
    expect(dayOfDate('2026-03-02')).toBe(60)
    expect(weekdayOf(60)).toBe(0)
    expect(weekdayOf(-1)).toBe(2)
    expect(dateOfDay(60)).toBe('2026-03-02')
    expect(() => dayOfDate('2026-02-30')).toThrow('not a date')
    expect(() => dayOfDate('tomorrow')).toThrow(RangeError)
  })

  it.each(ZONES.map((zone) => zone.name))('offsets of %s are those of the zone database, every hour around changes', (name) => {
    const zone = zoneIndex(name)
    const format = new Intl.DateTimeFormat('en-GB', {
      timeZone: name,
      hourCycle: 'h23',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit'
    })
    for (let day = 0; day < 730; day += 1) {
      const step = offsetMinutes(zone, day * 24) === offsetMinutes(zone, day * 24 + 24) ? 24 : 1
      for (let hour = day * 24; hour < day * 24 + 24; hour += step)
        expect([hour, offsetMinutes(zone, hour)]).toEqual([hour, intlOffset(format, hour)])
    }
  })

  it('local days tile time, with 23 and 25 hours when clocks change', () => {
    const lisbon = zoneIndex('Europe/Lisbon')
    const lengths = new Map<number, number>()
    for (let day = 0; day < 400; day++) {
      const length = startOfLocalDay(lisbon, day + 1) - startOfLocalDay(lisbon, day)
      lengths.set(length, (lengths.get(length) ?? 0) + 1)
      expect(localDayOf(lisbon, startOfLocalDay(lisbon, day))).toBe(day)
    }
    expect([...lengths.keys()].sort()).toEqual([23, 24, 25])
  })
})

describe('money', () => {
  const english = marksOf('en-GB')
  const portuguese = marksOf('de-DE')
  it.each([
    ['2.40', 2_400_000],
    ['2,40', 2_400_000],
    ['1,200', 1_200_000_000],
    ['1,200.50', 1_200_500_000],
    ['1200', 1_200_000_000],
    ['€ 0.001', 1000]
  ])('reads %s', (text, micros) => {
    expect(parseMoney(text, english)).toBe(micros)
  })
  it('reads the other way round where the locale does', () => {
    expect(parseMoney('1.200', portuguese)).toBe(1_200_000_000)
    expect(parseMoney('1.200,5', portuguese)).toBe(1_200_500_000)
  })
  it.each(['1.200,5.0', '', 'abc', '-3', '1,20,3', '0.0000001', '1,2.3,4'])('refuses "%s"', (text) => {
    expect(() => parseMoney(text, english)).toThrow(MoneyFormatError)
  })
  it('prices an impression in whole micros', () => {
    expect(perImpression(2_400_000)).toBe(2400)
    expect(() => perImpression(2_400_500)).toThrow(RangeError)
    expect(plainMoney(2_400_000)).toBe('2.40')
    expect(plainMoney(1_234_000)).toBe('1.234')
    expect(cpmOf(5000, 0)).toBe(0)
  })
})
