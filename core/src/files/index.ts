export { csvCell, csvOf, fileName, sheetName, xlsxOf, type Cell, type TableFile } from './table.js'
