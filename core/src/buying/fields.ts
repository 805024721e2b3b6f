import * as yup from 'yup'
import { MICROS } from '../money/index.js'
import { dayOfDate } from '../time/index.js'

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
  return yup.number().nullable().defined()
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

const dateText = (what: string) => yup.string().test('date', `${what} must be a date such as 2026-03-02.`, (text) => text == null || isDate(text))

/** First and last day of a flight; no last day is an open flight. */
export interface Flight {
  startDate: string
  endDate: string | null
}

export const flightSchema: yup.ObjectSchema<Flight> = yup.object({
  startDate: dateText('The first day').required('A flight needs a first day.'),
  endDate: dateText('The last day').nullable().defined()
    .test('order', 'The flight ends before it starts.', function (end) {
      const start = (this.parent as Flight).startDate
      return !end || !isDate(end) || !isDate(start) || dayOfDate(end) >= dayOfDate(start)
    })
    .test('length', `A flight takes at most ${LIMITS.longestFlightDays} days.`, function (end) {
      const start = (this.parent as Flight).startDate
      return !end || !isDate(end) || !isDate(start) || dayOfDate(end) - dayOfDate(start) < LIMITS.longestFlightDays
    })
}).noUnknown()

export const nameField = yup.string().trim().min(1, 'A name is needed.').max(LIMITS.nameLength, `A name has at most ${LIMITS.nameLength} letters.`).required('A name is needed.')

/** What is wrong with one field of an input. */
export interface FieldIssue {
  /** Path of the field, such as `price.bidMicros`. */
  field: string
  message: string
}

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

/** One field that differs between two drafts, in words. */
export interface FieldChange {
  field: string
  before: string
  after: string
}

/**
 * Checks an input that may be anything and returns it typed.
 * @throws InputError naming every wrong field
 */
export function parseInput<T>(schema: yup.Schema<T>, input: unknown): T {
  try {
    return schema.validateSync(input, { abortEarly: false, strict: true })
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error
    throw new InputError(issuesOf(error))
  }
}

/** Field issues of a Yup error; one message a field, the first. */
function issuesOf(error: yup.ValidationError): FieldIssue[] {
  const issues = new Map<string, string>()
  for (const part of error.inner.length > 0 ? error.inner : [error]) {
    const field = part.path ?? ''
    const unknown = part.type === 'noUnknown'
    const message = unknown ? `Not a field we know: ${String(part.params?.unknown ?? '')}.` : part.message
    if (!issues.has(field)) issues.set(field, message)
  }
  return [...issues].map(([field, message]) => ({ field, message }))
}

/** An input was refused; `issues` names the fields. */
export class InputError extends Error {
  constructor(readonly issues: readonly FieldIssue[]) {
    super(issues.map(({ field, message }) => (field ? `${field}: ${message}` : message)).join(' '))
  }
}
