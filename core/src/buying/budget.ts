import { yup } from '../input/index.js'
import type { Cap } from '../exchange/index.js'
import { LIMITS, moneyField } from './fields.js'

/**
 * Budgets of a campaign in its advertiser's zone, or of a line in its own: money and impressions by day, week from
 * Monday, calendar month and in all.
 */
export interface Budget {
  dailyMicros: number | null
  totalMicros: number | null
  weeklyMicros?: number | null
  monthlyMicros?: number | null
  dailyImpressions?: number | null
  weeklyImpressions?: number | null
  monthlyImpressions?: number | null
  totalImpressions?: number | null
}

const countField = (what: string) =>
  yup.number().nullable().optional().integer(`${what} counts whole impressions.`).min(1, `${what} is at least 1.`).max(1e12)

/** Fields of a budget beside its day and its total, which are checked by what they belong to. */
export const longerBudgetFields = {
  weeklyMicros: moneyField('The weekly budget', LIMITS.mostBudgetMicros).optional(),
  monthlyMicros: moneyField('The monthly budget', LIMITS.mostBudgetMicros).optional(),
  dailyImpressions: countField('The daily limit'),
  weeklyImpressions: countField('The weekly limit'),
  monthlyImpressions: countField('The monthly limit'),
  totalImpressions: countField('The total limit')
}

const capSchema: yup.ObjectSchema<Cap> = yup
  .object({
    times: yup
      .number()
      .integer('A cap counts whole times.')
      .min(1, 'A cap allows at least once.')
      .max(LIMITS.mostCapTimes, `A cap allows at most ${LIMITS.mostCapTimes} times.`)
      .required('How often?'),
    hours: yup
      .number()
      .integer('A window has whole hours.')
      .min(1, 'A window has at least an hour.')
      .max(LIMITS.mostCapHours, 'A window has at most 720 hours (30 days).')
      .required('In how many hours?')
  })
  .noUnknown()

export const capsField = yup.array().of(capSchema.required()).max(LIMITS.mostCaps, `At most ${LIMITS.mostCaps} caps.`)
