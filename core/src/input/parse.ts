import { withoutControls } from './fields.js'
import { MOST_PROBLEMS, formProblems, type FieldIssue } from './structure.js'
import { yup } from './yup.js'

/** Letters of what is told of one problem. */
const LONGEST_MESSAGE = 400
const LONGEST_PATH = 200

/** An input was refused; `issues` names the fields. */
export class InputError extends Error {
  constructor(readonly issues: readonly FieldIssue[]) {
    super(issues.map(({ field, message }) => (field ? `${field}: ${message}` : message)).join(' '))
  }
}

/**
 * Checks an input that may be anything and returns it typed, with the defaults of its first level filled in. Its form is looked at
 * first: only what has the right one reaches the schema's own tests.
 * @param whole name of the input where a problem is of no single field of it
 * @throws InputError naming every wrong field, twenty at most
 */
export function parseInput<T>(schema: yup.Schema<T>, input: unknown, whole = 'body'): T {
  // Nothing at all is no input, also where every field may be left out.
  const given = input === undefined ? null : input
  const wrong = formProblems(schema as yup.AnySchema, given)
  if (wrong.length > 0) throw refused([...wrong, ...alsoWrong(schema, given, wrong)], whole)
  try {
    return schema.validateSync(withDefaults(schema, given), { abortEarly: false, strict: true, disableStackTrace: true })
  } catch (error) {
    if (!yup.ValidationError.isError(error)) throw error
    throw refused(issuesOf(error), whole)
  }
}

function refused(issues: readonly FieldIssue[], whole: string): InputError {
  const short = (text: string, most: number) => withoutControls(text.length > most ? `${text.slice(0, most)}…` : text)
  return new InputError(
    issues
      .slice(0, MOST_PROBLEMS)
      .map(({ field, message }) => ({ field: short(field, LONGEST_PATH) || whole, message: short(message, LONGEST_MESSAGE) }))
  )
}

/**
 * What the schema says of the fields beside those whose form is wrong, so that a person is told all at once. Where its tests need
 * one of those, they say nothing.
 */
function alsoWrong(schema: yup.Schema<unknown>, input: unknown, wrong: readonly FieldIssue[]): FieldIssue[] {
  const { fields } = schema as unknown as { fields?: Record<string, unknown> }
  if (!fields || wrong.length >= MOST_PROBLEMS || wrong.some(({ field }) => field === '')) return []
  const bad = new Set(wrong.map(({ field }) => /^[\w-]*/.exec(field)?.[0]))
  try {
    ;(schema as yup.ObjectSchema<yup.AnyObject>)
      .pick(Object.keys(fields).filter((name) => !bad.has(name)))
      .validateSync(input, { abortEarly: false, strict: true, disableStackTrace: true })
    return []
  } catch (error) {
    return yup.ValidationError.isError(error)
      ? issuesOf(error).filter(({ field }) => field !== '' && !bad.has(/^[\w-]*/.exec(field)?.[0]))
      : []
  }
}

/** Field issues of a Yup error; one message a field, the first. */
function issuesOf(error: yup.ValidationError): FieldIssue[] {
  const issues = new Map<string, string>()
  for (const { path = '', message } of error.inner.length > 0 ? error.inner : [error]) if (!issues.has(path)) issues.set(path, message)
  return [...issues].map(([field, message]) => ({ field, message }))
}

/** The input with what its schema gives for fields that were left out. */
function withDefaults(schema: yup.Schema<unknown>, input: unknown): unknown {
  const { fields } = schema as unknown as { fields?: Record<string, { spec?: { default?: unknown } }> }
  if (!fields || typeof input !== 'object' || input === null || Array.isArray(input)) return input
  const missing = Object.entries(fields).filter(
    ([name, field]) => field.spec?.default !== undefined && (input as Record<string, unknown>)[name] === undefined
  )
  return missing.length === 0 ? input : { ...input, ...Object.fromEntries(missing.map(([name, field]) => [name, field.spec?.default])) }
}
