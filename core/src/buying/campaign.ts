import { idField, linesOfText, yup } from '../input/index.js'
import type { Cap } from '../exchange/index.js'
import { capsField, longerBudgetFields, type Budget } from './budget.js'
import { landingsField, type Landing } from './landings.js'
import { LIMITS, flightSchema, moneyField, nameField, type Flight } from './fields.js'

export const GOALS = ['reach', 'views', 'visits', 'pages', 'conversions', 'revenue'] as const
export type Goal = (typeof GOALS)[number]

/** What a campaign is judged by: costs in micros an event (a thousand for CPM), ROAS in thousandths of the value for each euro. */
export const TARGET_MEASURES = ['CPA', 'CPC', 'CPM', 'cost per view', 'ROAS'] as const
export interface CampaignTarget {
  measure: (typeof TARGET_MEASURES)[number]
  value: number
}

export interface CampaignDraft {
  name: string
  goal: Goal
  flight: Flight
  budget: Budget
  /** Caps that all its lines count in together; left out for none. */
  caps?: Cap[]
  target?: CampaignTarget | null
  /** Parameters and macros that are appended to every landing link: `utm_source=harbor&click=${CLICK_ID}`. */
  linkTail?: string
  /** For who reviews its ads. */
  note?: string
  /** Number of the offer that it sells; left out for none. */
  offerId?: number | null
  /** Where people land whose ad, line and offer say nothing. */
  landings?: Landing[]
}

/** Tails put one after the other: that of the advertiser, then that of the campaign. */
export const joinedTails = (...tails: readonly (string | undefined)[]): string => tails.filter(Boolean).join('&')

/** What is appended to links: parameters, in which macros may stand. */
export const tailField = () =>
  yup
    .string()
    .max(500, 'What is added to links has at most 500 letters.')
    .test(
      'tail',
      'What is added to links is parameters such as source=harbor&click=${CLICK_ID}, without ? # or spaces.',
      (text) => !text || /^[^?#\s&=]+=[^?#\s&]*(&[^?#\s&=]+=[^?#\s&]*)*$/.test(text)
    )

/** A landing link with the tail of its campaign; a fragment stays last. */
export function withTail(link: string, tail: string): string {
  if (link === '' || tail === '') return link
  const [page, fragment] = link.split('#')
  return `${page}${page.includes('?') ? '&' : '?'}${tail}${fragment === undefined ? '' : `#${fragment}`}`
}

export const campaignSchema: yup.ObjectSchema<CampaignDraft> = yup
  .object({
    name: nameField,
    goal: yup.string().oneOf(GOALS, 'Choose one of the goals.').required('Choose a goal.'),
    flight: flightSchema.required(),
    budget: yup
      .object({
        totalMicros: moneyField('The total budget', LIMITS.mostBudgetMicros),
        dailyMicros: moneyField('The daily budget', LIMITS.mostBudgetMicros).test(
          'total',
          'The daily budget is over the total.',
          function (daily) {
            const total = (this.parent as CampaignDraft['budget']).totalMicros
            return daily == null || total == null || daily <= total
          }
        ),
        ...longerBudgetFields
      })
      .noUnknown()
      .required(),
    caps: capsField.optional(),
    target: yup
      .object({
        measure: yup.string().oneOf(TARGET_MEASURES, 'Choose one of the measures.').required(),
        value: yup
          .number()
          .typeError('The target must be an amount.')
          .integer('The target must be whole micros.')
          .moreThan(0, 'The target must be more than 0.')
          .max(LIMITS.mostBudgetMicros)
          .required('What is the target?')
      })
      .noUnknown()
      .nullable()
      .optional()
      .default(undefined),
    linkTail: tailField().optional(),
    note: linesOfText(2000, 'A note has at most 2,000 letters.').optional(),
    offerId: idField('Which offer?').nullable().optional().default(undefined),
    landings: landingsField().optional()
  })
  .noUnknown()

/** What was reached of a target, by results; null while there is nothing to divide by. Costs fall and ROAS rises towards the good. */
export function targetReached(
  { measure }: Pick<CampaignTarget, 'measure'>,
  {
    spendMicros,
    wins,
    clicks,
    views,
    conversions,
    valueMicros
  }: { spendMicros: number; wins: number; clicks: number; views: number; conversions: number; valueMicros: number }
): number | null {
  if (measure === 'ROAS') return spendMicros > 0 ? (valueMicros * 1000) / spendMicros : null
  const by = { CPA: conversions, CPC: clicks, CPM: wins / 1000, 'cost per view': views }[measure]
  return by > 0 ? spendMicros / by : null
}
