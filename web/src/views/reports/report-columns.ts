import type { ReportRowView, ReportView } from '@tin-harbor/core/contract'
import { REPORT_MEASURES, REPORT_MEASURE_NAMES, reportFile, type MeasureKind, type ReportMeasure } from '@tin-harbor/core/report'
import { count, cpm, decimal, money, perCent, smallMoney } from '@/composables/formats'
import { saveTable } from '@/composables/save-file'
import type { TableColumn } from '@/parts/table-columns'

const WORDS: Readonly<Record<MeasureKind, (value: number) => string>> = {
  count,
  ratio: decimal,
  share: (value) => perCent(value),
  money,
  price: (value) => (value > 0 ? smallMoney(value) : ''),
  CPM: cpm
}
const cost = (row: ReportRowView) => (row.costMicros === null ? (row.spendMicros > 0 ? 'none yet' : '') : money(row.costMicros))

/** What stands in the table after a measure: what is drawn of it, and what is made of two. */
const AFTER: Readonly<Partial<Record<string, TableColumn<ReportRowView>>>> = {
  clicks: { id: 'range', label: 'click rate, 90 % range', width: 120, side: 'left' },
  assists: { id: 'cost', label: 'cost each', width: 84, value: (row) => row.costMicros, words: cost }
}
/** Columns of the table but for the first, which says what the rows are. */
export const REPORT_COLUMNS = REPORT_MEASURE_NAMES.flatMap((name): TableColumn<ReportRowView>[] => {
  const { table, kind }: ReportMeasure = REPORT_MEASURES[name]
  if (!table) return []
  const own = { id: name, label: table.name, width: table.width, value: (row: ReportRowView) => row[name] }
  return [{ ...own, words: (row) => WORDS[kind](row[name]) }, ...(AFTER[name] ? [AFTER[name]] : [])]
})

/** A report as a file, its total last. */
export const saveReport = (report: ReportView, from: string, to: string) => saveTable('csv', reportFile(report, from, to))
