import { LONGEST_TEXT, hasControls, told, type SchemaNotes } from './fields.js'
import { yup } from './yup.js'

/** What is wrong with one field of an input. */
export interface FieldIssue {
  /** Path of the field, such as `price.bidMicros`. */
  field: string
  message: string
}

/** Problems of an input that are told at most; looking ends with the last of them. */
export const MOST_PROBLEMS = 20
/** How deep the parts of a free-form value may lie. */
const DEEPEST = 16
/** A number that a double holds exactly, or a share of one. */
const MOST_NUMBER = Number.MAX_SAFE_INTEGER

type Leaf = {
  kind: 'text' | 'number' | 'yes or no'
  schema: yup.AnySchema
  absent: Absent
  values: ReadonlySet<unknown> | null
  longest: number
  lines: NonNullable<SchemaNotes['lines']>
}
type Group = { kind: 'group'; schema: yup.AnySchema; absent: Absent; fields: ReadonlyMap<string, Shape> }
type List = {
  kind: 'list'
  schema: yup.AnySchema
  absent: Absent
  of: Shape | null
  each: SchemaNotes['each']
  most: number
  least: number
}
type Free = { kind: 'free'; schema: yup.AnySchema; absent: Absent }
type Shape = Leaf | Group | List | Free
interface Absent {
  undefined: boolean
  null: boolean
}

const shapes = new WeakMap<object, Shape>()

/** The form of what a schema takes, made once. */
function shapeOf(schema: yup.AnySchema): Shape {
  const known = shapes.get(schema)
  if (known) return known
  const made = compile(schema)
  shapes.set(schema, made)
  return made
}

function compile(schema: yup.AnySchema): Shape {
  const said = schema.describe() as yup.SchemaDescription
  const notes = (said.meta ?? {}) as SchemaNotes
  const absent = { undefined: said.optional, null: said.nullable }
  const limit = (name: string, otherwise: number) =>
    said.tests.reduce(
      (most, test) =>
        test.name === name || test.name === 'length'
          ? Number((test.params as Record<string, unknown> | undefined)?.[test.name] ?? most)
          : most,
      otherwise
    )
  if (said.type === 'object') {
    const { fields } = schema as unknown as { fields: Record<string, yup.AnySchema> }
    return { kind: 'group', schema, absent, fields: new Map(Object.entries(fields).map(([name, field]) => [name, shapeOf(field)])) }
  }
  if (said.type === 'array') {
    const { innerType } = schema as unknown as { innerType?: yup.AnySchema }
    return {
      kind: 'list',
      schema,
      absent,
      of: innerType ? shapeOf(innerType) : null,
      each: notes.each,
      most: limit('max', Infinity),
      least: limit('min', 0)
    }
  }
  const values = said.oneOf.length > 0 ? new Set(said.oneOf) : null
  if (said.type === 'string')
    return { kind: 'text', schema, absent, values, longest: limit('max', LONGEST_TEXT), lines: notes.lines ?? false }
  if (said.type === 'number') return { kind: 'number', schema, absent, values, longest: 0, lines: false }
  if (said.type === 'boolean') return { kind: 'yes or no', schema, absent, values, longest: 0, lines: false }
  return { kind: 'free', schema, absent }
}

/**
 * What is wrong with the form of an input: kinds of values, lengths, depth, missing and unknown fields, values of a fixed set.
 * Lengths come before what is in a list, and looking ends after twenty problems, so that the size of an input bounds the work.
 * What passes can be given to tests that rely on each other's fields.
 */
export function formProblems(schema: yup.AnySchema, input: unknown): FieldIssue[] {
  const issues: FieldIssue[] = []
  look(shapeOf(schema), input, '', issues)
  return issues
}

const inside = (path: string, name: string) =>
  /^[\w-]+$/.test(name) ? (path ? `${path}.${name}` : name) : `${path}["${told([name.replaceAll('"', '?')])}"]`

function look(shape: Shape, input: unknown, path: string, issues: FieldIssue[]): void {
  if (input === undefined || input === null) {
    if (!(input === null ? shape.absent.null : shape.absent.undefined)) issues.push({ field: path, message: wordsOf(shape, input) })
    return
  }
  if (shape.kind === 'group') return lookInGroup(shape, input, path, issues)
  if (shape.kind === 'list') return lookInList(shape, input, path, issues)
  const message = shape.kind === 'free' ? freeProblem(input) : leafProblem(shape, input)
  if (message !== null) issues.push({ field: path, message })
}

