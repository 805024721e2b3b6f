import { buildServer } from './compile.mjs'
import { bar, say } from './console.mjs'
import { startDatabase } from './database.mjs'
import { dataFolder, installDatabase, installPackages } from './install.mjs'
import { inProject } from './project.mjs'

/**
 * npm run audit: sums what was spent in the demo's database from the delivery log, from the roll-ups and from the ledger; they agree to
 * the micro, or it is said where not and the command fails. The application may run meanwhile.
 */
process.env.TZ = 'UTC'
await installPackages()
await installDatabase()
await buildServer()
const database = await startDatabase(dataFolder('demo'), { schema: 'tin_harbor' })
try {
  const { openDatabase } = await import(inProject('server/dist/database/open.js'))
  const { audit } = await import(inProject('server/dist/money/audit.js'))
  const { makeWorld, FULL } = await import(inProject('core/dist/market/index.js'))
  const { sequelize } = await openDatabase(process.env.DATABASE_URL ?? database.url)
  const began = Date.now()
  const { hours, entries, spentMicros, differences, overdrawn } = await audit(sequelize, makeWorld(FULL), (/** @type {number} */ share) =>
    bar('reading the delivery log', share)
  )
  const seconds = (Date.now() - began) / 1000
  const euros = (/** @type {number} */ micros) => (micros / 1e6).toFixed(6)
  for (const { hour, advertiser, logMicros, rollUpMicros, ledgerMicros } of differences)
    say(`hour ${hour}, advertiser ${advertiser}: log ${euros(logMicros)}, roll-ups ${euros(rollUpMicros)}, ledger ${euros(ledgerMicros)}`)
  for (const organisation of overdrawn) say(`organisation ${organisation} was below zero`)
  say(`${euros(spentMicros)} spent in ${hours} hours, ${entries} entries: ${differences.length} differences, in ${seconds.toFixed(1)} s`)
  if (differences.length + overdrawn.length > 0) process.exitCode = 1
  await sequelize.close()
} catch (error) {
  say(error instanceof Error ? error.message : String(error))
  process.exitCode = 1
} finally {
  await database.stop()
}
