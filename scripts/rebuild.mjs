import { bar, say } from './console.mjs'
import { withDemo } from './demo-database.mjs'
import { inProject } from './project.mjs'

/** npm run rebuild: makes the roll-ups of the demo's database anew from its delivery log. */
await withDemo(async ({ sequelize, world }) => {
  const { rebuildRollups } = await import(inProject('server/dist/exchange/rebuild.js'))
  const hours = await rebuildRollups(sequelize, world, (/** @type {number} */ share) => bar('reading the delivery log', share))
  say(`both roll-ups were made anew from ${hours} hours of the log`)
})
