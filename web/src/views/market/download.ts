import { saveTable } from '@/composables/save-file'
import type { MarketColumn, MarketRow } from './columns'

/** Saves what is shown as a file. */
export async function downloadRows(
  kind: 'csv' | 'xlsx',
  by: string,
  columns: readonly MarketColumn[],
  rows: readonly MarketRow[]
): Promise<void> {
  const micros = new Set(['floor', 'mean', 'highest', 'half', 'nine', 'own spend'])
  const cell = (column: MarketColumn, row: MarketRow) => {
    const value = column.value(row)
    return typeof value === 'number' && micros.has(column.id) ? value / 1e6 : value
  }
  const head = [by, 'about', ...columns.map((column) => column.title)]
  const lines = rows.map((row) => [row.label, row.about ?? '', ...columns.map((column) => cell(column, row))])
  await saveTable(kind, { name: `market by ${by}`, head, rows: lines })
}
