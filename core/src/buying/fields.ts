import { yup, type FieldIssue } from '../input/index.js'
import { MICROS } from '../money/index.js'
import { dayOfDate } from '../time/index.js'

export { InputError, parseInput, type FieldIssue } from '../input/index.js'

/** Limits that both sides use. Money in micros. */
export const LIMITS = {
  nameLength: 120,
  mostCpmMicros: 500 * MICROS,
  mostBudgetMicros: 10_000_000 * MICROS,
  mostCapTimes: 1000,
  mostCapHours: 720,
  mostCaps: 4,
  longestFlightDays: 400
} as const

/** Whole micros above zero, or null. */
export function moneyField(what: string, most: number) {
  return yup
    .number()
    .nullable()
    .defined()
    .typeError(`${what} must be an amount of money.`)
    .integer(`${what} must be whole micros.`)
    .moreThan(0, `${what} must be more than 0.`)
    .max(most, `${what} is over ${most / MICROS}, the most we take.`)
}

export function isDate(text: string | null | undefined): boolean {
  try {
    dayOfDate(text ?? '')
    return true
  } catch {
    return false
  }
}

const dateText = (what: string) =>
  yup
    .string()
    .max(10, `${what} must be a date such as 2026-03-02.`)
    .test('date', `${what} must be a date such as 2026-03-02.`, (text) => text == null || isDate(text))

/** First and last day of a flight; no last day is an open flight. */
export interface Flight {
  startDate: string
  endDate: string | null
}

export const flightSchema: yup.ObjectSchema<Flight> = yup
  .object({
    startDate: dateText('The first day').required('A flight needs a first day.'),
    endDate: dateText('The last day')
      .nullable()
      .defined()
      .test('order', 'The flight ends before it starts.', function (end) {
        const start = (this.parent as Flight).startDate
        return !end || !isDate(end) || !isDate(start) || dayOfDate(end) >= dayOfDate(start)
      })
      .test('length', `A flight takes at most ${LIMITS.longestFlightDays} days.`, function (end) {
        const start = (this.parent as Flight).startDate
        return !end || !isDate(end) || !isDate(start) || dayOfDate(end) - dayOfDate(start) < LIMITS.longestFlightDays
      })
  })
  .noUnknown()

export const nameField = yup
  .string()
  .trim()
  .min(1, 'A name is needed.')
  .max(LIMITS.nameLength, `A name has at most ${LIMITS.nameLength} letters.`)
  .required('A name is needed.')

/** One thing preflight has to say. A line with a finding that stops cannot be put live. */
export interface Finding extends FieldIssue {
  severity: 'stops' | 'warns'
  fix?: Fix | null
}

/** One field that a fix sets: by its path, or `targeting.<dimension>.<mode>` with the values of that restriction. */
export interface FixEdit {
  field: string
  value: unknown
}

/** What one click does about a finding. */
export interface Fix {
  words: string
  edits: FixEdit[]
  /** Warnings that the line has only with the fix. */
  adds: string[]
}

/** A finding that was looked at for a fix. */
export interface FixableFinding extends Finding {
  fix: Fix | null
}

/** One field that differs between two drafts, in words. */
export interface FieldChange {
  field: string
  before: string
  after: string
}
