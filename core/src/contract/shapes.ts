import { yup } from '../input/index.js'

/**
 * Pieces that answers are described by: what is described is the source of its type, of the check of every answer in the tests, and of
 * the description for scripts.
 */
export const text = () => yup.string().defined()
/** Where JSON cannot tell a number (without bound), null stands. */
export const number = () => yup.number().defined()
export const flag = () => yup.boolean().defined()
export const maybe = <S extends yup.Schema>(schema: S): S extends yup.Schema<infer T> ? yup.Schema<T | null> : never =>
  schema.nullable() as never
/** A field that may be left out. */
export const optional = <S extends yup.Schema>(schema: S): S extends yup.Schema<infer T> ? yup.Schema<T | undefined> : never =>
  schema.optional() as never
export const oneOf = <const T extends string>(values: readonly T[]): yup.Schema<T> => yup.string().oneOf(values).defined() as never
export const list = <T>(element: yup.Schema<T>): yup.Schema<T[]> => yup.array().of(element).defined() as never

type Fields = Record<string, yup.Schema>
type Told<F extends Fields> = {
  [K in keyof F as undefined extends yup.InferType<F[K]> ? never : K]: yup.InferType<F[K]>
} & { [K in keyof F as undefined extends yup.InferType<F[K]> ? K : never]?: yup.InferType<F[K]> }
type Flat<T> = { [K in keyof T]: T[K] }

/** An object with these fields and no others. */
export const shape = <F extends Fields>(fields: F): yup.Schema<Flat<Told<F>>> & { fields: F } =>
  yup.object(fields).noUnknown('An answer has fields that are not in its description: ${unknown}.').defined() as never
/** Fields of one kind. */
export const named = <const K extends string, S>(names: readonly K[], field: () => S): Record<K, S> =>
  Object.fromEntries(names.map((name) => [name, field()])) as Record<K, S>

/** Values by name. */
export const byName = <K extends string, T>(names: readonly K[], value: yup.Schema<T>): yup.Schema<Readonly<Record<K, T>>> =>
  yup.object(Object.fromEntries(names.map((name) => [name, value]))).defined() as never

/** What may be anything: a value whose kind depends on what it is of. */
export const anything = () => yup.mixed().nullable().optional()

type Described = yup.SchemaDescription & Partial<yup.SchemaObjectDescription & yup.SchemaInnerTypeDescription>

function bareForm({ type, fields = {}, innerType }: Described): yup.MixedSchema {
  const forms: Readonly<Record<string, () => yup.Schema>> = {
    object: () => yup.object(Object.fromEntries(Object.entries(fields).map(([name, one]) => [name, formOfField(one)]))).noUnknown(),
    array: () => yup.array().of(innerType && !Array.isArray(innerType) ? formOfField(innerType) : text()),
    string: () => yup.string(),
    number: () => yup.number(),
    boolean: () => yup.boolean()
  }
  return (forms[type] ?? anything)() as yup.MixedSchema
}

function formOfField(field: yup.SchemaFieldDescription): yup.Schema {
  const described = field as Described
  const known = described.oneOf.filter((value) => value !== undefined && value !== null)
  const bare = known.length > 0 ? bareForm(described).oneOf(known as never[]) : bareForm(described)
  const presence = described.optional ? bare.optional() : bare.defined()
  return described.nullable ? presence.nullable() : presence
}

/** The form of what somebody may send, without what must hold of it besides: answers tell what was saved, whatever is asked of it now. */
export const formOf = <T extends object>(schema: yup.Schema<T>): yup.Schema<T> & { fields: Record<keyof T, yup.Schema> } =>
  formOfField(schema.describe()) as never

export type TypeOf<S> = S extends yup.Schema<infer T> ? T : never

/** Nothing is answered but that it was done. */
export const NOTHING = yup.mixed().test('nothing', 'Nothing is answered.', (value) => value === undefined) as unknown as yup.Schema<void>
