import type { Format } from '../taxonomy/index.js'
import { LANE_OF, type Catalogue, type Lane, type Seen } from './lanes.js'

/**
 * Segments joined by AND, OR and NOT. `not` is true of people who are in none of its parts.
 */
export interface SegmentGroup {
  join: 'and' | 'or' | 'not'
  parts: (string | SegmentGroup)[]
}

/** What a restriction names. */
export interface Wanted {
  /** Codes or names of the dimension, as people know them. */
  values: readonly string[]
  /** Categories: without their descendants. Keywords: only these words, not related ones. */
  exact?: boolean
  /** Segments: a tree in place of the values. */
  group?: SegmentGroup
}

/** Whether value `i` of a lane carries what a restriction names, by lane. */
export type Tests = Partial<Record<Lane, (i: number) => boolean>>

/** What a line can be restricted by, and bend its bid by. Inside a restriction the values are alternatives. */
export interface Restricting {
  /** What choosers and tables call it, where its name here says too little. */
  title?: string
  /** What a value of it is called when one is not known. */
  noun: string
  isKnown: (value: string) => boolean
  /** All values, where a list of them can be shown. */
  values?: readonly string[]
  /** Values have an order of their own; `upwards`: each takes in all before it. */
  inOrder?: true | 'upwards'
  /** Set where only one of the modes makes sense. */
  mode?: 'include' | 'exclude'
  /** Formats that have it; all when left out. */
  formats?: readonly Format[]
  /** How it reads the lanes. */
  tests: (wanted: Wanted, catalogue: Catalogue) => Tests

  /** How the long form says it, wanted and left out: no two of all dimensions alike, so that each can be read back. */
  inFull: readonly [is: string, not: string]
  /** How a short sentence says it, and what joins its values (`or` when left out); as the long form when left out. */
  said?: readonly [is: string, not: string, join?: 'and' | 'or']
  /** A value as people say it; as it is when left out. */
  words?: (value: string) => string
  /** Values that the long form says otherwise than they are kept, both ways. */
  names?: readonly (readonly [value: string, words: string])[]
  /** Follows a number in the long form. */
  unit?: string
  /** One and several, where sentences count the values instead of listing them. */
  counted?: readonly [one: string, many: string]
  /** What a typed sentence calls values of it. */
  called?: readonly (readonly [words: string, ...values: string[]])[]

  /** Its values with the traffic of each: the dimensions that they are counted by, and which value a row of a count is. */
  chooser?: { by?: readonly string[]; value: (by: string, key: number, label: string, code?: string) => string | null }
  /** It is typed as a single number; what is said of that. */
  number?: { hint: string; like: string }
}

/** What results and the market are told apart by. */
export interface Telling {
  title?: string
  /** A number for each value; -1 for what is unknown. A list where a win has several. */
  key: (seen: Seen, market: TellingMarket) => number | readonly number[]
  /** The value in words; null where pages name it (lines, ads and deals). */
  label: (key: number, market: TellingMarket) => string | null
  /** Only for choosers: no report is told apart by it. */
  onlyCounted?: true
  /** Only of what was bought, not of what could be. */
  ofWins?: true
  /** Set where a win may have several values: rows then add up to more than the total. */
  several?: true
}

/** What reports and counts read the market's facts from. */
export interface TellingMarket extends Catalogue {
  /** Zone in which days and hours are counted. */
  zone: number
}

const oneOf = (values: readonly string[]) => {
  const set = new Set(values)
  return (value: string) => set.has(value)
}
/** The part of a restriction whose values are a list. */
export const listed = (noun: string, values: readonly string[]) => ({ noun, values, isKnown: oneOf(values) })
export const within = (low: number, high: number) => (value: string) =>
  /^\d{1,4}$/.test(value) && Number(value) >= low && Number(value) <= high
export const labelIn =
  (values: readonly string[], none = 'unknown') =>
  (key: number) =>
    values[key] ?? none

interface Attribute extends Omit<Restricting, 'isKnown' | 'values' | 'tests'> {
  lane: keyof typeof LANE_OF
  /** Number of a lane's value among the values; -1 where it has none. */
  numberOf: (i: number, catalogue: Catalogue) => number
  values: readonly string[]
  isKnown?: Restricting['isKnown']
  tests?: Restricting['tests']
  /** What reports call values, where that is not what a restriction is written with. */
  labels?: readonly string[]
  /** What reports call having none of them. */
  none?: string
}

/** A dimension that is one value of a lane: restricted by it, counted by it, told apart by it. */
export function attribute({ lane, numberOf, labels, none, ...restricts }: Attribute): { restricts: Restricting; tells: Telling } {
  const { noun, values } = restricts
  const laneOf = LANE_OF[lane]
  return {
    restricts: {
      tests: (wanted, catalogue) => {
        const has = new Set(wanted.values)
        const carries = values.map((value) => has.has(value))
        return { [lane]: (i: number) => carries[numberOf(i, catalogue)] ?? false }
      },
      chooser: { value: (_, key) => values[key] ?? null },
      ...listed(noun, values),
      ...restricts
    },
    tells: { key: (seen, market) => numberOf(laneOf(seen), market), label: labelIn(labels ?? values, none) }
  }
}

/** Values that a typed sentence calls by their own names. */
export const asCalled = (values: readonly string[]) => values.map((value) => [value, value] as const)

const YES_NO = ['no', 'yes'] as const
/** A dimension that is there or not; a restriction can only say which is wanted. */
export function yesOrNo(
  parts: Omit<Attribute, 'values' | 'noun' | 'mode' | 'numberOf'> & { has: (i: number, catalogue: Catalogue) => boolean }
) {
  const { has, ...rest } = parts
  return attribute({
    noun: 'answer',
    values: YES_NO,
    mode: 'include',
    numberOf: (i, catalogue) => (has(i, catalogue) ? 1 : 0),
    ...rest
  })
}
