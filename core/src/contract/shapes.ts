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
export const named = <K extends string, S>(names: readonly K[], field: () => S): Record<K, S> =>
  Object.fromEntries(names.map((name) => [name, field()])) as Record<K, S>

/** Values by name. */
export const byName = <K extends string, T>(names: readonly K[], value: yup.Schema<T>): yup.Schema<Readonly<Record<K, T>>> =>
  yup.object(Object.fromEntries(names.map((name) => [name, value]))).defined() as never

/** What is described where it is made: a part of core that both sides know. */
export const made = <T extends object>(): yup.Schema<T> =>
  yup.mixed<T>((value): value is T => typeof value === 'object' && value !== null).defined() as never

export type TypeOf<S> = S extends yup.Schema<infer T> ? T : never

/** Nothing is answered but that it was done. */
export const NOTHING = yup.mixed().test('nothing', 'Nothing is answered.', (value) => value === undefined) as unknown as yup.Schema<void>
