import { buildServer } from './compile.mjs'
import { bar, say } from './console.mjs'
import { startDatabase } from './database.mjs'
import { dataFolder, installDatabase, installPackages } from './install.mjs'
import { inProject } from './project.mjs'

/** npm run rebuild: makes the roll-ups of the demo's database anew from its delivery log. The application may run meanwhile. */
process.env.TZ = 'UTC'
await installPackages()
await installDatabase()
await buildServer()
const database = await startDatabase(dataFolder('demo'), { schema: 'tin_harbor' })
try {
  const { openDatabase } = await import(inProject('server/dist/database/open.js'))
  const { rebuildRollups } = await import(inProject('server/dist/exchange/rebuild.js'))
  const { makeWorld, FULL } = await import(inProject('core/dist/market/index.js'))
  const { sequelize } = await openDatabase(process.env.DATABASE_URL ?? database.url)
  const hours = await rebuildRollups(sequelize, makeWorld(FULL), (/** @type {number} */ share) => bar('reading the delivery log', share))
  say(`both roll-ups were made anew from ${hours} hours of the log`)
  await sequelize.close()
} catch (error) {
  say(error instanceof Error ? error.message : String(error))
  process.exitCode = 1
} finally {
  await database.stop()
}
