import { dateOfDay, dayOfDate } from '@tin-harbor/core/time'
import { shortDate } from './formats'

/** One date axis that all strips of the manifest lie on. */
export interface Axis {
  /** Share of the width, 0 to 1, at which a market day begins. */
  at: (day: number) => number
  ticks: { label: string; at: number }[]
}

interface Span {
  startDate: string
  endDate: string | null
}

const TICKS = 4

/** An axis from the first start to the last end, and at least a week beyond the clock for what is open. */
export function axisOf(spans: readonly Span[], today: number): Axis {
  const starts = spans.map((span) => dayOfDate(span.startDate))
  const ends = spans.map((span) => (span.endDate === null ? today + 14 : dayOfDate(span.endDate) + 1))
  const first = Math.min(today - 7, ...starts)
  const last = Math.max(today + 7, ...ends)
  const placeOf = (day: number) => Math.min(1, Math.max(0, (day - first) / (last - first)))
  const step = Math.max(1, Math.round((last - first) / TICKS))
  return {
    at: placeOf,
    ticks: Array.from({ length: TICKS }, (_, n) => first + n * step).map((day) => ({ label: shortDate(dateOfDay(day)), at: placeOf(day) }))
  }
}
