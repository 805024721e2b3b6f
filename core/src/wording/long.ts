import type { LineDraft } from '../buying/index.js'
import { plainMoney } from '../money/index.js'
import { MODEL_WORDS } from '../taxonomy/index.js'
import { dateOfDay, dayOfDate } from '../time/index.js'
import { listed, quoted } from './quoting.js'
import { longRestriction, longValue } from './values.js'
import { longWeek } from './week.js'

export { MODEL_WORDS }
export const PACING_WORDS = { even: 'evenly', traffic: 'with the traffic', fast: 'as fast as it can' } as const
export const ROTATION_WORDS = { weight: 'by weight', even: 'in turn', learning: 'by learning which serves the goal' } as const
/** Steps of the sieve that are no restriction. */
export const STEP_WORDS = { hours: 'when it is open', ads: 'where one of its ads may be shown' } as const
export const AIM_EVENTS = {
  conversion: 'a conversion',
  click: 'a click',
  view: 'a view',
  stay: 'a stay',
  page: 'a page opened',
  person: 'a new person',
  value: 'each euro of value'
} as const
/** Where a flight begins or ends at an hour of the clock. */
export const clockWords = (hour: number | null | undefined) => (hour == null ? '' : ` at ${hour}:00`)
export const ONCE_WORDS = { start: 'start with the flight', wait: 'wait for release' } as const
/** Limits in the order in which they are said, with what follows the amount. */
export const LIMIT_WORDS = {
  dailyMicros: 'a day',
  weeklyMicros: 'a week',
  monthlyMicros: 'a month',
  totalMicros: 'in all',
  placementDailyMicros: 'a day on a placement',
  sourceDailyMicros: 'a day through a source',
  dailyImpressions: 'impressions a day',
  weeklyImpressions: 'impressions a week',
  monthlyImpressions: 'impressions a month',
  totalImpressions: 'impressions in all'
} as const
export type LimitName = keyof typeof LIMIT_WORDS
export const isMoneyLimit = (name: LimitName) => name.endsWith('Micros')

const MONTHS = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December']
/** An amount to the cent, or as far as it needs. */
export const euros = (micros: number) => `€${plainMoney(micros)}`

/** A date in words, `14 March 2026`; what is no date stays as it is. */
export function dateWords(date: string): string {
  const found = /^(\d{4})-(\d{2})-(\d{2})$/.exec(date)
  return found && MONTHS[Number(found[2]) - 1] ? `${Number(found[3])} ${MONTHS[Number(found[2]) - 1]} ${found[1]}` : date
}

/** The date of `14 March 2026` or `2026-03-14`; null for anything else. */
export function readDate(text: string): string | null {
  const found = /^(\d{1,2}) ([A-Z][a-z]+) (\d{4})$/.exec(text)
  const month = found ? MONTHS.indexOf(found[2]) + 1 : 0
  const date = found && month > 0 ? `${found[3]}-${String(month).padStart(2, '0')}-${found[1].padStart(2, '0')}` : text
  try {
    dayOfDate(date)
    return date
  } catch {
    return null
  }
}

const perCent = (perMille: number) => `${perMille / 10} %`
/** A multiplier as what it takes off or adds. */
export const bent = (perMille: number) => `${perMille < 1000 ? '−' : '+'}${perCent(Math.abs(perMille - 1000))}`

/** When a film or a spot counts as viewed. */
export const viewWords = (seconds: number | null | undefined) =>
  seconds == null ? 'after 30 s or at the end' : seconds === 0 ? 'at the end' : `after ${seconds} s`

