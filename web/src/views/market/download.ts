import { saveCsv, saveFile } from '@/composables/save-file'
import type { MarketColumn, MarketRow } from './columns'

/** Saves what is shown as a file: CSV with formula-like cells quoted, or a workbook. */
export async function downloadRows(kind: 'csv' | 'xlsx', by: string, columns: readonly MarketColumn[], rows: readonly MarketRow[]): Promise<void> {
  const micros = new Set(['floor', 'mean', 'highest', 'half', 'nine', 'own spend'])
  const cell = (column: MarketColumn, row: MarketRow) => {
    const value = column.value(row)
    return typeof value === 'number' && micros.has(column.id) ? value / 1e6 : value
  }
  const head = [by, 'about', ...columns.map((column) => column.title)]
  const lines = rows.map((row) => [row.label, row.about ?? '', ...columns.map((column) => cell(column, row))])
  if (kind === 'csv') {
    await saveCsv(`market by ${by}.csv`, [head, ...lines])
    return
  }
  const { default: ExcelJs } = await import('exceljs')
  const book = new ExcelJs.Workbook()
  const sheet = book.addWorksheet(`by ${by}`.slice(0, 31), { views: [{ state: 'frozen', ySplit: 1 }] })
  sheet.addRow(head).font = { bold: true }
  sheet.addRows(lines)
  sheet.getColumn(1).width = 34
  saveFile(`market by ${by}.xlsx`, await book.xlsx.writeBuffer(), 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet')
}
