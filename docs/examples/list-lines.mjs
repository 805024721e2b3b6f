import { linesOf } from './ask.mjs'

// node list-lines.mjs [STATE]: the lines that the token sees, one after the other.
const [state] = process.argv.slice(2)
for await (const { code, state: is, name, bidMicros, spentMicros } of linesOf(state ? { state } : {}))
  console.log([code, is, name, bidMicros === null ? '' : (bidMicros / 1e6).toFixed(3), (spentMicros / 1e6).toFixed(2)].join('\t'))
