import { type Restriction } from '../targeting/index.js'
import { DIMENSIONS, DIMENSION_KINDS, type Dimension, type SegmentGroup } from '../dimensions/index.js'
import { alternatives, alternativesIn, cutAt, listed, partsOf, unquoted } from './quoting.js'

/** Beginnings of restrictions, the longest first, so that none hides another. */
const BEGINNINGS = DIMENSIONS.flatMap((dimension) =>
  (['include', 'exclude'] as const).map((mode, n) => ({ dimension, mode, words: DIMENSION_KINDS[dimension].inFull[n] }))
).sort((a, b) => b.words.length - a.words.length)

/** Names that go both ways. */
const NAMES = new Map(
  DIMENSIONS.map((dimension) => {
    const names = DIMENSION_KINDS[dimension].names ?? []
    return [dimension, { words: new Map(names), values: new Map(names.map(([value, words]) => [words.toLowerCase(), value])) }] as const
  })
)

/** One value of a dimension as the long form says it. */
export function longValue(dimension: Dimension, value: string): string {
  const { unit } = DIMENSION_KINDS[dimension]
  return unit ? `${value}${unit}` : listed(NAMES.get(dimension)?.words.get(value) ?? value)
}

/** The value that a text of the long form names; whether it is known is the schema's to say. */
export function readValue(dimension: Dimension, text: string): string {
  const { unit } = DIMENSION_KINDS[dimension]
  if (unit) return text.endsWith(unit) ? text.slice(0, -unit.length) : text
  const bare = unquoted(text)
  return text === bare ? (NAMES.get(dimension)?.values.get(bare.toLowerCase()) ?? bare) : bare
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
    DIMENSION_KINDS[dimension].inFull[mode === 'include' ? 0 : 1],
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
