import { DIMENSION_KINDS } from '../dimensions/index.js'
import { placementCode, type Inventory } from '../market/index.js'
import { CITIES, COUNTRIES, REGIONS, cityCode } from '../places/index.js'
import { LIST_KINDS, type ListKind } from './lists.js'

/** What was made of one pasted entry that is not a new value. */
export interface PasteProblem {
  line: number
  text: string
  message: string
}

export interface PasteRead {
  values: string[]
  problems: PasteProblem[]
  /** Entries that were read. */
  entries: number
}

/** Most entries that are read at once. */
export const MOST_PASTED = 10_000

/** What parts entries: names and places have blanks inside, places and names of placements commas too. */
const BETWEEN: Readonly<Record<ListKind, RegExp>> = {
  properties: /[;,\t]/,
  placements: /[;\t]/,
  'address ranges': /[;,\t ]/,
  keywords: /[;,\t]/,
  places: /[;\t]/,
  segments: /[;,\t]/
}
/** Addresses, store ids and numbers, several of which may stand beside each other. */
const CODES = /^(?:(?:https?:\/\/)?[\w-]+(?:\.[\w-]+)+(?:\/\S*)?|\d+)(?:[\s,]+(?:(?:https?:\/\/)?[\w-]+(?:\.[\w-]+)+(?:\/\S*)?|\d+))+$/

/** Entries of a pasted text with their lines. */
function entriesOf(kind: ListKind, text: string): { line: number; text: string }[] {
  const found: { line: number; text: string }[] = []
  for (const { line, text: part } of partsOf(text.replace(/^\uFEFF/, ''), BETWEEN[kind])) {
    const entry = part.replace(/\s+/g, ' ').trim()
    const isSeveral = kind === 'properties' && entry.length < LONGEST_CODES && CODES.test(entry)
    for (const one of isSeveral ? entry.split(/[\s,]+/) : [entry]) if (one !== '') found.push({ line, text: one })
  }
  return found
}
/** Letters of a line of codes beside each other: a longer one is told as it is. */
const LONGEST_CODES = 4000

/**
 * Parts of a text between separators and line ends, each with the line it begins on. Within quotes neither parts anything (RFC 4180: a
 * quote in quotes is written twice); a quote that is never closed is an ordinary letter.
 */
