import { ask } from './ask.mjs'

// node forecast-line.mjs LINE: what a line as it is drafted would buy on a day, with its 80 % range.
const [line] = process.argv.slice(2)
const { figures } = await ask('GET', `/lines/${line}/forecast`)
const { wins, spend, reach } = figures.day
const range = (/** @type {{ value: number, low: number, high: number }} */ { value, low, high }, by = 1) =>
  `${Math.round(value / by)} (${Math.round(low / by)} to ${Math.round(high / by)})`
console.log(`shown\t${range(wins)}`)
console.log(`people\t${range(reach)}`)
console.log(`cents\t${range(spend, 10_000)}`)
