import { csvOf, fileName, xlsxOf, type TableFile } from '@tin-harbor/core/files'

/** Saves what a page made as a file of the viewer's. */
function saveFile(name: string, content: BlobPart, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([content], { type }))
  link.download = name
  document.body.append(link)
  link.click()
  link.remove()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}

/** Saves a table as CSV or as a workbook. */
export async function saveTable(kind: 'csv' | 'xlsx', table: TableFile): Promise<void> {
  if (kind === 'csv') saveFile(fileName(table.name, 'csv'), csvOf(table), 'text/csv;charset=utf-8')
  else saveFile(fileName(table.name, 'xlsx'), await xlsxOf(table), 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet')
}