function lookInGroup(shape: Group, input: unknown, path: string, issues: FieldIssue[]): void {
  if (typeof input !== 'object' || Array.isArray(input)) {
    issues.push({ field: path, message: wordsOf(shape, []) })
    return
  }
  const values = input as Record<string, unknown>
  for (const name of Object.keys(values)) {
    if (issues.length >= MOST_PROBLEMS) return
    if (!shape.fields.has(name)) issues.push({ field: inside(path, name), message: 'Not a field we know.' })
  }
  for (const [name, field] of shape.fields) {
    if (issues.length >= MOST_PROBLEMS) return
    look(field, Object.hasOwn(values, name) ? values[name] : undefined, inside(path, name), issues)
  }
}

function lookInList(shape: List, input: unknown, path: string, issues: FieldIssue[]): void {
  if (!Array.isArray(input)) {
    issues.push({ field: path, message: wordsOf(shape, {}) })
    return
  }
  if (input.length > shape.most || input.length < shape.least) {
    issues.push({ field: path, message: lengthWords(shape, input) })
    return
  }
  for (let n = 0; n < input.length && issues.length < MOST_PROBLEMS; n++) {
    const field = () => `${path}[${n}]`
    if (shape.of) look(shape.of, input[n], field(), issues)
    else if (shape.each) {
      const message = entryProblem(shape.each, input[n])
      if (message !== null) issues.push({ field: field(), message })
    }
  }
}

function entryProblem({ longest }: NonNullable<SchemaNotes['each']>, entry: unknown): string | null {
  return typeof entry === 'string' ? textProblem(entry, longest, false) : 'This must be text.'
}

function textProblem(text: string, longest: number, lines: NonNullable<SchemaNotes['lines']>): string | null {
  if (text.length > longest) return `This has at most ${longest.toLocaleString('en')} letters.`
  return lines !== 'pasted' && hasControls(text, lines) ? 'This has a character that no text may have, such as a control character.' : null
}

const TYPES = { text: 'string', number: 'number', 'yes or no': 'boolean' } as const

function leafProblem(shape: Leaf, input: unknown): string | null {
  const { kind, values, longest, lines } = shape
  if (typeof input !== TYPES[kind]) return wordsOf(shape, Array.isArray(input) ? [] : typeof input === 'object' ? {} : input)
  if (typeof input === 'number' && !(Math.abs(input) <= MOST_NUMBER)) return 'This number is larger than any we take.'
  if (values && !values.has(input)) return wordsOf(shape, typeof input === 'string' ? input.slice(0, 100) : input)
  if (typeof input !== 'string') return null
  return input.length > longest ? lengthWords(shape, input) : textProblem(input, longest, lines)
}

/** A value of any form: not too deep, with texts and numbers that are ones. */
function freeProblem(input: unknown, depth = 0): string | null {
  if (depth > DEEPEST) return `This goes at most ${DEEPEST} deep.`
  if (typeof input === 'string') return textProblem(input, Infinity, true)
  if (typeof input === 'number') return Math.abs(input) <= MOST_NUMBER ? null : 'This number is larger than any we take.'
  if (typeof input !== 'object' || input === null) return null
  for (const [name, value] of Object.entries(input)) {
    const problem = textProblem(name, LONGEST_TEXT, false) ?? freeProblem(value, depth + 1)
    if (problem !== null) return problem
  }
  return null
}

/** What the schema itself says of a value that is not of its kind: asked with a small one in its place. */
function wordsOf({ schema }: Shape, standIn: unknown): string {
  try {
    schema.validateSync(standIn, { strict: true, abortEarly: true, disableStackTrace: true })
  } catch (error) {
    if (yup.ValidationError.isError(error)) return error.message
  }
  return 'This cannot be taken as it is.'
}

/** What the schema says of a list or text that is too long or too short. */
function lengthWords({ schema }: Shape, value: { length: number }): string {
  const { length } = value
  const test = schema.tests.find(({ OPTIONS }) => {
    const { min, max, length: exact } = (OPTIONS?.params ?? {}) as { min?: number; max?: number; length?: number }
    return OPTIONS?.name === 'max'
      ? length > Number(max)
      : OPTIONS?.name === 'min'
        ? length < Number(min)
        : OPTIONS?.name === 'length' && length !== exact
  })
  const message = test?.OPTIONS?.message
  return message === undefined
    ? `This has at most ${LONGEST_TEXT.toLocaleString('en')} letters.`
    : String(yup.ValidationError.formatError(message as never, { ...test?.OPTIONS?.params, value } as never))
}
