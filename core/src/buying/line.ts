import { idField, told, yup } from '../input/index.js'
import { CPM_STEP } from '../money/index.js'
import { AIM_KINDS, PACINGS, ROTATIONS, type Aim, type Cap, type Pacing, type Rotation } from '../exchange/index.js'
import { HOURS_PER_WEEK, MOST_MULTIPLIER, type Adjustment, type BidStep, type HourPlan } from '../pricing/index.js'
import { targetingSchema, type Targeting } from '../targeting/index.js'
import { VIEW_SECONDS, type ViewSeconds } from '../response/index.js'
import { FORMATS, MODELS_OF, PRICE_MODELS, type Format, type PriceModel, isWatched } from '../taxonomy/index.js'
import { WHOLE_HOUR_ZONES, dayOfDate, hourOfLocalDay, zoneIndex } from '../time/index.js'
import { adsField, type AdTerms } from './ad-terms.js'
import { landingField, landingsField, type Landing } from './landings.js'
import { capsField, longerBudgetFields, type Budget } from './budget.js'
import { LIMITS, flightSchema, moneyField, nameField, type FieldIssue, type Flight } from './fields.js'
import { DIMENSIONS, DIMENSION_KINDS } from '../dimensions/index.js'
import { ONCE_CLEARED, type OnceCleared } from './states.js'

/** Budgets in the line's zone, and what a day on one placement or through one supply source may cost. */
export interface LineBudget extends Budget {
  placementDailyMicros?: number | null
  sourceDailyMicros?: number | null
}

/** A line's flight may begin and end at an hour of its zone's clock; left out for whole days. */
export interface LineFlight extends Flight {
  /** 1 to 23, on the first day. */
  startHour?: number | null
  /** 1 to 23, on the last day: it ends when the clock is there. */
  endHour?: number | null
}

const HOUR_OF_DAY = 'An hour of the day is a whole number from 1 to 23.'
const hourField = () => yup.number().integer(HOUR_OF_DAY).min(1, HOUR_OF_DAY).max(23, HOUR_OF_DAY).nullable().optional()

const lineFlightSchema: yup.ObjectSchema<LineFlight> = flightSchema
  .shape({
    startHour: hourField(),
    endHour: hourField()
      .test('day', 'An open flight has no last day to end on.', function (hour) {
        return hour == null || (this.parent as LineFlight).endDate !== null
      })
      .test('order', 'The flight ends before it starts.', function (hour) {
        const { startDate, endDate, startHour } = this.parent as LineFlight
        return hour == null || startDate !== endDate || hour > (startHour ?? 0)
      })
  })
  .noUnknown()

/** A line as it is drafted. Amounts that were not chosen yet are null. */
export interface LineDraft {
  name: string
  format: Format
  zone: string
  targeting: Targeting
  /** Micros a thousand for CPM, an event for the others. */
  price: {
    model: PriceModel
    bidMicros: number | null
    maxMicros: number | null
    adjustments?: Adjustment[]
    /** Thousandths that each earlier exposure of the same person takes off. */
    repeatDiscount?: number
    steps?: BidStep[]
    /** Bids are made towards what an event may cost, up to the maximum, in place of the bid. */
    aim?: Aim | null
    /** The least that wins what the plan needs, never above the bid. */
    follow?: boolean
  }
  /** Hours of its week; left out for always. */
  hours?: HourPlan | null
  flight: LineFlight
  budget: LineBudget
  pacing: Pacing
  /** Seconds after which its film or spot counts as viewed, 0 for its end; left out for 30 s, or the end of what is shorter. */
  viewSeconds?: ViewSeconds | null
  /** How its ads take turns; left out for by weight. */
  rotation?: Rotation
  /** What single ads have of their own; those that are not named are as the line. */
  ads?: AdTerms[]
  caps: Cap[]
  /** Least minutes between two exposures of a person. */
  gapMinutes?: number | null
  /** The open market, deals by number, or both; left out for the open market. */
  buys?: { open: boolean; deals: number[] }
  landing: string
  /** Links for people of some countries or on some classes of device, before the one for all. */
  landings?: Landing[]
  onceCleared: OnceCleared
}

const cpmField = (what: string) =>
  moneyField(what, LIMITS.mostCpmMicros).test('step', `${what} goes in steps of 0.001.`, function (micros) {
    return micros == null || (this.parent as LineDraft['price']).model !== 'CPM' || micros % CPM_STEP === 0
  })

