/**
 * Money is a whole number of micros: 1/1,000,000 of the account currency.
 * A CPM of 2.40 is 2,400,000 micros a thousand, and 2,400 micros an impression.
 */

export * from './left.js'
export * from './margin.js'
export * from './payment.js'
export * from './statement.js'
export * from './units.js'
import { CPM_STEP, MICROS } from './units.js'

/** An amount at three digits, as a trader types one, in whole steps and never nothing. */
export function threeDigits(micros: number, step: number): number {
  const digits = Math.max(step, 10 ** (Math.floor(Math.log10(Math.max(1, micros))) - 2))
  return Math.max(step, Math.round(micros / digits) * digits)
}

/** Micros an impression for a CPM in micros a thousand; refuses fractions. */
export function perImpression(cpmMicros: number): number {
  if (!Number.isSafeInteger(cpmMicros) || cpmMicros % CPM_STEP !== 0) {
    throw new RangeError(`A CPM goes in steps of 0.001, got ${cpmMicros} micros.`)
  }
  return cpmMicros / CPM_STEP
}

/** CPM in micros a thousand, from money spent and impressions; 0 without impressions. */
export function cpmOf(spendMicros: number, impressions: number): number {
  return impressions > 0 ? (spendMicros / impressions) * 1000 : 0
}

/** What `parseMoney` could not read, in words for the person who typed it. */
export class MoneyFormatError extends Error {}

/** Decimal and grouping marks of a locale, as `Intl.NumberFormat` writes them. */
export interface NumberMarks {
  decimal: string
  group: string
}

/** The marks that a BCP 47 locale uses. */
export function marksOf(locale: string): NumberMarks {
  const parts = new Intl.NumberFormat(locale, { useGrouping: true }).formatToParts(1234567.5)
  const find = (type: string, other: string) => parts.find((part) => part.type === type)?.value ?? other
  return { decimal: find('decimal', '.'), group: find('group', ',') }
}

/**
 * Reads an amount typed by a person. With one mark only, `2,40` and `2.40` are both two and forty cents
 * unless that mark groups thousands in this locale (`1,200` in English); `1.200,5.0` is refused.
 * @returns whole micros
 * @throws MoneyFormatError naming what cannot be read
 */
export function parseMoney(text: string, marks: NumberMarks = { decimal: '.', group: ',' }): number {
  const typed = text.trim().replace(/[\s\u00a0\u202f'’€]/g, '')
  if (!/^\d[\d.,]*$/.test(typed)) throw new MoneyFormatError(`"${text}" is not an amount such as 2.40.`)
  const marksUsed = typed.replace(/\d/g, '')
  let decimal = marks.decimal
  if (marksUsed.length === 1) {
    const tail = typed.split(marksUsed)[1]
    decimal = marksUsed === marks.group && tail.length === 3 ? (marksUsed === '.' ? ',' : '.') : marksUsed
  }
  const group = decimal === '.' ? ',' : '.'
  const [whole, fraction = '', more] = typed.split(decimal)
  const grouped = whole.includes(group) && !/^\d{1,3}([.,]\d{3})+$/.test(whole)
  if (more !== undefined || grouped || fraction.includes(group) || (decimal !== '.' && decimal !== ',')) {
    throw new MoneyFormatError(`"${text}" can be read in more than one way; write it as 1200.50.`)
  }
  if (fraction.length > 6) throw new MoneyFormatError(`"${text}" has more than six decimals.`)
  const micros = Number(whole.replaceAll(group, '')) * MICROS + Number(fraction.padEnd(6, '0'))
  if (!Number.isSafeInteger(micros)) throw new MoneyFormatError(`"${text}" is too large.`)
  return micros
}
