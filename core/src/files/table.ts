import { withoutControls } from '../input/index.js'

export type Cell = string | number | boolean | null

/** A table that becomes a file: the names of its columns, and its rows. */
export interface TableFile {
  /** What the file and its sheet are called; anything that a file or a sheet may not be called by is left out. */
  name: string
  /** Empty for a file of values alone, which can be read in again. */
  head: readonly string[]
  rows: readonly (readonly Cell[])[]
}

/** Letters a cell of a workbook holds. */
const LONGEST_CELL = 32_767
const LONGEST_NAME = 120
const LONGEST_SHEET_NAME = 31

/** A text as a cell holds it: on one line, without characters that files of this kind do not know. */
function cellText(text: string): string {
  const clean = withoutControls(text.replace(/[\r\n\t\u2028\u2029]+/g, ' '))
  return clean.length > LONGEST_CELL ? `${clean.slice(0, LONGEST_CELL - 1)}…` : clean
}

/** What a spreadsheet would take for a formula, whatever blanks come before it; full-width signs are read like the narrow ones. */
const FORMULA = /^[\s'\u200b]*[=+\-@\uff1d\uff0b\uff0d\uff20]/

/** A cell of a CSV file (RFC 4180); a text that a spreadsheet would take for a formula is marked as text by an apostrophe. */
export function csvCell(value: Cell): string {
  if (value === null) return ''
  if (typeof value !== 'string') return String(value)
  const text = cellText(value)
  const safe = FORMULA.test(text) ? `'${text}` : text
  return /[",]|^\s|\s$/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe
}

/** The table as CSV in UTF-8, lines ended by CR LF. */
export function csvOf({ head, rows }: TableFile): string {
  return [...(head.length > 0 ? [head] : []), ...rows].map((row) => `${row.map(csvCell).join(',')}\r\n`).join('')
}

/** What a workbook reads as a coded character (ECMA-376, 22.9.2.19): its first letter is written in that code. */
const CODED = /_(?=x[0-9a-f]{4}_)/gi

/** The table as a workbook of one sheet; texts are texts, never formulas. */
export async function xlsxOf({ name, head, rows }: TableFile): Promise<Uint8Array<ArrayBuffer>> {
  const { default: writeXlsx } = await import('write-excel-file/universal')
  const cellOf = (value: Cell) =>
    value === null
      ? null
      : typeof value === 'string'
        ? { type: String, value: cellText(value).replace(CODED, '_x005F_') }
        : typeof value === 'number'
          ? { type: Number, value }
          : { type: Boolean, value }
  const heads = head.length > 0 ? [head.map((text) => ({ ...cellOf(text), fontWeight: 'bold' as const }))] : []
  const blob = await writeXlsx([...heads, ...rows.map((row) => row.map(cellOf))], {
    sheet: sheetName(name),
    stickyRowsCount: heads.length,
    columns: [{ width: 34 }]
  }).toBlob()
  return new Uint8Array(await blob.arrayBuffer())
}

/** A name that a sheet may have: without `* ? : \ / [ ]`, not between apostrophes, of at most 31 letters. */
export function sheetName(name: string): string {
  const clean = cellText(name)
    .replace(/[*?:\\/[\]]/g, ' ')
    .trim()
    .slice(0, LONGEST_SHEET_NAME)
    .replace(/^'+|'+$/g, '')
    .trim()
  return clean === '' || /^history$/i.test(clean) ? 'table' : clean
}

/** A name that a file may have on any system. @param kind its ending */
export function fileName(name: string, kind: 'csv' | 'xlsx'): string {
  const clean = cellText(name)
    .replace(/[*?:\\/<>|"]/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[. ]+|[. ]+$/g, '')
    .slice(0, LONGEST_NAME)
  return `${clean === '' ? 'table' : clean}.${kind}`
}
