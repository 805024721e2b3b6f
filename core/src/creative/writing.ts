import { letters } from './letters.js'

/** What is found in a text as it is typed. */
export interface WritingFinding {
  says: string
  severity: 'stops' | 'warns'
}

/** Letters from which on a word in capitals is no abbreviation by its length alone, and those that a text must have. */
const [ABBREVIATED, SHOUTED] = [3, 5]

/** Whether all of a text, or more than half of its words, is in capitals. */
export function inCapitals(text: string): boolean {
  const words = text.match(/\p{L}[\p{L}\p{M}]*/gu) ?? []
  const high = words.filter((word) => word.length >= ABBREVIATED && word === word.toUpperCase() && word !== word.toLowerCase())
  const isAll = high.length > 0 && words.every((word) => word === word.toUpperCase())
  return (isAll || high.length > words.length / 2) && words.join('').length >= SHOUTED
}

const REPEATED = /([!?,;:])\s*\1|[!?]{2,}|\.{4,}/u

/** The first marks that a text repeats; null where it repeats none. */
export const repeatedMarks = (text: string): string | null => REPEATED.exec(text)?.[0] ?? null

/** Length, capitals and repeated punctuation of one text. @param most letters that its slot shows */
export function writingFindings(text: string, { what, most }: { what: string; most: number }): WritingFinding[] {
  const said = text.trim()
  if (said === '') return [{ says: `${what} is needed.`, severity: 'stops' }]
  const there = letters(said)
  return [
    ...(there > most ? [{ says: `${what} has ${there} letters; ${most} are allowed.`, severity: 'stops' as const }] : []),
    ...(inCapitals(said) ? [{ says: `${what} is written in capitals.`, severity: 'warns' as const }] : []),
    ...(repeatedMarks(said) !== null ? [{ says: `${what} repeats its punctuation.`, severity: 'warns' as const }] : [])
  ]
}

/** The same text however it is spaced and capitalised. */
export const asRead = (text: string) => text.trim().replace(/\s+/g, ' ').toLowerCase()
