import { Readable } from 'node:stream'
import ExcelJs from 'exceljs'
import fc from 'fast-check'
import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { csvOf, fileName, rowsOfCsv, sheetName, xlsxOf, type Cell } from '../src/files/index.js'

/** Texts that have broken files: formulas with and without blanks before them, separators, quotes, line ends, control characters. */
const nasty = fc.oneof(
  fc.constantFrom(
    '=1+1',
    '+1',
    '-1',
    '@SUM(A1)',
    ' =1+1',
    '\t=1',
    "\n=cmd|' /C calc'!A0",
    '=HYPERLINK("http://x.example","a")\nb',
    '＝1+1',
    'a\nb',
    'a\r\n=b',
    '"',
    '""',
    'a,b',
    ';',
    '\u0000',
    '\ud800',
    '\u202e=1',
    'L\u00e9a',
    '名前',
    ' blank ',
    "'=1",
    '_x0041_',
    '<b>&amp;'
  ),
  fc.string({ unit: 'binary', maxLength: 60 }),
  fc.string({ maxLength: 60 })
)
const cell: fc.Arbitrary<Cell> = fc.oneof(
  nasty,
  fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e9, max: 1e9 }),
  fc.boolean(),
  fc.constant(null)
)
const table = fc.integer({ min: 1, max: 5 }).chain((width) =>
  fc.record({
    name: nasty,
    head: fc.array(nasty, { minLength: width, maxLength: width }),
    rows: fc.array(fc.array(cell, { minLength: width, maxLength: width }), { maxLength: 6 })
  })
)
const wouldRun = (text: string) => /^\s*[=+\-@＝＋－＠]/.test(text)

describe('a table as a file', () => {
  it('in CSV keeps its rows and columns, and holds nothing that a spreadsheet would run', () => {
    fc.assert(
      fc.property(table, (made) => {
        const csv = csvOf(made)
        const { data, errors } = Papa.parse<string[]>(csv, { newline: '\r\n', delimiter: ',' })
        expect(errors).toEqual([])
        const read = data.slice(0, -1)
        expect(read.map((row) => row.length)).toEqual([made.head, ...made.rows].map((row) => row.length))
        read.forEach((row, r) =>
          row.forEach((text, c) => {
            const value = r === 0 ? made.head[c] : made.rows[r - 1][c]
            if (typeof value === 'string') expect(wouldRun(text)).toBe(false)
            else expect(text).toBe(value === null ? '' : String(value))
            // eslint-disable-next-line no-control-regex
            expect(text).not.toMatch(/[\u0000-\u001f\u202e]/)
          })
        )
      }),
      { numRuns: 500 }
    )
  })

  it('in CSV reads back row by row, whichever separator a file has', () => {
    fc.assert(
      fc.property(table, (made) => {
        expect(rowsOfCsv(`${csvOf(made)}end`)).toHaveLength(made.rows.length + 2)
      }),
      { numRuns: 200 }
    )
    expect(rowsOfCsv('\uFEFFa;b\r\n"c;d";e\r\n')).toEqual([
      ['a', 'b'],
      ['c;d', 'e']
    ])
    expect(rowsOfCsv('a\tb\n\n"c ""d"""\te')).toEqual([['a', 'b'], [''], ['c "d"', 'e']])
    expect(rowsOfCsv('one\ntwo, three')).toEqual([['one'], ['two', ' three']])
  })

  it('in CSV is opened by a spreadsheet library row by row as text', async () => {
    await fc.assert(
      fc.asyncProperty(table, async (made) => {
        const csv = csvOf(made)
        const sheet = await new ExcelJs.Workbook().csv.read(Readable.from([csv]), { map: (value: unknown) => value })
        // An empty line is none to a spreadsheet.
        expect(sheet.actualRowCount).toBe(csv.split('\r\n').filter((line) => line !== '').length)
        sheet.eachRow((row) => row.eachCell(({ type }) => expect(type).not.toBe(ExcelJs.ValueType.Formula)))
      }),
      { numRuns: 60 }
    )
  })

  it('as a workbook is opened with every text as it was, none of them a formula', async () => {
    await fc.assert(
      fc.asyncProperty(table, async (made) => {
        const book = new ExcelJs.Workbook()
        await book.xlsx.load((await xlsxOf(made)).buffer)
        const [sheet] = book.worksheets
        expect(sheet.name.length).toBeGreaterThan(0)
        made.rows.forEach((row, r) =>
          row.forEach((value, c) => {
            const { type, value: read } = sheet.getCell(r + 2, c + 1)
            expect(type).not.toBe(ExcelJs.ValueType.Formula)
            if (typeof value === 'number') expect(read).toBeCloseTo(value, 6)
            else if (typeof value === 'string' && /^[\x20-\x7e]+$/.test(value)) expect(read).toBe(value)
          })
        )
      }),
      { numRuns: 60 }
    )
  })

  it('has a name that any system takes', () => {
    expect(fileName('results by a/b, 2026-03-02 to ..\\x', 'csv')).toBe('results by a b, 2026-03-02 to .. x.csv')
    expect(fileName('...', 'xlsx')).toBe('table.xlsx')
    expect(sheetName("'[by]:*?/\\ placement and property and more'")).toBe('by       placement and proper')
    expect(sheetName('History')).toBe('table')
    fc.assert(
      fc.property(nasty, (name) => {
        expect(fileName(name, 'csv')).toMatch(/^[^/\\:*?"<>|]+\.csv$/)
        expect(sheetName(name)).toMatch(/^[^*?:\\/[\]]{1,31}$/)
      })
    )
  })
})
