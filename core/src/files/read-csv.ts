import Papa from 'papaparse'

const SEPARATORS = [',', ';', '\t', '|']

/** Rows of a file of separated values, whichever separator it uses (RFC 4180 otherwise). Empty rows stay, so that rows keep their lines. */
export function rowsOfCsv(text: string): string[][] {
  const bare = text.replace(/^\uFEFF/, '').replace(/[\r\n]+$/, '')
  // Empty rows say nothing of the separator, and would be taken to.
  const { meta } = Papa.parse(bare, { delimitersToGuess: SEPARATORS, skipEmptyLines: 'greedy', preview: 20 })
  return Papa.parse<string[]>(bare, { delimiter: meta.delimiter }).data
}
