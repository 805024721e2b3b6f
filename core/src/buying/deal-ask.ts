import { linesOfText, yup } from '../input/index.js'
import { CPM_STEP } from '../money/index.js'
import { BRANCHES, FORMATS, isFilm, type Format } from '../taxonomy/index.js'
import { LIMITS } from './fields.js'

/** Kinds of video ads that a deal can be for. */
export const VIDEO_KINDS = ['skippable', 'not skippable', 'rewarded'] as const
export type VideoKind = (typeof VIDEO_KINDS)[number]

/** What a publisher's deal office is asked for. */
export const askSchema = yup
  .object({
    publisher: yup.string().max(60, 'No publisher is called that.').required('Which publisher?'),
    format: yup.string().oneOf(FORMATS, 'Not a format we know.').required('Which format?'),
    kind: yup
      .string()
      .oneOf(['fixed', 'floor'] as const, 'A deal has a fixed price or a floor.')
      .required('A fixed price or a floor?'),
    priceMicros: yup
      .number()
      .integer('The price must be whole micros.')
      .moreThan(0, 'The price must be more than 0.')
      .max(LIMITS.mostCpmMicros, 'The price is over the most we take.')
      .required('A deal needs a price.')
      .test('step', 'The price goes in steps of 0.001.', (micros) => micros == null || micros % CPM_STEP === 0),
    volume: yup
      .number()
      .integer('A volume counts whole impressions.')
      .min(100, 'A deal is for at least 100 impressions a day.')
      .max(1e9)
      .required('For how many impressions a day?'),
    about: yup
      .string()
      .oneOf(
        BRANCHES.map((branch) => branch.name),
        'Not a branch we know.'
      )
      .required('What is advertised?'),
    videoKind: yup
      .string()
      .oneOf(VIDEO_KINDS)
      .nullable()
      .defined()
      .test('video', 'A video deal says what kind of ad it is for.', function (kind) {
        return !isFilm((this.parent as { format?: Format }).format) || kind != null
      }),
    note: linesOfText(600, 'A note has at most 600 letters.').defined()
  })
  .noUnknown()
export type DealAsk = yup.InferType<typeof askSchema>
/** As it is kept and sent to the publisher's office: the publisher by its position in the inventory. */
export type PlacedAsk = Omit<DealAsk, 'publisher'> & { publisher: number }

/** An offer that is taken, by what the publisher's office calls it. */
export const takeOfferSchema = yup.object({ offer: yup.string().max(20, 'No offer is called that.').required('Which offer?') }).noUnknown()

/** What an office knows of what it is asked for. */
export interface AskFacts {
  placements: number[]
  /** Opportunities a day on them, of the market, and the bid that wins half of them, micros a thousand. */
  opportunitiesADay: number
  halfMicros: number
  /** Kinds of video ads that the placements show. */
  videoKinds: readonly VideoKind[]
}

/** What an office said, and the rule that decided. */
export type DealDecision =
  | { state: 'granted' | 'countered'; rule: string; answer: string; priceMicros: number; volume: number }
  | { state: 'refused'; rule: string; answer: string }
