import * as yup from 'yup'
import type { Cap } from '../exchange/index.js'
import { capsField, longerBudgetFields, type Budget } from './budget.js'
import { LIMITS, flightSchema, moneyField, nameField, type Flight } from './fields.js'

export const GOALS = ['reach', 'views', 'visits', 'pages', 'conversions', 'revenue'] as const
export type Goal = (typeof GOALS)[number]

export interface CampaignDraft {
  name: string
  goal: Goal
  flight: Flight
  budget: Budget
  /** Caps that all its lines count in together; left out for none. */
  caps?: Cap[]
}

export const campaignSchema: yup.ObjectSchema<CampaignDraft> = yup.object({
  name: nameField,
  goal: yup.string().oneOf(GOALS, 'Choose one of the goals.').required('Choose a goal.'),
  flight: flightSchema.required(),
  budget: yup.object({
    totalMicros: moneyField('The total budget', LIMITS.mostBudgetMicros),
    dailyMicros: moneyField('The daily budget', LIMITS.mostBudgetMicros)
      .test('total', 'The daily budget is over the total.', function (daily) {
        const total = (this.parent as CampaignDraft['budget']).totalMicros
        return daily == null || total == null || daily <= total
      }),
    ...longerBudgetFields
  }).noUnknown().required(),
  caps: capsField.optional()
}).noUnknown()
