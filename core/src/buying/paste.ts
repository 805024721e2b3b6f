import { DIMENSION_KINDS } from '../dimensions/index.js'
import type { Inventory } from '../market/index.js'
import { COUNTRIES } from '../places/index.js'
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

/** Entries of a pasted text with their lines; places have commas inside, other kinds may be parted by them. */
function entriesOf(kind: ListKind, text: string): { line: number; text: string }[] {
  const between = kind === 'places' ? /[;\t]/ : kind === 'keywords' || kind === 'segments' ? /[;,\t]/ : /[;,\t ]/
  const found: { line: number; text: string }[] = []
  for (const { line, text: part } of partsOf(text.replace(/^\uFEFF/, ''), between)) {
    const entry = part.replace(/\s+/g, ' ').trim()
    if (entry !== '') found.push({ line, text: entry })
  }
  return found
}

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

/** Properties by what people call them: address or store id in small letters. */
function propertiesByName(inventory: Inventory): Map<string, string> {
  return new Map(
    inventory.properties
      .filter((property) => property.domain !== '')
      .map((property) => [property.domain.toLowerCase(), String(property.index)])
  )
}

/** The value that an entry names, or why it names none. */
function valueOf(
  kind: ListKind,
  text: string,
  inventory: Inventory,
  names: ReadonlyMap<string, string>
): { value: string } | { message: string } {
  const number = /^\d{1,6}$/.test(text) ? Number(text) : null
  if (kind === 'properties') {
    const named = names.get(
      text
        .toLowerCase()
        .replace(/^https?:\/\//, '')
        .replace(/^www\./, '')
        .replace(/\/.*$/, '')
    )
    if (named !== undefined) return { value: named }
    if (number !== null)
      return number < inventory.properties.length ? { value: String(number) } : { message: 'There is no property of that number.' }
    return {
      message: /^[\w-]+(\.[\w-]+)+$/.test(text)
        ? 'No property of the market has that address.'
        : 'Neither an address, a store id nor a number.'
    }
  }
  if (kind === 'placements') {
    if (number === null) return { message: 'A placement is a whole number.' }
    return number < inventory.placements.length ? { value: String(number) } : { message: 'There is no placement of that number.' }
  }
  const { noun, isKnown } = DIMENSION_KINDS[LIST_KINDS[kind]]
  if (kind === 'places') {
    const postal = /^([A-Za-z]{2})[ -]?(.+)$/.exec(text)
    const tries = [
      text,
      text.toUpperCase(),
      postal ? `post:${postal[1].toUpperCase()} ${postal[2].toUpperCase()}` : '',
      COUNTRIES.find((country) => country.name.toLowerCase() === text.toLowerCase())?.code ?? ''
    ]
    const known = tries.find((one) => one !== '' && isKnown(one))
    return known ? { value: known } : { message: 'Not a country, region, city, postal code or radius we know.' }
  }
  const value = kind === 'keywords' ? text.toLowerCase() : text
  return isKnown(value) ? { value } : { message: `Not a ${noun} we know.` }
}

/**
 * Reads a pasted text: what each entry is, and line by line what is unknown, malformed or there twice.
 * @param has values that the list has already
 */
export function readPaste(kind: ListKind, text: string, inventory: Inventory, has: readonly string[] = []): PasteRead {
  const entries = entriesOf(kind, text)
  const names = kind === 'properties' ? propertiesByName(inventory) : new Map<string, string>()
  const seen = new Map<string, number>(has.map((value) => [value, 0]))
  const found: PasteRead = { values: [], problems: [], entries: entries.length }
  for (const { line, text: entry } of entries.slice(0, MOST_PASTED)) {
    const read = valueOf(kind, entry, inventory, names)
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
