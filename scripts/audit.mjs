import { bar, say } from './console.mjs'
import { withDemo } from './demo-database.mjs'
import { inProject } from './project.mjs'

const euros = (/** @type {number} */ micros) => (micros / 1e6).toFixed(6)

/**
 * npm run audit: sums what was spent in the demo's database from the delivery log, from the roll-ups and from the ledger; they agree to
 * the micro, or it is said where not and the command fails.
 */
await withDemo(async ({ sequelize, world }) => {
  const { auditSpend } = await import(inProject('server/dist/money/audit.js'))
  const began = Date.now()
  const { hours, entries, spentMicros, differences, overdrawn, payments } = await auditSpend(
    sequelize,
    world,
    (/** @type {number} */ share) => bar('reading the delivery log', share)
  )
  const seconds = (Date.now() - began) / 1000
  for (const { hour, advertiser, logMicros, rollUpMicros, ledgerMicros } of differences)
    say(`hour ${hour}, advertiser ${advertiser}: log ${euros(logMicros)}, roll-ups ${euros(rollUpMicros)}, ledger ${euros(ledgerMicros)}`)
  for (const { id, state, bookedMicros } of payments) say(`payment ${id} is ${state}, and ${euros(bookedMicros)} is booked of it`)
  for (const organisation of overdrawn) say(`organisation ${organisation} was below zero`)
  say(`${euros(spentMicros)} spent in ${hours} hours, ${entries} entries: ${differences.length} differences, in ${seconds.toFixed(1)} s`)
  if (differences.length + overdrawn.length + payments.length > 0) process.exitCode = 1
})
