/** Saves what a page made as a file of the viewer's. */
export function saveFile(name: string, content: BlobPart, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([content], { type }))
  link.download = name
  document.body.append(link)
  link.click()
  link.remove()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}

/** Saves rows as CSV; cells that a spreadsheet would take for formulas are quoted. */
export async function saveCsv(name: string, rows: readonly (readonly unknown[])[]): Promise<void> {
  const { default: Papa } = await import('papaparse')
  saveFile(name, Papa.unparse(rows as unknown[][], { escapeFormulae: true }), 'text/csv')
}
