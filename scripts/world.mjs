import { buildServer } from './compile.mjs'
import { inProject } from './project.mjs'

/** `npm run world [people]`: what the market is like, as its own tape shows it. */
await buildServer()
const { FULL, TENTH, makeWorld } = await import(inProject('core/dist/market/index.js'))
const { buildTape, worldCard } = await import(inProject('core/dist/tape/index.js'))
const people = Number(process.argv[2] ?? FULL.people)
const world = makeWorld(people >= FULL.people ? FULL : { ...TENTH, people })
const card = worldCard(world, buildTape(world, 59))
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
if (card.correlations.some((/** @type {{ holds: boolean }} */ one) => !one.holds)) process.exit(1)
