import { yup } from '../input/index.js'
import { CENT, MICROS, plainMoney } from './units.js'
import { MARGIN_ONE, MARGIN_STEP } from './margin.js'

/** How money moves: by card or bank transfer on somebody's word, by the charge of a day that was agreed beforehand, or back. */
export const PAYMENT_KINDS = ['card', 'transfer', 'charge', 'refund'] as const
export type PaymentKind = (typeof PAYMENT_KINDS)[number]

/**
 * `asked`: what the payment service says is not known yet. `accepted` and `refused` are its last words. `given up`: it never reached the
 * service, which was told not to take it any more.
 */
export const PAYMENT_STATES = ['asked', 'accepted', 'refused', 'given up'] as const
export type PaymentState = (typeof PAYMENT_STATES)[number]

const LEAST_TOP_UP = 10 * MICROS
const MOST_TOP_UP = 100_000 * MICROS

const amountField = (least: number, most: number) =>
  yup
    .number()
    .typeError('An amount is a number.')
    .integer('An amount is in whole micros.')
    .min(least, `At least ${plainMoney(least)}.`)
    .max(most, `At most ${plainMoney(most)} at once.`)
    .test('cents', 'An amount has whole cents.', (micros) => typeof micros !== 'number' || micros % CENT === 0)

/** Whether digits are a card's number: their check digit is right (ISO/IEC 7812-1, annex B). */
export function isCardNumber(text: string): boolean {
  const digits = text.replace(/[ -]/g, '')
  if (!/^\d{12,19}$/.test(digits)) return false
  const sum = [...digits].reverse().reduce((total, digit, place) => {
    const value = Number(digit) * (place % 2 === 1 ? 2 : 1)
    return total + (value > 9 ? value - 9 : value)
  }, 0)
  return sum % 10 === 0
}

const cardField = yup
  .string()
  .max(30, 'A card’s number has at most 19 digits.')
  .test('check', 'This is no card’s number; look at its digits once more.', (text) => text === undefined || isCardNumber(text))

/** What somebody asks to be paid in. */
export const topUpSchema = yup
  .object({
    amountMicros: amountField(LEAST_TOP_UP, MOST_TOP_UP).required('How much?'),
    method: yup.string().oneOf(['card', 'transfer'], 'By card or by transfer?').required('By card or by transfer?'),
    number: cardField.when('method', ([method], field) =>
      method === 'card' ? field.required('Type the card’s number.') : field.optional()
    )
  })
  .noUnknown()
export type TopUp = yup.InferType<typeof topUpSchema>

/** What of a payment goes back to the payer. */
export const refundSchema = yup.object({ amountMicros: amountField(CENT, MOST_TOP_UP).required('How much?') }).noUnknown()

/** The charge of a day's spend on the day after, agreed beforehand. */
export const chargeSchema = yup
  .object({
    number: cardField.required('Type the card’s number.'),
    mostMicros: amountField(LEAST_TOP_UP, MOST_TOP_UP).required('How much at most?')
  })
  .noUnknown()

/** Days that money is to last at least, before it is warned of. */
export const lowDaysSchema = yup
  .object({
    lowDays: yup
      .number()
      .typeError('Days are a number.')
      .integer('Whole days.')
      .min(0, 'At least 0 days.')
      .max(60, 'At most 60 days.')
      .required('How many days?')
  })
  .noUnknown()

/** An advertiser's terms: what it may spend in a calendar month, and what is added to our cost for its client. */
export const moneyTermsSchema = yup
  .object({
    limitMicros: amountField(0, 10_000_000 * MICROS)
      .nullable()
      .defined('Say a limit, or none.'),
    marginPpm: yup
      .number()
      .typeError('A margin is a number.')
      .integer('A margin goes in hundredths of a per cent.')
      .min(0, 'A margin is not under 0 %.')
      .max(MARGIN_ONE, 'A margin is at most 100 %.')
      .test('step', 'A margin goes in hundredths of a per cent.', (ppm) => ppm === undefined || ppm % MARGIN_STEP === 0)
      .required('What margin?')
  })
  .noUnknown()
