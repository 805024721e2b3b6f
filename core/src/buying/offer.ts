import { yup } from '../input/index.js'
import { BRANCHES, CONNECTIONS, DEVICE_TYPES, EVENT_KINDS, SYSTEMS } from '../taxonomy/index.js'
import { findCountry, placeKind } from '../places/index.js'
import { LIMITS, moneyField, nameField } from './fields.js'
import { isLandingLink } from './ad-terms.js'

const link = yup
  .string()
  .max(1000, 'A landing link has at most 1,000 letters.')
  .required('A landing link is needed.')
  .test('link', 'The landing link must be a web address such as https://shop.example/page.', (text) => isLandingLink(text ?? ''))
const country = yup
  .string()
  .required()
  .test('known', 'Not a country code we know.', (code) => findCountry(code ?? '') !== undefined)

/** A landing link for some countries and device classes; none named is all of them. */
const landingSchema = yup
  .object({
    countries: yup.array().of(country).required(),
    devices: yup.array().of(yup.string().oneOf(DEVICE_TYPES).required()).required(),
    link
  })
  .noUnknown()

/** What the advertiser pays for; none named is all. Hours are multipliers of 0 or 1 by hour of the week. */
const termsSchema = yup
  .object({
    countries: yup.array().of(country).required(),
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
    landings: yup.array().of(landingSchema.required()).min(1, 'An offer needs a landing link.').max(200).required(),
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

const TRACKER_REPORTS = ['script', 'image', 'server'] as const

/** A conversion event: of what kind and subject, how it is reported, how long a click or view counts, and what it is worth. */
export const trackerSchema = yup
  .object({
    name: nameField,
    kind: yup
      .string()
      .oneOf(EVENT_KINDS, 'A tracker counts a purchase, a booking, a trial or a request.')
      .required('A tracker counts a kind of event.'),
    subject: yup
      .string()
      .oneOf(
        BRANCHES.map((branch) => branch.name),
        'Not a subject of the market.'
      )
      .nullable()
      .defined(),
    reports: yup.string().oneOf(TRACKER_REPORTS).required(),
    clickHours: yup
      .number()
      .integer('A window has whole hours.')
      .min(1, 'A window has at least an hour.')
      .max(90 * 24, 'A window has at most 90 days.')
      .required(),
    viewHours: yup
      .number()
      .integer('A window has whole hours.')
      .min(1, 'A window has at least an hour.')
      .max(30 * 24, 'A view window has at most 30 days.')
      .nullable()
      .defined(),
    valueMicros: moneyField('The value', LIMITS.mostBudgetMicros)
  })
  .noUnknown()
