import { PERSON_WORDS, demographicOf, postalOf } from '../market/index.js'
import { POSTALS, placeTest } from '../places/index.js'
import { SHOP_DAYS, sharesPlace, shopLift, visitsShop } from '../response/index.js'
import { AGES } from '../taxonomy/index.js'
import { HOURS_PER_DAY, dayOfHour } from '../time/index.js'
import { countRatioRange } from '../report/index.js'
import type { ReportHour } from './pivot.js'

export interface ShopQuestion {
  advertiser: number
  /** Place codes of its shops, and the lines whose impressions count. */
  places: readonly string[]
  lines: readonly number[]
  /** Market days [from, to). */
  fromDay: number
  toDay: number
}

/** Visits of those who saw an ad in the days before, beside those who did not. */
export interface ShopVisits {
  /** People of the shops' places who share where they are, and how many of them saw an ad. */
  panel: number
  exposed: number
  /** Person-days within a week of an exposure, and all others, with the visits on them. */
  exposedDays: number
  exposedVisits: number
  otherDays: number
  otherVisits: number
  /** Visits on the exposed days if these people had gone as often as others of their age did without an exposure. */
  expectedVisits: number
  /** Visits of what was expected, with its 90 % range; null when nothing can be expected. */
  ratio: { value: number; low: number; high: number } | null
}

/**
 * Joins the delivery log with what the place panel tells.
 * @param hours of the log, from a week before the first day
 * @param words people's words of the world of that seed
 */
export function shopVisits(
  { advertiser, places, lines, fromDay, toDay }: ShopQuestion,
  hours: readonly ReportHour[],
  words: Int32Array,
  seed: number
): ShopVisits {
  const tests = places.map((code) => placeTest(code)).filter((test) => test !== undefined)
  const isNear = Uint8Array.from(POSTALS, (postal) => (tests.some((test) => test(postal)) ? 1 : 0))
  const days = Math.max(0, toDay - fromDay)
  const wanted = new Set(lines)
  const seen = new Map<number, Uint8Array>()
  for (const { hour, log } of hours) {
    const first = dayOfHour(hour) - fromDay
    for (let i = 0; i < log.count; i++) {
      const person = log.person[i]
      if (!wanted.has(log.line[i]) || isNear[postalOf(words[person * PERSON_WORDS])] === 0) continue
      const daysSeen = seen.get(person) ?? new Uint8Array(days)
      seen.set(person, daysSeen)
      for (let day = Math.max(0, first); day < Math.min(days, first + SHOP_DAYS); day++) daysSeen[day] = 1
    }
  }
  const lift = shopLift(seed, advertiser)
  const counts = AGES.map(() => ({ exposed: { days: 0, visits: 0 }, other: { days: 0, visits: 0 } }))
  const found = { panel: 0, exposed: 0 }
  for (let person = 0; person * PERSON_WORDS < words.length; person++) {
    if (isNear[postalOf(words[person * PERSON_WORDS])] === 0 || !sharesPlace(seed, person)) continue
    const age = demographicOf(words[person * PERSON_WORDS + 1]) & 7
    const own = seen.get(person)
    found.panel++
    if (own) found.exposed++
    for (let day = 0; day < days; day++) {
      const isExposed = own !== undefined && own[day] === 1
      const into = isExposed ? counts[age].exposed : counts[age].other
      into.days++
      if (visitsShop(seed, advertiser, person, fromDay + day, age, isExposed ? lift : 1)) into.visits++
    }
  }
  const sum = (pick: (counted: (typeof counts)[0]) => number) => counts.reduce((total, counted) => total + pick(counted), 0)
  const [exposedVisits, otherVisits, otherDays] = [
    sum((counted) => counted.exposed.visits),
    sum((counted) => counted.other.visits),
    sum((counted) => counted.other.days)
  ]
  const overall = otherDays > 0 ? otherVisits / otherDays : 0
  const expectedVisits = sum(({ exposed, other }) => exposed.days * (other.days > 0 ? other.visits / other.days : overall))
  return {
    ...found,
    exposedDays: sum((counted) => counted.exposed.days),
    exposedVisits,
    otherDays,
    otherVisits,
    expectedVisits,
    ratio: expectedVisits > 0 ? countRatioRange(exposedVisits, expectedVisits, otherVisits) : null
  }
}

/** First market hour whose impressions can still count on a day. */
export const shopHoursFrom = (fromDay: number) => (fromDay - SHOP_DAYS + 1) * HOURS_PER_DAY