/** A budget must pay for one impression at the bid. */
const overOneImpression = (what: string) =>
  function (this: yup.TestContext, micros: number | null | undefined) {
    const bid = (this.from?.[1]?.value as LineDraft | undefined)?.price?.bidMicros
    const isCpm = (this.from?.[1]?.value as LineDraft | undefined)?.price?.model === 'CPM'
    if (micros == null || bid == null || micros >= (isCpm ? bid / 1000 : bid)) return true
    return this.createError({ message: isCpm ? `${what} is below the price of one impression at this bid.` : `${what} is below the bid.` })
  }

const adjustmentSchema: yup.ObjectSchema<Adjustment> = yup
  .object({
    dimension: yup.string().oneOf(DIMENSIONS, 'Not something a bid can be adjusted by.').required(),
    value: yup
      .string()
      .max(200)
      .required('An adjustment needs a value.')
      .test('known', '', function (value) {
        const kind = DIMENSION_KINDS[(this.parent as Adjustment).dimension]
        return !kind || kind.isKnown(value) || this.createError({ message: `Not a ${kind.noun} we know: ${told([value])}.` })
      }),
    perMille: yup
      .number()
      .integer('A multiplier goes in thousandths.')
      .min(0, 'A multiplier is at least 0.')
      .max(MOST_MULTIPLIER, 'A multiplier is at most 10.')
      .nullable()
      .defined(),
    ownMicros: moneyField('The own price', LIMITS.mostCpmMicros).test(
      'one',
      'An adjustment is a multiplier or a price of its own, one of the two.',
      function (own) {
        return (own == null) !== ((this.parent as Adjustment).perMille == null)
      }
    )
  })
  .noUnknown()

const stepSchema: yup.ObjectSchema<BidStep> = yup
  .object({
    after: yup
      .string()
      .oneOf(['date', 'days live', 'impressions'] as const)
      .required(),
    from: yup.number().integer('A bid step begins at a whole number.').min(0).required('When does the step begin?'),
    bidMicros: yup
      .number()
      .integer('The bid must be whole micros.')
      .moreThan(0, 'The bid must be more than 0.')
      .max(LIMITS.mostCpmMicros)
      .required('A bid step needs a bid.')
  })
  .noUnknown()

/** What an aim can be for, and what its amount is called. */
export const AIM_WORDS: Readonly<Record<Aim['event'], string>> = {
  conversion: 'a conversion',
  click: 'a click',
  view: 'a view that counts',
  stay: 'a visitor who stays',
  page: 'a page opened',
  person: 'a new person reached',
  value: 'value for each euro, in thousandths'
}
const aimSchema = yup
  .object({
    event: yup.string().oneOf(AIM_KINDS).required(),
    micros: moneyField('The aim', LIMITS.mostBudgetMicros).required('How much may it cost?').nonNullable('How much may it cost?')
  })
  .noUnknown()

export const hoursSchema: yup.ObjectSchema<HourPlan> = yup
  .object({
    clock: yup
      .string()
      .oneOf(['viewer', 'line'] as const)
      .required(),
    perMille: yup
      .array()
      .of(
        yup
          .number()
          .integer('A multiplier goes in thousandths.')
          .min(0, 'A multiplier is at least 0.')
          .max(MOST_MULTIPLIER, 'A multiplier is at most 10.')
          .required()
      )
      .length(HOURS_PER_WEEK, 'Hours are 7 x 24 multipliers.')
      .required()
      .test('some', 'All hours are off: the line would never be open.', (hours) => hours?.some((perMille) => perMille > 0) ?? true)
  })
  .noUnknown()