function* partsOf(text: string, between: RegExp): Generator<{ line: number; text: string }> {
  const quoted = /"([^"]*(?:""[^"]*)*)"[^\S\r\n]*(?=[;,\t\r\n ]|$)/y
  let line = 1
  let began = 1
  let part = ''
  // Kept beside it: to look through a long part at each of its letters would take for ever.
  let isBlank = true
  for (let i = 0; i < text.length; i++) {
    quoted.lastIndex = i
    const inQuotes = text[i] === '"' && isBlank ? quoted.exec(text) : null
    if (inQuotes) {
      began = line
      part = inQuotes[1].replaceAll('""', '"')
      isBlank = false
      line += inQuotes[0].split(/\r\n|\n|\r/).length - 1
      i += inQuotes[0].trimEnd().length - 1
      continue
    }
    const ends = text[i] === '\n' || text[i] === '\r'
    if (!ends && !between.test(text[i])) {
      if (part === '') began = line
      part += text[i]
      isBlank &&= text[i].trim() === ''
      continue
    }
    yield { line: began, text: part }
    part = ''
    isBlank = true
    if (ends) {
      if (text[i] === '\r' && text[i + 1] === '\n') i++
      line++
    }
  }
  yield { line: began, text: part }
}

type Read = { value: string } | { message: string }
/** Values by what people call them, in small letters; what several are called alike is asked. */
type Names = ReadonlyMap<string, readonly { value: string; told: string }[]>

function namesOf(all: Iterable<{ value: string; told: string; called: readonly string[] }>): Names {
  const names = new Map<string, { value: string; told: string }[]>()
  for (const { value, told, called } of all)
    for (const name of new Set(called.map((one) => one.toLowerCase()).filter((one) => one !== '')))
      names.set(name, [...(names.get(name) ?? []), { value, told }])
  return names
}

/** Properties by address or store id and by name; those sold under a number by that number. */
const propertyNames = ({ properties }: Inventory) =>
  namesOf(
    properties.map(({ name, domain, anonymous }) => ({
      value: domain || name,
      told: domain || name,
      called: [domain, name, anonymous ? name.replace('No. ', '') : '']
    }))
  )
/** Placements by their property, by its address or its name, and where on it they lie. */
const placementNames = ({ properties, placements }: Inventory) =>
  namesOf(
    placements.map((placement) => {
      const { name, domain } = properties[placement.property]
      const code = placementCode({ properties }, placement)
      const { position } = placement
      return {
        value: code,
        told: code,
        called: [code, ...[name, domain].flatMap((one) => [`${one}, ${position}`, `${one} ${position}`, `${one}: ${position}`])]
      }
    })
  )
/** Cities by name, alone, with their country, and with their region. */
const cityNames = namesOf(
  CITIES.map((city) => {
    const { code, country } = REGIONS[city.region]
    return {
      value: cityCode(city),
      told: `${city.name}, ${code}`,
      called: [city.name, `${city.name}, ${COUNTRIES[country].code}`, `${city.name}, ${code}`, `${city.name}, ${COUNTRIES[country].name}`]
    }
  })
)
const byName = namesOf([...COUNTRIES, ...REGIONS].map(({ code, name }) => ({ value: code, told: code, called: [name] })))

/** The one value that a name stands for; null where it is no name. */
function nameOf(names: Names, text: string): Read | null {
  const found = names.get(text.toLowerCase())
  if (!found) return null
  if (found.length === 1) return found[0]
  const told = found.slice(0, 4).map((one) => one.told)
  return { message: `${found.length} are called that: say which, as in ${told.join('; ')}.` }
}

function placeOf(text: string): Read {
  const postal = /^([A-Za-z]{2})[ -]?(.+)$/.exec(text)
  const codes = [text, text.toUpperCase(), postal ? `post:${postal[1].toUpperCase()} ${postal[2].toUpperCase()}` : '']
  const known = codes.find((one) => one !== '' && DIMENSION_KINDS.where.isKnown(one))
  if (known) return { value: known }
  return nameOf(byName, text) ?? nameOf(cityNames, text) ?? { message: 'Not a country, region, city, postal code or radius we know.' }
}

/** The value that an entry names, or why it names none. */
function valueOf(kind: ListKind, text: string, names: Names): Read {
  if (kind === 'places') return placeOf(text)
  if (kind === 'properties') {
    const bare = text
      .replace(/^https?:\/\//i, '')
      .replace(/^www\./i, '')
      .replace(/\/.*$/, '')
    const named = nameOf(names, bare) ?? nameOf(names, text)
    if (named) return named
    if (/^(No\. ?)?\d+$/i.test(text)) return { message: 'Nothing is sold under that number.' }
    return {
      message: /^[\w-]+(\.[\w-]+)+$/.test(text)
        ? 'No property of the market has that address.'
        : 'Neither an address, a store id, a name nor the number of a source.'
    }
  }
  if (kind === 'placements')
    return nameOf(names, text) ?? { message: 'No placement is called that: they are named as in “lay-by.example: page head”.' }
  const { noun, isKnown } = DIMENSION_KINDS[LIST_KINDS[kind]]
  const value = kind === 'keywords' ? text.toLowerCase() : text
  return isKnown(value) ? { value } : { message: `Not a ${noun} we know.` }
}

/**
 * Reads a pasted text: what each entry is, and line by line what is unknown, malformed or there twice.
 * @param has values that the list has already
 */
export function readPaste(kind: ListKind, text: string, inventory: Inventory, has: readonly string[] = []): PasteRead {
  const entries = entriesOf(kind, text)
  const names: Names = kind === 'properties' ? propertyNames(inventory) : kind === 'placements' ? placementNames(inventory) : new Map()
  const seen = new Map<string, number>(has.map((value) => [value, 0]))
  const found: PasteRead = { values: [], problems: [], entries: entries.length }
  for (const { line, text: entry } of entries.slice(0, MOST_PASTED)) {
    const read = valueOf(kind, entry, names)
    const problem = (message: string) => found.problems.push({ line, text: entry.slice(0, 80), message })
    if ('message' in read) {
      problem(read.message)
      continue
    }
    const earlier = seen.get(read.value)
    if (earlier !== undefined) problem(earlier === 0 ? 'The list has it already.' : `The same as in line ${earlier}.`)
    else {
      seen.set(read.value, line)
      found.values.push(read.value)
    }
  }
  if (entries.length > MOST_PASTED)
    found.problems.push({
      line: entries[MOST_PASTED].line,
      text: '',
      message: `Only the first ${MOST_PASTED.toLocaleString('en')} entries were read.`
    })
  return found
}
