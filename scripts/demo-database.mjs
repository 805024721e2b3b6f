import { buildServer } from './compile.mjs'
import { say } from './console.mjs'
import { startDatabase } from './database.mjs'
import { dataFolder, installDatabase, installPackages } from './install.mjs'
import { inProject } from './project.mjs'

/**
 * Does something with the demo's database and the world that it is of, from a command of its own; the application may run meanwhile. What
 * goes wrong is said, and the command fails.
 * @param {(demo: { sequelize: any, world: any }) => Promise<void>} work
 */
export async function withDemo(work) {
  process.env.TZ = 'UTC'
  await installPackages()
  await installDatabase()
  await buildServer()
  const database = await startDatabase(dataFolder('demo'), { schema: 'tin_harbor' })
  try {
    const { openDatabase } = await import(inProject('server/dist/database/open.js'))
    const { makeWorld, FULL } = await import(inProject('core/dist/market/index.js'))
    const { sequelize } = await openDatabase(process.env.DATABASE_URL ?? database.url)
    await work({ sequelize, world: makeWorld(FULL) })
    await sequelize.close()
  } catch (error) {
    say(error instanceof Error ? error.message : String(error))
    process.exitCode = 1
  } finally {
    await database.stop()
  }
}
