import { buildServer } from './compile.mjs'
import { inProject } from './project.mjs'

/** `npm run world [people] [seed]`: what the market is like, as its own tape shows it, and whether what must hold of it does. */
await buildServer()
const { FULL, TENTH, makeWorld } = await import(inProject('core/dist/market/index.js'))
const { buildTape, worldBounds, worldCard } = await import(inProject('core/dist/tape/index.js'))
const people = Number(process.argv[2] ?? FULL.people)
const seed = Number(process.argv[3] ?? FULL.seed)
const world = makeWorld({ ...(people >= FULL.people ? FULL : { ...TENTH, people }), seed })
const tape = buildTape(world, 59)
const card = worldCard(world, tape)
const perCent = (/** @type {number} */ share) => `${(share * 100).toFixed(1)} %`
console.log('There are')
for (const [name, count] of Object.entries(card.counts)) console.log(`  ${String(count).padStart(10)}  ${name}`)
console.log('\nShares of opportunities, by dimension')
for (const [dimension, shares] of Object.entries(card.shares)) {
  console.log(
    `  ${dimension.padEnd(17)} ${shares
      .slice(0, 6)
      .map((/** @type {[string, number]} */ [value, share]) => `${value} ${perCent(share)}`)
      .join(', ')}${shares.length > 6 ? `, and ${shares.length - 6} more` : ''}`
  )
}
console.log('\nWhat goes with what')
for (const { name, low, high, least, holds } of card.correlations)
  console.log(`  ${holds ? 'holds' : 'FAILS'}  ${name}: ${low.toPrecision(3)} and ${high.toPrecision(3)}, at least ${least} times`)
console.log('\nMedian price to win, CPM, by tier of the country')
for (const { format, byTier } of card.prices)
  console.log(`  ${format.padEnd(8)} ${byTier.map((/** @type {number} */ micros) => (micros / 1e6).toFixed(2).padStart(7)).join('')}`)
console.log(
  `\nA day is worth ${Math.round(card.worthADay / 1e6)} euro. A person has ${card.activity.aDay.toFixed(2)} opportunities a day; the busiest tenth makes ${perCent(card.activity.busiestTenth)}, ${perCent(card.activity.without)} have none in two weeks.`
)
console.log(`Days swing by ${perCent(card.days.swing)} of the mean; the second week is ${perCent(card.days.driftAWeek)} over the first.`)
console.log('\nWhat a practitioner expects, with its bounds')
const bounds = worldBounds(world, tape)
const figure = (/** @type {number} */ value) => (value === 0 ? '0' : value.toPrecision(3)).padStart(8)
for (const { what, value, low, high, holds } of bounds)
  console.log(`  ${holds ? 'holds' : 'FAILS'}  ${what.padEnd(62)} ${figure(value)}  of ${figure(low)} to ${figure(high)}`)
const failing = [...card.correlations, ...bounds].filter((/** @type {{ holds: boolean }} */ one) => !one.holds).length
console.log(`\n${bounds.length} bounds and ${card.correlations.length} correlations, ${failing} do not hold.`)
if (failing > 0) process.exit(1)
