import { yup } from '../input/index.js'
import { CONNECTIONS, DEVICE_TYPES, SYSTEMS } from '../taxonomy/index.js'
import { placeKind } from '../places/index.js'
import { LIMITS, moneyField, nameField } from './fields.js'
import { countryField, landingsField } from './landings.js'

/** What the advertiser pays for; none named is all. Hours are multipliers of 0 or 1 by hour of the week. */
const termsSchema = yup
  .object({
    countries: yup.array().of(countryField()).required(),
    devices: yup.array().of(yup.string().oneOf(DEVICE_TYPES).required()).required(),
    systems: yup.array().of(yup.string().oneOf(SYSTEMS).required()).required(),
    connections: yup.array().of(yup.string().oneOf(CONNECTIONS).required()).required(),
    hours: yup
      .array()
      .of(yup.number().oneOf([0, 1], 'An hour is paid for or not.').required())
      .length(168, 'Hours are 7 x 24.')
      .nullable()
      .defined()
  })
  .noUnknown()

/** What is sold: where people land, what each event pays, how much there is of it, and what is paid for. */
export const offerSchema = yup
  .object({
    name: nameField,
    landings: landingsField().min(1, 'An offer needs a landing link.').required(),
    payouts: yup
      .array()
      .of(
        yup
          .object({ event: nameField, micros: moneyField('The payout', LIMITS.mostBudgetMicros) })
          .noUnknown()
          .required()
      )
      .max(20)
      .required(),
    stock: yup.number().integer('Stock counts whole pieces.').min(0).nullable().defined(),
    terms: termsSchema.required()
  })
  .noUnknown()
export type Offer = yup.InferType<typeof offerSchema>

/** A shop that people visit: its city, or so many kilometres around it. */
export const shopSchema = yup
  .object({
    name: nameField,
    place: yup
      .string()
      .required('A shop needs a place.')
      .test('place', 'Not a city or a radius we know.', (code) => ['city', 'radius'].includes(placeKind(code ?? '') ?? ''))
  })
  .noUnknown()
