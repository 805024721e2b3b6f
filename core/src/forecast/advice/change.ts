import type { Pacing } from '../../exchange/index.js'
import { HOURS_PER_WEEK, type HourPlan } from '../../pricing/index.js'
import type { Targeting } from '../../targeting/index.js'
import type { ForecastQuestion } from '../question.js'

/** What can be left out of what a line buys. */
export type LeftOut = 'size' | 'placement'

/** One change to a line, small enough to be told in a sentence. */
export type Change =
  | { kind: 'bid'; micros: number }
  | { kind: 'maximum'; micros: number }
  | { kind: 'daily budget'; micros: number }
  | { kind: 'cap'; cap: number; times: number | null }
  /** Minutes between two showings; null for none. */
  | { kind: 'gap'; minutes: number | null }
  | { kind: 'hours' }
  /** Hours of the day, of every weekday, in which it is shut. */
  | { kind: 'hours out'; hours: readonly number[] }
  | { kind: 'follow' }
  | { kind: 'pacing'; pacing: Pacing }
  | { kind: 'restriction'; place: number }
  | { kind: 'left out'; dimension: LeftOut; values: readonly string[] }

/** The hours of a line with some hours of the day shut. */
export function withoutHours(plan: HourPlan | null | undefined, hours: readonly number[]): HourPlan {
  return {
    clock: plan?.clock ?? 'line',
    perMille: Array.from({ length: HOURS_PER_WEEK }, (_, hour) => (hours.includes(hour % 24) ? 0 : (plan?.perMille[hour] ?? 1000)))
  }
}

/** Targeting that leaves out some more values. */
export function leavingOut({ restrictions }: Targeting, dimension: LeftOut, values: readonly string[]): Targeting {
  const place = restrictions.findIndex((one) => one.dimension === dimension && one.mode === 'exclude' && one.list === undefined)
  if (place < 0) return { restrictions: [...restrictions, { dimension, mode: 'exclude', values: [...values] }] }
  return {
    restrictions: restrictions.map((one, n) => (n === place ? { ...one, values: [...new Set([...one.values, ...values])] } : one))
  }
}

function changedOnce(question: ForecastQuestion, change: Change): ForecastQuestion {
  switch (change.kind) {
    case 'bid':
      return {
        ...question,
        price: {
          ...question.price,
          bidMicros: change.micros,
          maxMicros: question.price.maxMicros === null ? null : Math.max(question.price.maxMicros, change.micros)
        }
      }
    case 'maximum':
      return { ...question, price: { ...question.price, maxMicros: change.micros } }
    case 'daily budget':
      return { ...question, limits: { ...question.limits, dailyMicros: change.micros } }
    case 'cap':
      return {
        ...question,
        caps: question.caps.flatMap((cap, n) => (n !== change.cap ? [cap] : change.times === null ? [] : [{ ...cap, times: change.times }]))
      }
    case 'gap':
      return { ...question, gapMinutes: change.minutes ?? 0 }
    case 'hours':
      return { ...question, hours: null }
    case 'hours out':
      return { ...question, hours: withoutHours(question.hours, change.hours) }
    case 'follow':
      return { ...question, follow: true }
    case 'pacing':
      return { ...question, pacing: change.pacing }
    case 'restriction':
      return { ...question, targeting: { restrictions: question.targeting.restrictions.filter((_, place) => place !== change.place) } }
    case 'left out':
      return { ...question, targeting: leavingOut(question.targeting, change.dimension, change.values) }
  }
}

/** A question with changes made to it, one after the other. */
export function changed(question: ForecastQuestion, ...changes: readonly Change[]): ForecastQuestion {
  return changes.reduce(changedOnce, question)
}
