import { send } from './ask.mjs'

// node report-csv.mjs DIMENSION FROM TO: results by one dimension, as CSV on standard output.
const [by, from, to] = process.argv.slice(2)
const response = await send('GET', `/reports/csv?${new URLSearchParams({ by, from, to })}`)
process.stdout.write(await response.text())