function priceSentences({ price, viewSeconds }: LineDraft): string[] {
  const { model, bidMicros, maxMicros, adjustments = [], steps = [], repeatDiscount = 0, aim, follow } = price
  const unit = MODEL_WORDS[model]
  return [
    `Bid ${bidMicros === null ? 'nothing yet' : euros(bidMicros)} ${unit}${maxMicros === null ? '' : `, never above ${euros(maxMicros)}`}${follow ? ', following the market' : ''}${aim ? `, aiming at ${euros(aim.micros)} for ${AIM_EVENTS[aim.event]}` : ''}`,
    ...(steps.length > 0
      ? [
          `Change the bid ${steps.map(({ after, from, bidMicros: bid }) => `${after === 'date' ? `on ${dateWords(dateOfDay(from))}` : `after ${from} ${after}`} to ${euros(bid)}`).join('; ')}`
        ]
      : []),
    ...(adjustments.length > 0
      ? [
          `Adjust ${adjustments.map(({ dimension, value, perMille, ownMicros }) => `${dimension}: ${longValue(dimension, value)} ${perMille === null ? `at ${euros(ownMicros ?? 0)}` : `by ${bent(perMille)}`}`).join('; ')}`
        ]
      : []),
    ...(viewSeconds == null ? [] : [`Count a view ${viewWords(viewSeconds)}`]),
    ...(repeatDiscount > 0 ? [`Bid ${perCent(repeatDiscount)} less for each earlier showing to the same person`] : [])
  ]
}

function paceSentences({ budget, pacing, rotation = 'weight', caps, gapMinutes }: LineDraft): string[] {
  const limits = (Object.keys(LIMIT_WORDS) as LimitName[]).flatMap((name) =>
    budget[name] == null ? [] : [`${isMoneyLimit(name) ? euros(budget[name]) : budget[name]} ${LIMIT_WORDS[name]}`]
  )
  const shown = [
    caps.map(({ times, hours }) => `${times} times in ${hours} hours`).join(' and '),
    gapMinutes ? `${gapMinutes} minutes apart` : ''
  ]
    .filter(Boolean)
    .join(', ')
  return [
    `Spend ${limits.length > 0 ? `at most ${limits.join(', ')}` : 'without a limit of its own'}, ${PACING_WORDS[pacing]}`,
    ...(shown ? [`Show it to one person ${shown}`] : []),
    ...(rotation === 'weight' ? [] : [`Let ads take turns ${ROTATION_WORDS[rotation]}`])
  ]
}

function buysSentence({ buys }: LineDraft): string[] {
  if (!buys || (buys.open && buys.deals.length === 0)) return []
  return [`Buy ${buys.open ? 'on the open market and ' : ''}by the deals ${buys.deals.join(', ')}${buys.open ? '' : ' alone'}`]
}

/**
 * A line as a paragraph that says all of it: read back it is the same line.
 * @param draft as `plainLine` leaves it: what says nothing is not said
 */
export function longWording(draft: LineDraft): string {
  const { name, format, flight, zone, hours, landing, landings = [], onceCleared, targeting } = draft
  const restrictions = targeting.restrictions.map(longRestriction).join('; ')
  return [
    `Buy ${format} as ${quoted(name)}${restrictions ? `: ${restrictions}` : ''}`,
    ...buysSentence(draft),
    `Run from ${dateWords(flight.startDate)}${clockWords(flight.startHour)} ${flight.endDate === null ? 'on' : `to ${dateWords(flight.endDate)}${clockWords(flight.endHour)}`}, by the days of ${listed(zone)}`,
    ...(hours ? [`Open ${hours.clock === 'viewer' ? "in the viewer's time" : 'in the time of the line'} ${longWeek(hours.perMille)}`] : []),
    ...priceSentences(draft),
    ...paceSentences(draft),
    ...landings.map(
      ({ countries, devices, link }) =>
        `Land ${countries.length > 0 ? `in ${countries.join(', ')} ` : ''}${devices.length > 0 ? `with ${devices.join(', ')} ` : ''}on ${quoted(link)}`
    ),
    ...(landing ? [`Land on ${quoted(landing)}`] : []),
    `Once cleared, ${ONCE_WORDS[onceCleared]}`
  ]
    .map((sentence) => `${sentence}.`)
    .join(' ')
}
