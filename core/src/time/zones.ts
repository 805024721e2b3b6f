/**
 * Offsets of the zones our market uses, by rule, so that a world is equal to the bit whatever zone database
 * a machine has. Offsets and rules as in the IANA zone database, version 2025b; a test compares them with Intl.
 */
import { HOURS_PER_DAY, weekdayOf } from './market-time.js'

type Summer = 'none' | 'eu' | 'us' | 'au'
interface Zone {
  name: string
  /** Standard offset from UTC in minutes. */
  offset: number
  summer: Summer
}

const table: [string, number, Summer][] = [
  ['UTC', 0, 'none'],
  ['Europe/Lisbon', 0, 'eu'],
  ['Europe/London', 0, 'eu'],
  ['Europe/Dublin', 0, 'eu'],
  ['Atlantic/Canary', 0, 'eu'],
  ['Europe/Madrid', 60, 'eu'],
  ['Europe/Paris', 60, 'eu'],
  ['Europe/Berlin', 60, 'eu'],
  ['Europe/Vienna', 60, 'eu'],
  ['Europe/Zurich', 60, 'eu'],
  ['Europe/Rome', 60, 'eu'],
  ['Europe/Amsterdam', 60, 'eu'],
  ['Europe/Brussels', 60, 'eu'],
  ['Europe/Stockholm', 60, 'eu'],
  ['Europe/Copenhagen', 60, 'eu'],
  ['Europe/Warsaw', 60, 'eu'],
  ['America/New_York', -300, 'us'],
  ['America/Chicago', -360, 'us'],
  ['America/Denver', -420, 'us'],
  ['America/Phoenix', -420, 'none'],
  ['America/Halifax', -240, 'us'],
  ['America/Regina', -360, 'none'],
  ['America/Los_Angeles', -480, 'us'],
  ['America/Toronto', -300, 'us'],
  ['America/Vancouver', -480, 'us'],
  ['America/Mexico_City', -360, 'none'],
  ['America/Sao_Paulo', -180, 'none'],
  ['America/Manaus', -240, 'none'],
  ['America/Argentina/Buenos_Aires', -180, 'none'],
  ['Asia/Kolkata', 330, 'none'],
  ['Asia/Tokyo', 540, 'none'],
  ['Australia/Sydney', 600, 'au'],
  ['Australia/Brisbane', 600, 'none'],
  ['Australia/Perth', 480, 'none'],
  ['Africa/Johannesburg', 120, 'none'],
  ['Asia/Jakarta', 420, 'none'],
  ['Asia/Makassar', 480, 'none']
]

export const ZONES: readonly Zone[] = table.map(([name, offset, summer]) => ({ name, offset, summer }))

/** Zones that a line, an advertiser or an organisation may have: whole hours only. */
export const WHOLE_HOUR_ZONES: readonly string[] = ZONES.filter((zone) => zone.offset % 60 === 0).map((zone) => zone.name)

const byName = new Map(ZONES.map((zone, index) => [zone.name, index]))

/** Index of a zone in `ZONES`; throws RangeError for an unknown name. */
export function zoneIndex(name: string): number {
  const index = byName.get(name)
  if (index === undefined) throw new RangeError(`Unknown time zone "${name}".`)
  return index
}

/** Market day of the n-th (1-based; 0 = last) Sunday of a month. */
function sundayOf(year: number, month: number, nth: number): number {
  const first = Math.floor((Date.UTC(year, month - 1, 1) - Date.UTC(2026, 0, 1)) / 86_400_000)
  const days = new Date(Date.UTC(year, month, 0)).getUTCDate()
  if (nth === 0) {
    const last = first + days - 1
    return last - ((weekdayOf(last) + 1) % 7)
  }
  return first + ((6 - weekdayOf(first) + 7) % 7) + (nth - 1) * 7
}

/** [start, end) of summer time in market hours (UTC) for a year; `end < start` in the south. */
function summerOf(zone: Zone, year: number): [number, number] {
  const standard = zone.offset / 60
  switch (zone.summer) {
    case 'eu':
      return [sundayOf(year, 3, 0) * HOURS_PER_DAY + 1, sundayOf(year, 10, 0) * HOURS_PER_DAY + 1]
    case 'us':
      return [sundayOf(year, 3, 2) * HOURS_PER_DAY + 2 - standard, sundayOf(year, 11, 1) * HOURS_PER_DAY + 1 - standard]
    case 'au':
      return [sundayOf(year, 10, 1) * HOURS_PER_DAY + 2 - standard, sundayOf(year, 4, 1) * HOURS_PER_DAY + 2 - standard]
    default:
      return [0, 0]
  }
}

const FIRST_YEAR = 2025
const summers = ZONES.map((zone) => Array.from({ length: 15 }, (_, i) => summerOf(zone, FIRST_YEAR + i)))

/**
 * Offset of a zone from UTC in minutes at a market hour.
 * @param hour whole hours since 2026-01-01T00:00Z; years 2025 to 2039
 */
export function offsetMinutes(zone: number, hour: number): number {
  const { offset, summer } = ZONES[zone]
  if (summer === 'none') return offset
  const year = new Date(Date.UTC(2026, 0, 1) + hour * 3_600_000).getUTCFullYear()
  const [start, end] = summers[zone][Math.min(14, Math.max(0, year - FIRST_YEAR))]
  const on = start < end ? hour >= start && hour < end : hour >= start || hour < end
  return on ? offset + 60 : offset
}
