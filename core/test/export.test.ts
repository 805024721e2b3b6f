import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { makeWorld } from '../src/market/index.js'
import { mainFigures, workOut } from '../src/forecast/index.js'
import { EXPORT_COLUMNS, buildTape, exportValues, tapeCsv } from '../src/tape/index.js'
import { SMALL, targetingOf } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const world = makeWorld({ ...SMALL, people: 1500 })
const tape = buildTape(world, 59)

describe('an exported tape', () => {
  const [head, ...lines] = [...tapeCsv(tape, world.inventory, EXPORT_COLUMNS, 700)].join('').trim().split('\n')
  const names = head.split(',')
  const cells = (line: string) =>
    [...line.matchAll(/(?:^|,)("(?:[^"]|"")*"|[^,]*)/g)].map(([, cell]) =>
      cell.startsWith('"') ? cell.slice(1, -1).replaceAll('""', '"') : cell
    )
  const rows = lines.map((line) => Object.fromEntries(cells(line).map((cell, n) => [names[n], cell])))

  it('has a line for each row and a cell for each column', () => {
    expect(names).toEqual(EXPORT_COLUMNS.map((column) => column.name))
    expect(rows).toHaveLength(tape.rowCount)
    expect(rows.every((row) => Object.keys(row).length === names.length)).toBe(true)
    expect(exportValues(EXPORT_COLUMNS[0], tape, world.inventory, 0, 3)).toEqual(rows.slice(0, 3).map((row) => row.date))
  })

  it('lets anybody check our figures: the forecast counted again from its text', () => {
    const q = question({ targeting: targetingOf(['DE', 'FR', 'GB'], ['phone']) })
    const { day } = mainFigures(
      workOut(q, tape, marketOf(world), () => false),
      () => false
    )
    const matched = rows.filter((row) => ['DE', 'FR', 'GB'].includes(row.country) && row.device === 'phone' && row.format === 'display')
    const won = matched.filter((row) => 1500 >= Number(row.floor) && 1500 > Number(row.rival))
    const spend = won.reduce((sum, row) => sum + (row.auction === 'first price' ? 1500 : Math.max(Number(row.floor), Number(row.rival))), 0)
    expect(day.matched.value).toBeCloseTo((matched.length * tape.sample) / 14, 6)
    expect(day.wins.value).toBeCloseTo((won.length * tape.sample) / 14, 6)
    expect(day.spend.value).toBeCloseTo((spend * tape.sample) / 14, 3)
  })

  it('quotes what a spreadsheet would read as something else', () => {
    const odd = (value: string) =>
      [...tapeCsv(tape, world.inventory, [{ name: 'odd', type: 'text', about: '', value: () => value }], 1)][1].trim()
    expect(odd('=1+1')).toBe("'=1+1")
    expect(odd('a,b "c"')).toBe('"a,b ""c"""')
  })

  it('is described: every column in docs/formats.md, by its name and type', () => {
    const text = readFileSync(new URL('../../docs/formats.md', import.meta.url), 'utf8')
    for (const { name, type, about } of EXPORT_COLUMNS) expect(text).toContain(`| \`${name}\` | ${type} | ${about} |`)
  })
})