export const lineSchema: yup.ObjectSchema<LineDraft> = yup
  .object({
    name: nameField,
    format: yup.string().oneOf(FORMATS, 'Not a format we know.').required('Choose a format.'),
    zone: yup.string().oneOf(WHOLE_HOUR_ZONES, 'Choose one of the time zones.').required(),
    targeting: targetingSchema.required(),
    price: yup
      .object({
        model: yup
          .string()
          .oneOf(PRICE_MODELS, 'Bought by CPM, CPC, view or visit.')
          .required('Bought by what?')
          .test('offered', '', function (model) {
            const format = (this.from?.[1]?.value as LineDraft | undefined)?.format
            return (
              !format ||
              !MODELS_OF[format] ||
              MODELS_OF[format].includes(model) ||
              this.createError({ message: `${format} is bought by ${MODELS_OF[format].join(' or ')}.` })
            )
          }),
        bidMicros: cpmField('The bid'),
        maxMicros: cpmField('The maximum bid').test('over', 'The maximum is below the bid.', function (most) {
          const bid = (this.parent as LineDraft['price']).bidMicros
          return most == null || bid == null || most >= bid
        }),
        adjustments: yup.array().of(adjustmentSchema.required()).max(31, 'At most 31 adjustments.').optional(),
        repeatDiscount: yup
          .number()
          .integer('The repeat discount goes in thousandths.')
          .min(0, 'The repeat discount is at least 0.')
          .max(1000, 'The repeat discount is at most 1,000 thousandths.')
          .optional(),
        steps: yup.array().of(stepSchema.required()).max(20, 'At most 20 bid steps.').optional(),
        aim: aimSchema
          .nullable()
          .optional()
          .default(undefined)
          .test('most', 'An aim needs a maximum bid that it never passes.', function (aim) {
            return (
              !aim ||
              (this.parent as LineDraft['price']).maxMicros != null ||
              this.createError({
                path: `${this.path.replace(/aim$/, '')}maxMicros`,
                message: 'An aim needs a maximum bid that it never passes.'
              })
            )
          }),
        follow: yup
          .boolean()
          .optional()
          .test('alone', 'Following the market is for a bid by the thousand without an aim.', function (follow) {
            const { model, aim } = this.parent as LineDraft['price']
            return !follow || (model === 'CPM' && !aim)
          })
      })
      .noUnknown()
      .required(),
    hours: hoursSchema.nullable().optional().default(undefined),
    flight: lineFlightSchema.required(),
    budget: yup
      .object({
        dailyMicros: moneyField('The daily budget', LIMITS.mostBudgetMicros).test('one', '', overOneImpression('The daily budget')),
        totalMicros: moneyField('The total budget', LIMITS.mostBudgetMicros).test('one', '', overOneImpression('The total budget')),
        ...longerBudgetFields,
        placementDailyMicros: moneyField('The daily limit on a placement', LIMITS.mostBudgetMicros).optional(),
        sourceDailyMicros: moneyField('The daily limit on a source', LIMITS.mostBudgetMicros).optional()
      })
      .noUnknown()
      .required(),
    pacing: yup.string().oneOf(PACINGS, 'Not a pacing we know.').required('Choose a pacing.'),
    viewSeconds: yup
      .number<ViewSeconds>()
      .oneOf(VIEW_SECONDS, 'A view counts after 2, 6, 15 or 30 s, or at the end.')
      .nullable()
      .optional()
      .test('watched', 'Only films and spots have a view point.', function (seconds) {
        const { format } = this.parent as LineDraft
        return seconds == null || isWatched(format)
      }),
    rotation: yup.string().oneOf(ROTATIONS, 'Not a way of taking turns that we know.').optional(),
    ads: adsField.test('steps', "An ad's bid goes in steps of 0.001.", function (all) {
      const { price } = this.parent as LineDraft
      return price?.model !== 'CPM' || (all ?? []).every(({ bidMicros }) => bidMicros == null || bidMicros % CPM_STEP === 0)
    }),
    caps: capsField.required(),
    gapMinutes: yup
      .number()
      .integer('A gap has whole minutes.')
      .min(1, 'A gap has at least a minute.')
      .max(43_200, 'A gap has at most 30 days.')
      .nullable()
      .optional(),
    buys: yup
      .object({
        open: yup.boolean().required(),
        deals: yup
          .array()
          .of(idField('Which deal?'))
          .max(200, 'At most 200 deals.')
          .required()
          .test('something', 'A line buys on the open market, by deals, or both.', function (deals) {
            return (this.parent as { open: boolean }).open || (deals?.length ?? 0) > 0
          })
      })
      .noUnknown()
      .optional()
      .default(undefined),
    landing: landingField().defined(),
    landings: landingsField().optional(),
    onceCleared: yup.string().oneOf(ONCE_CLEARED, 'It starts once cleared, or waits.').required('What happens once it is cleared?')
  })
  .noUnknown()

/** A flight as market hours: [start, end); the last day counts whole where it does not end at an hour. */
export function flightHours(
  { startDate, endDate, startHour, endHour }: LineFlight,
  zone: string
): { startHour: number; endHour: number | null } {
  const index = zoneIndex(zone)
  return {
    startHour: hourOfLocalDay(index, dayOfDate(startDate), startHour ?? 0),
    endHour: endDate === null ? null : hourOfLocalDay(index, dayOfDate(endDate), endHour ?? 24)
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
    issues.push({
      field: 'flight.startDate',
      message: `The campaign runs from ${campaign.startDate}${campaign.endDate ? ` to ${campaign.endDate}` : ' on'}.`
    })
  }
  if (campaign.endDate !== null && (endDate === null || endDate > campaign.endDate)) {
    issues.push({ field: 'flight.endDate', message: `The campaign ends on ${campaign.endDate}.` })
  }
  return issues
}
