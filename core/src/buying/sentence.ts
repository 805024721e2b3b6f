import { yup } from '../input/index.js'
import { targetingSchema, type Restriction } from '../targeting/index.js'
import { FORMATS } from '../taxonomy/index.js'
import type { Sentence, SurveyBy } from '../forecast/index.js'
import { hoursSchema } from './line.js'
import {
  DIMENSION_GROUPS,
  DIMENSION_KINDS,
  dimensionTitle,
  type CountedBy,
  type Dimension,
  type DimensionGroup
} from '../dimensions/index.js'
import { countWords, valueWords } from './words.js'

/**
 * The filter sentence of the Market: what traffic is looked at, in words. Its restrictions are those of a line, so that
 * a sentence becomes a line and a line a sentence.
 */
export type PhraseOf = Dimension | 'format' | 'hours'

export const sentenceSchema: yup.ObjectSchema<Sentence> = yup
  .object({
    formats: yup.array().of(yup.string().oneOf(FORMATS, 'Not a format we know.').required()).max(FORMATS.length).required(),
    targeting: targetingSchema.required(),
    hours: hoursSchema.nullable().defined()
  })
  .noUnknown() as yup.ObjectSchema<Sentence>

export const EVERYTHING: Sentence = { formats: [], targeting: { restrictions: [] }, hours: null }

interface Chooser {
  group: DimensionGroup
  /** What the values are counted by. */
  by: readonly CountedBy[]
  /** The value of the restriction for a row of a count; null where it has none. */
  value: (by: string, key: number, label: string, code?: string) => string | null
}

/** Phrases that have a chooser, in the order in which they are offered. */
export const CHOOSERS: Readonly<Partial<Record<PhraseOf, Chooser>>> = {
  format: { group: 'slot', by: ['format'], value: (_, __, label) => label },
  ...Object.fromEntries(
    DIMENSION_GROUPS.flatMap(({ name: group, dimensions }) =>
      dimensions.flatMap((dimension) => {
        const { chooser } = DIMENSION_KINDS[dimension]
        return chooser ? [[dimension, { group, by: (chooser.by ?? [dimension]) as CountedBy[], value: chooser.value }]] : []
      })
    )
  )
}

/** What pages call what a phrase is of. */
export const phraseTitle = (phrase: PhraseOf) => (phrase === 'format' || phrase === 'hours' ? phrase : dimensionTitle(phrase))

/** The value of a count's group for a phrase; null where the group is of nothing that can be chosen. */
export function chooserValue(
  phrase: PhraseOf,
  by: SurveyBy,
  { key, label, code }: { key: number; label: string; code?: string | undefined }
): string | null {
  const value = key < 0 ? null : (CHOOSERS[phrase]?.value(by, key, label, code) ?? null)
  if (value === null || phrase === 'format' || phrase === 'hours') return value
  return DIMENSION_KINDS[phrase].isKnown(value) ? value : null
}

const listed = (words: readonly string[], join = 'and') =>
  words.length < 2
    ? (words[0] ?? '')
    : words.length > 4
      ? `${words.slice(0, 3).join(', ')} ${join} ${words.length - 3} more`
      : `${words.slice(0, -1).join(', ')} ${join} ${words[words.length - 1]}`

/** A restriction as a phrase of the sentence. */
export function phraseWords({ dimension, mode, values, group }: Restriction): string {
  const isIn = mode === 'include'
  if (group) return `${isIn ? 'of' : 'none of'} a group of segments`
  const { said, inFull } = DIMENSION_KINDS[dimension]
  const [is, not, join = 'or'] = said ?? inFull
  const words =
    countWords(dimension, values.length) ??
    listed(
      values.map((value) => valueWords(dimension, value)),
      join
    )
  return `${isIn ? is : not} ${words}`
}

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const PARTS: readonly (readonly [name: string, from: number, to: number])[] = [
  ['nights', 0, 6],
  ['mornings', 6, 12],
  ['afternoons', 12, 18],
  ['evenings', 18, 24]
]

/** Hours of a week as they are said: `weekday evenings`, `Saturday and Sunday 8 to 20`, or how many they are. */
export function weekWords(perMille: readonly number[]): string {
  const open = (day: number) => Array.from({ length: 24 }, (_, hour) => (perMille[day * 24 + hour] > 0 ? '1' : '0')).join('')
  const days = DAYS.map((_, day) => open(day))
  const used = [...new Set(days.filter((day) => day.includes('1')))]
  const hours = used.length === 1 ? /^0*(1+)0*$/.exec(used[0]) : null
  if (!hours) return used.length === 0 ? 'never' : `${perMille.filter((share) => share > 0).length} of 168 hours`
  const from = used[0].indexOf('1')
  const to = from + hours[1].length
  const on = days.flatMap((day, n) => (day === used[0] ? [n] : []))
  const which =
    on.length === 7 ? '' : on.join() === '0,1,2,3,4' ? 'weekday' : on.join() === '5,6' ? 'weekend' : listed(on.map((n) => DAYS[n]))
  const part = PARTS.find((named) => named[1] === from && named[2] === to)?.[0]
  if (to - from === 24) return which === 'weekday' || which === 'weekend' ? `${which}s` : which || 'always'
  return [which, part ?? `${from} to ${to}`].filter(Boolean).join(' ')
}

/** A phrase of the sentence: what it is of, and how it reads. */
export interface Phrase {
  of: PhraseOf
  mode: Restriction['mode']
  words: string
}

/** The sentence, phrase by phrase: the format first, hours last. */
export function phrasesOf({ formats, targeting, hours }: Sentence): Phrase[] {
  const first = formats.length === 0 ? 'Anything' : listed(formats).replace(/^./, (letter) => letter.toUpperCase())
  return [
    { of: 'format', mode: 'include', words: first },
    ...targeting.restrictions.map((restriction): Phrase => ({
      of: restriction.dimension,
      mode: restriction.mode,
      words: phraseWords(restriction)
    })),
    ...(hours ? [{ of: 'hours', mode: 'include', words: weekWords(hours.perMille) } as const] : [])
  ]
}

export const sentenceWords = (sentence: Sentence) =>
  `${phrasesOf(sentence)
    .map(({ words }) => words)
    .join(', ')
    .replace(/^([^,]+), (on|in) /, '$1 $2 ')}.`
