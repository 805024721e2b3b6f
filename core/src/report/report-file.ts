import type { TableFile } from '../files/index.js'
import { REPORT_MEASURES, type MeasureKind, type ReportMeasure } from './measure-table.js'
import { REPORT_MEASURE_NAMES, type ReportMeasureName } from './measures.js'

/** A row of a report as files have it: its name, its measures, and how many reached each quarter point. */
export type FileRow = Record<ReportMeasureName, number> & { label: string; reached: readonly number[] }

type FileColumn = [name: string, value: (row: FileRow) => string | number]
const QUARTERS = ['first quarter', 'half', 'third quarter', 'end']
const inFile = (kind: MeasureKind, value: number) =>
  kind === 'ratio' ? value.toFixed(3) : kind === 'money' || kind === 'price' || kind === 'CPM' ? value / 1e6 : value
/**
 * Columns of a file: a name and the measures, the quarter points after the views. Money says whose it is: our cost, or the client's
 * charge.
 */
const FILE_COLUMNS: FileColumn[] = [
  ['name', (row) => row.label],
  ...REPORT_MEASURE_NAMES.flatMap((name): FileColumn[] => {
    const measure: ReportMeasure = REPORT_MEASURES[name]
    if (measure.isInFile === false) return []
    const own: FileColumn = [measure.name, (row) => inFile(measure.kind, row[name])]
    return name === 'views' ? [own, ...QUARTERS.map((quarter, n): FileColumn => [quarter, (row) => row.reached[n]])] : [own]
  })
]

/** A report as a table of a file, its total last. */
export const reportFile = (
  { by, rows, total }: { by: string; rows: readonly FileRow[]; total: FileRow },
  from: string,
  to: string
): TableFile => ({
  name: `results by ${by}, ${from} to ${to}`,
  head: FILE_COLUMNS.map(([name]) => name),
  rows: [...rows, total].map((row) => FILE_COLUMNS.map(([, value]) => value(row)))
})
