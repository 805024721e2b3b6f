import { rowsOfCsv } from '@tin-harbor/core/files'

/** A cell as it is pasted: what would part it stands in quotes. */
const asPasted = (cell: string) => (/[\s,;"]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)

/** A file of separated values as a text that is pasted: a row a line. */
export async function readRows(file: File): Promise<string[]> {
  return rowsOfCsv(await file.text()).map((row) => row.map((cell) => asPasted(cell.replace(/[\r\n]+/g, ' ').trim())).join('\t'))
}
