import { yup } from './yup.js'

/** Numbers of rows are signed 32-bit integers in the database. */
export const MOST_ID = 2_147_483_647
/** Letters of a text whose schema sets no limit. */
export const LONGEST_TEXT = 1000

/** What a schema says of itself beside its rules. */
export interface SchemaNotes {
  /** Entries of a list of plain values; they are looked at in one loop, since a schema for each would cost more than all else. */
  each?: { longest: number }
  /** A text may have line breaks and tabs; pasted text anything, since it is read entry by entry and never kept. */
  lines?: boolean | 'pasted'
}

/**
 * A list of texts, each of at most `longest` letters; what they may say is up to tests on the whole list.
 * @param most entries
 */
export function textList(most: number, tooMany: string, longest = 200): yup.ArraySchema<string[] | undefined, yup.AnyObject> {
  return yup
    .array<yup.AnyObject, string>()
    .max(most, tooMany)
    .meta({ each: { longest } } satisfies SchemaNotes)
}

/** The number of a row that somebody names. @param needed what is said where it is missing */
export function idField(needed: string): yup.NumberSchema<number> {
  return yup
    .number()
    .integer('Numbers of ours are whole.')
    .min(1, 'Numbers of ours begin at 1.')
    .max(MOST_ID, 'There is nothing with so large a number.')
    .required(needed)
}

/** A text that may have line breaks. */
export const linesOfText = (most: number, tooLong: string) =>
  yup
    .string()
    .max(most, tooLong)
    .meta({ lines: true } satisfies SchemaNotes)

/** A text that somebody pasted, to be read entry by entry. */
export const pastedText = (most: number, tooLong: string) =>
  yup
    .string()
    .max(most, tooLong)
    .meta({ lines: 'pasted' } satisfies SchemaNotes)

/** Letters of a refused value that are told back. */
const LONGEST_TOLD = 40

/** Refused values as they are told back: a few of them, short, without what could break a line or a page. */
export function told(values: readonly string[], most = 5): string {
  return values
    .slice(0, most)
    .map((value) => withoutControls(value.length > LONGEST_TOLD ? `${value.slice(0, LONGEST_TOLD)}…` : value))
    .join(', ')
}

/** Control characters, halves of pairs, and marks that turn the direction of writing: they break files and lie about names. */
const CONTROLS = /[\p{Cc}\p{Cs}\u2028-\u202e\u2066-\u2069\ufeff]/u
const CONTROLS_BUT_LINES = /(?![\n\r\t])[\p{Cc}\p{Cs}\u2028-\u202e\u2066-\u2069\ufeff]/u

const EVERY_CONTROL = new RegExp(CONTROLS, 'gu')

/** Whether a text holds what no text of ours may. @param lines whether line breaks and tabs may be in it */
export const hasControls = (text: string, lines = false) => (lines ? CONTROLS_BUT_LINES : CONTROLS).test(text)

/** A text with each such character replaced by a question mark. */
export const withoutControls = (text: string) => (CONTROLS.test(text) ? text.replace(EVERY_CONTROL, '?') : text)
