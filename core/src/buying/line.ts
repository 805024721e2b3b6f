import * as yup from 'yup'
import { CPM_STEP } from '../money/index.js'
import { PACINGS, type Cap, type Pacing } from '../exchange/index.js'
import { targetingSchema, type Targeting } from '../targeting/index.js'
import { FORMATS, type Format } from '../taxonomy/index.js'
import { WHOLE_HOUR_ZONES, dayOfDate, startOfLocalDay, zoneIndex } from '../time/index.js'
import { LIMITS, flightSchema, moneyField, nameField, type FieldIssue, type Flight } from './fields.js'
import { ONCE_CLEARED, type OnceCleared } from './states.js'

/** A line as it is drafted. Amounts that were not chosen yet are null. */
export interface LineDraft {
  name: string
  format: Format
  zone: string
  targeting: Targeting
  /** Micros a thousand. */
  price: { model: 'CPM'; bidMicros: number | null; maxMicros: number | null }
  flight: Flight
  budget: { dailyMicros: number | null; totalMicros: number | null }
  pacing: Pacing
  caps: Cap[]
  landing: string
  onceCleared: OnceCleared
}

const cpmField = (what: string) => moneyField(what, LIMITS.mostCpmMicros)
  .test('step', `${what} goes in steps of 0.001.`, (micros) => micros == null || micros % CPM_STEP === 0)

/** A budget must pay for one impression at the bid. */
const overOneImpression = (what: string) => function (this: yup.TestContext, micros: number | null | undefined) {
  const bid = (this.from?.[1]?.value as LineDraft | undefined)?.price?.bidMicros
  if (micros == null || bid == null || micros >= bid / 1000) return true
  return this.createError({ message: `${what} is below the price of one impression at this bid.` })
}

export const capSchema: yup.ObjectSchema<Cap> = yup.object({
  times: yup.number().integer('A cap counts whole times.').min(1, 'A cap allows at least once.').max(LIMITS.mostCapTimes, `A cap allows at most ${LIMITS.mostCapTimes} times.`).required('How often?'),
  hours: yup.number().integer('A window has whole hours.').min(1, 'A window has at least an hour.').max(LIMITS.mostCapHours, 'A window has at most 720 hours (30 days).').required('In how many hours?')
}).noUnknown()

/** A web address people can land on: http or https, a host with a dot, no spaces. */
export function isLandingLink(text: string): boolean {
  return /^https?:\/\/[\p{L}\d-]+(\.[\p{L}\d-]+)+(:\d{1,5})?([/?#]\S*)?$/u.test(text)
}

export const lineSchema: yup.ObjectSchema<LineDraft> = yup.object({
  name: nameField,
  format: yup.string().oneOf(FORMATS).required(),
  zone: yup.string().oneOf(WHOLE_HOUR_ZONES, 'Choose one of the time zones.').required(),
  targeting: targetingSchema.required(),
  price: yup.object({
    model: yup.string().oneOf(['CPM'] as const).required(),
    bidMicros: cpmField('The bid'),
    maxMicros: cpmField('The maximum bid').test('over', 'The maximum is below the bid.', function (most) {
      const bid = (this.parent as LineDraft['price']).bidMicros
      return most == null || bid == null || most >= bid
    })
  }).noUnknown().required(),
  flight: flightSchema.required(),
  budget: yup.object({
    dailyMicros: moneyField('The daily budget', LIMITS.mostBudgetMicros).test('one', '', overOneImpression('The daily budget')),
    totalMicros: moneyField('The total budget', LIMITS.mostBudgetMicros).test('one', '', overOneImpression('The total budget'))
  }).noUnknown().required(),
  pacing: yup.string().oneOf(PACINGS).required(),
  caps: yup.array().of(capSchema).max(LIMITS.mostCaps, `At most ${LIMITS.mostCaps} caps.`).required(),
  landing: yup.string().defined().max(1000, 'A landing link has at most 1,000 letters.')
    .test('link', 'The landing link must be a web address such as https://shop.example/page.', (text) => !text || isLandingLink(text)),
  onceCleared: yup.string().oneOf(ONCE_CLEARED).required()
}).noUnknown()

/** A flight as market hours: [start, end); the last day counts whole. */
export function flightHours(flight: Flight, zone: string): { startHour: number; endHour: number | null } {
  const index = zoneIndex(zone)
  return {
    startHour: startOfLocalDay(index, dayOfDate(flight.startDate)),
    endHour: flight.endDate === null ? null : startOfLocalDay(index, dayOfDate(flight.endDate) + 1)
  }
}

/** Days of a flight on its own calendar; null when it is open. */
export function flightDays({ startDate, endDate }: Flight): number | null {
  return endDate === null ? null : dayOfDate(endDate) - dayOfDate(startDate) + 1
}

/** A line's flight must lie inside its campaign's. */
export function checkInsideCampaign(line: Pick<LineDraft, 'flight'>, campaign: Flight): FieldIssue[] {
  const issues: FieldIssue[] = []
  const { startDate, endDate } = line.flight
  if (startDate < campaign.startDate || (campaign.endDate !== null && startDate > campaign.endDate)) {
    issues.push({ field: 'flight.startDate', message: `The campaign runs from ${campaign.startDate}${campaign.endDate ? ` to ${campaign.endDate}` : ' on'}.` })
  }
  if (campaign.endDate !== null && (endDate === null || endDate > campaign.endDate)) {
    issues.push({ field: 'flight.endDate', message: `The campaign ends on ${campaign.endDate}.` })
  }
  return issues
}
