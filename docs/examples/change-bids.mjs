import { randomUUID } from 'node:crypto'
import { ask, linesOf } from './ask.mjs'

// node change-bids.mjs TAG PER_CENT: changes the bids of all lines with a tag, which go live together as one slip, or not at all.
const [tag, perCent] = process.argv.slice(2)
const factor = 1 + Number(perCent) / 100
/** CPMs go in steps of 0.001. */
const stepped = (/** @type {number} */ micros) => Math.round((micros * factor) / 1000) * 1000
const items = []
for await (const { id, model, bidMicros, state } of linesOf({ tag })) {
  if (model !== 'CPM' || bidMicros === null || !['live', 'paused', 'cleared'].includes(state)) continue
  const { version, draft } = await ask('GET', `/lines/${id}`)
  const bid = stepped(bidMicros)
  const { maxMicros } = draft.price
  const price = { ...draft.price, bidMicros: bid, maxMicros: maxMicros !== null && maxMicros < bid ? bid : maxMicros }
  await ask('PUT', `/lines/${id}`, { version, line: { ...draft, price } })
  items.push({ line: id, fields: maxMicros === price.maxMicros ? ['price.bidMicros'] : ['price.bidMicros', 'price.maxMicros'] })
}
if (items.length === 0) console.log(`No line with the tag “${tag}” is in force.`)
else {
  // The token of the confirmation: sent again it is the same slip.
  const slip = await ask('POST', '/slips/live', { name: `${tag} ${perCent} %`, items, token: randomUUID() })
  console.log(`${slip.lines} lines, from market hour ${slip.fromHour}, slip ${slip.id}`)
}
