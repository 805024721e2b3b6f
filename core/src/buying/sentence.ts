import { yup } from '../input/index.js'
import { COUNTRIES, REGIONS } from '../places/index.js'
import { DIMENSION_KINDS, targetingSchema, type Dimension, type Restriction } from '../targeting/index.js'
import { CATEGORIES, FORMATS, LANGUAGES, SEGMENTS } from '../taxonomy/index.js'
import type { Sentence, SurveyBy } from '../forecast/index.js'
import { hoursSchema } from './line.js'
import { valueWords } from './words.js'

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
  group: 'what' | 'where' | 'device' | 'connection' | 'who' | 'when' | 'context' | 'slot' | 'inventory'
  /** What the values are counted by. */
  by: readonly SurveyBy[]
  /** The value of the restriction for a group of a count; null where it has none. */
  value: (by: SurveyBy, key: number, label: string) => string | null
}

const itself = (_: SurveyBy, __: number, label: string) => label
const byLabel = (group: Chooser['group'], by: SurveyBy): Chooser => ({ group, by: [by], value: itself })

/** Phrases that have a chooser, in the order in which they are offered. */
export const CHOOSERS: Readonly<Partial<Record<PhraseOf, Chooser>>> = {
  format: byLabel('what', 'format'),
  where: { group: 'where', by: ['country', 'region'], value: (by, key) => (by === 'country' ? COUNTRIES[key].code : REGIONS[key].code) },
  device: byLabel('device', 'device'),
  system: byLabel('device', 'system'),
  browser: byLabel('device', 'browser'),
  maker: byLabel('device', 'maker'),
  'price band': byLabel('device', 'price band'),
  connection: byLabel('connection', 'connection'),
  carrier: byLabel('connection', 'carrier'),
  provider: byLabel('connection', 'provider'),
  age: byLabel('who', 'age'),
  gender: byLabel('who', 'gender'),
  income: byLabel('who', 'income'),
  language: { group: 'who', by: ['language'], value: (_, key) => LANGUAGES[key] ?? null },
  industry: byLabel('who', 'industry'),
  'job function': byLabel('who', 'job function'),
  segments: { group: 'who', by: ['audience'], value: (_, key) => SEGMENTS[key]?.name ?? null },
  category: { group: 'context', by: ['branch of content', 'category'], value: (_, key) => CATEGORIES[key]?.name ?? null },
  moment: byLabel('context', 'moment'),
  'music genre': byLabel('context', 'music genre'),
  rating: byLabel('context', 'rating'),
  popularity: byLabel('context', 'popularity'),
  class: byLabel('slot', 'class'),
  environment: byLabel('slot', 'environment'),
  size: byLabel('slot', 'size'),
  'video position': byLabel('slot', 'video position'),
  skippable: byLabel('slot', 'skippable'),
  rewarded: byLabel('slot', 'rewarded'),
  sound: byLabel('slot', 'sound'),
  source: byLabel('inventory', 'source'),
  auction: byLabel('inventory', 'auction'),
  seller: byLabel('inventory', 'seller'),
  grade: byLabel('inventory', 'grade'),
  publisher: { group: 'inventory', by: ['publisher'], value: (_, key) => String(key) }
}

/** The value of a count's group for a phrase; null where the group is of nothing that can be chosen. */
export function chooserValue(phrase: PhraseOf, by: SurveyBy, key: number, label: string): string | null {
  const value = key < 0 ? null : (CHOOSERS[phrase]?.value(by, key, label) ?? null)
  if (value === null || phrase === 'format' || phrase === 'hours') return value
  return DIMENSION_KINDS[phrase].isKnown(value) ? value : null
}

const listed = (words: readonly string[], join = 'and') =>
  words.length < 2
    ? (words[0] ?? '')
    : words.length > 4
      ? `${words.slice(0, 3).join(', ')} ${join} ${words.length - 3} more`
      : `${words.slice(0, -1).join(', ')} ${join} ${words[words.length - 1]}`
const counted = (count: number, one: string, many = `${one}s`) => `${count} ${count === 1 ? one : many}`

/** How a restriction is said: before and after its values, included and left out. */
const SAID: Readonly<Partial<Record<Dimension, readonly [is: string, not: string, join?: string]>>> = {
  where: ['in', 'outside'],
  device: ['on', 'not on'],
  system: ['running', 'not running', 'or'],
  browser: ['in the browser', 'not in the browser', 'or'],
  maker: ['made by', 'not made by', 'or'],
  'price band': ['of the price band', 'not of the price band', 'or'],
  connection: ['over', 'not over', 'or'],
  carrier: ['over', 'not over', 'or'],
  provider: ['over', 'not over', 'or'],
  age: ['to people of', 'not to people of', 'or'],
  gender: ['to', 'not to', 'or'],
  income: ['of an income that is', 'of an income that is not', 'or'],
  language: ['who speak', 'who do not speak', 'or'],
  industry: ['who work in', 'who do not work in', 'or'],
  'job function': ['whose job is', 'whose job is not', 'or'],
  segments: ['of', 'none of'],
  category: ['beside', 'not beside', 'or'],
  keyword: ['beside the words', 'not beside the words', 'or'],
  moment: ['at the moment of', 'not at the moment of', 'or'],
  'music genre': ['with music of', 'without music of', 'or'],
  rating: ['rated', 'not rated', 'or'],
  popularity: ['on pages that are', 'not on pages that are', 'or'],
  class: ['of the kind', 'not of the kind', 'or'],
  environment: ['in', 'not in', 'or'],
  size: ['in slots of', 'not in slots of', 'or'],
  'video position': ['played', 'not played', 'or'],
  source: ['sold through', 'not sold through', 'or'],
  auction: ['at a', 'not at a', 'or'],
  seller: ['sold by', 'not sold by', 'or'],
  grade: ['graded', 'not graded'],
  unwanted: ['with', 'without']
}

/** A restriction as a phrase of the sentence. */
export function phraseWords(restriction: Restriction): string {
  const { dimension, mode, values } = restriction
  const isIn = mode === 'include'
  if (dimension === 'property' || dimension === 'placement' || dimension === 'publisher')
    return `${isIn ? 'at' : 'without'} ${counted(values.length, dimension, dimension === 'property' ? 'properties' : undefined)}`
  if (dimension === 'skippable' || dimension === 'rewarded' || dimension === 'sound') return `${dimension}: ${values.join(' or ')}`
  const said = SAID[dimension]
  const words = listed(
    values.map((value) => (dimension === 'grade' ? `${value} or better` : valueWords(dimension, value))),
    said?.[2] ?? 'and'
  )
  if (restriction.group) return `${isIn ? 'of' : 'none of'} a group of segments`
  return said ? `${said[isIn ? 0 : 1]} ${words}` : `${isIn ? '' : 'without '}${dimension} ${words}`
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
