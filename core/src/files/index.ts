export { csvCell, csvOf, fileName, sheetName, xlsxOf, type Cell, type TableFile } from './table.js'
export { rowsOfCsv } from './read-csv.js'
