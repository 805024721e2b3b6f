import { languageName } from '../buying/index.js'
import { COUNTRIES, REGIONS } from '../places/index.js'
import { DEVICE_TYPES, LANGUAGES, deviceWords } from '../taxonomy/index.js'
import { DIMENSIONS, type Dimension, type Restriction, type SegmentGroup } from '../targeting/index.js'
import { alternatives, alternativesIn, cutAt, listed, partsOf, unquoted } from './quoting.js'

/** How the long form says a restriction, wanted and left out: no two alike, so that each can be read back. */
const SAID: Readonly<Record<Dimension, readonly [is: string, not: string]>> = {
  where: ['in', 'outside'],
  device: ['on', 'not on'],
  system: ['running', 'not running'],
  browser: ['in the browser', 'not in the browser'],
  'browser language': ['in a browser that speaks', 'not in a browser that speaks'],
  maker: ['on devices made by', 'not on devices made by'],
  'release year': ['on devices of the year', 'not on devices of the year'],
  'price band': ['on devices of the price band', 'not on devices of the price band'],
  resolution: ['on screens of', 'not on screens of'],
  connection: ['connected by', 'not connected by'],
  carrier: ['with the carrier', 'not with the carrier'],
  provider: ['with the provider', 'not with the provider'],
  'address range': ['from the addresses', 'not from the addresses'],
  unwanted: ['with', 'without'],
  'since pop': ['to people without a pop for', 'to people with a pop in'],
  age: ['to people of', 'not to people of'],
  gender: ['to', 'not to'],
  language: ['to people who speak', 'not to people who speak'],
  income: ['to households of the', 'not to households of the'],
  employer: ['to people employed at', 'not to people employed at'],
  industry: ['to people who work in', 'not to people who work in'],
  'job function': ['to people whose work is', 'not to people whose work is'],
  segments: ['to the segments', 'not to the segments'],
  category: ['beside', 'not beside'],
  keyword: ['beside the words', 'not beside the words'],
  popularity: ['on pages that are', 'not on pages that are'],
  moment: ['at the moment of', 'not at the moment of'],
  'music genre': ['within music of', 'not within music of'],
  'podcast topic': ['within podcasts about', 'not within podcasts about'],
  'content left out': ['beside content of', 'away from'],
  rating: ['rated', 'not rated'],
  class: ['of the class', 'not of the class'],
  environment: ['within', 'not within'],
  rewarded: ['rewarded:', 'not rewarded:'],
  size: ['in slots of', 'not in slots of'],
  'video position': ['played', 'not played'],
  skippable: ['skippable:', 'not skippable:'],
  sound: ['sound on:', 'not sound on:'],
  source: ['through the source', 'not through the source'],
  auction: ['at', 'not at'],
  seller: ['sold by the', 'not sold by the'],
  grade: ['graded at least', 'not graded at least'],
  viewability: ['viewable at least', 'not viewable at least'],
  publisher: ['at the publishers', 'without the publishers'],
  property: ['at the properties', 'without the properties'],
  placement: ['at the placements', 'without the placements']
}

/** Beginnings of restrictions, the longest first, so that none hides another. */
const BEGINNINGS = DIMENSIONS.flatMap((dimension) =>
  (['include', 'exclude'] as const).map((mode, n) => ({ dimension, mode, words: SAID[dimension][n] }))
).sort((a, b) => b.words.length - a.words.length)

const namesOf = (pairs: readonly (readonly [value: string, words: string])[]) => ({
  words: new Map(pairs),
  values: new Map(pairs.map(([value, words]) => [words.toLowerCase(), value]))
})
/** Names that go both ways; where two places share a name it stands for the first, and the other keeps its code. */
const NAMES: Readonly<Partial<Record<Dimension, ReturnType<typeof namesOf>>>> = {
  where: namesOf(
    (() => {
      const seen = new Set<string>()
      return [...COUNTRIES, ...REGIONS]
        .filter(({ name }) => !seen.has(name.toLowerCase()) && seen.add(name.toLowerCase()))
        .map(({ code, name }) => [code, name] as const)
    })()
  ),
  device: namesOf(DEVICE_TYPES.map((type) => [type, deviceWords(type)])),
  language: namesOf(LANGUAGES.map((code) => [code, languageName(code)])),
  'browser language': namesOf(LANGUAGES.map((code) => [code, languageName(code)]))
}
const UNITS: Readonly<Partial<Record<Dimension, string>>> = { 'since pop': ' minutes', viewability: ' %' }

/** One value of a dimension as the long form says it. */
export function longValue(dimension: Dimension, value: string): string {
  const unit = UNITS[dimension]
  return unit ? `${value}${unit}` : listed(NAMES[dimension]?.words.get(value) ?? value)
}

/** The value that a text of the long form names; whether it is known is the schema's to say. */
export function readValue(dimension: Dimension, text: string): string {
  const unit = UNITS[dimension]
  if (unit) return text.endsWith(unit) ? text.slice(0, -unit.length) : text
  const bare = unquoted(text)
  return text === bare ? (NAMES[dimension]?.values.get(bare.toLowerCase()) ?? bare) : bare
}

const JOINS = { and: 'all of', or: 'any of', not: 'none of' } as const
const groupText = ({ join, parts }: SegmentGroup): string =>
  `${JOINS[join]} (${parts.map((part) => (typeof part === 'string' ? listed(part) : groupText(part))).join(', ')})`

function readGroup(text: string): SegmentGroup | null {
  const found = /^(all|any|none) of \((.*)\)$/su.exec(text)
  if (!found) return null
  const parts = partsOf(found[2], /, /).map((part) => (/^(all|any|none) of \(/.test(part) ? readGroup(part) : unquoted(part)))
  return parts.includes(null)
    ? null
    : { join: ({ all: 'and', any: 'or', none: 'not' } as const)[found[1] as 'all'], parts: parts as SegmentGroup['parts'] }
}

/** A restriction with all its values. */
export function longRestriction({ dimension, mode, values, exact, list, group }: Restriction): string {
  return [
    SAID[dimension][mode === 'include' ? 0 : 1],
    alternatives(values.map((value) => longValue(dimension, value))),
    group ? `joined as ${groupText(group)}` : '',
    exact === true ? 'alone' : exact === false ? 'and all below' : '',
    list === undefined ? '' : `as in list ${list}`
  ]
    .filter(Boolean)
    .join(' ')
}

/** Reads a restriction of the long form; null for a text that begins like none. */
export function readRestriction(text: string): Restriction | null {
  const begins = BEGINNINGS.find(({ words }) => text === words || text.startsWith(`${words} `))
  if (!begins) return null
  const [withoutList, list] = cutAt(text.slice(begins.words.length), / as in list /)
  const exact = withoutList.endsWith(' alone') ? true : withoutList.endsWith(' and all below') ? false : undefined
  const [values, joined] = cutAt(exact === undefined ? withoutList : withoutList.replace(/ (alone|and all below)$/, ''), / joined as /)
  const group = joined === null ? undefined : readGroup(joined)
  if (group === null || (list !== null && !/^\d+$/.test(list))) return null
  const { dimension, mode } = begins
  return {
    dimension,
    mode,
    values: alternativesIn(values).map((part) => readValue(dimension, part)),
    ...(exact === undefined ? {} : { exact }),
    ...(list === null ? {} : { list: Number(list) }),
    ...(group ? { group } : {})
  }
}
