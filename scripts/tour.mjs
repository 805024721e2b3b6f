import { spawnSync } from 'node:child_process'
import { buildPages, buildServer } from './compile.mjs'
import { say } from './console.mjs'
import { startDatabase } from './database.mjs'
import { dataFolder } from './install.mjs'
import { ROOT } from './project.mjs'
import { dropSchema, startTestServer } from './test-server.mjs'

/** npm run tour: walks the tour through the demo as `npm start` makes it, and writes docs/tour.md. */
const SCHEMA = 'test_tour_whole'
await buildServer()
await buildPages()
const database = await startDatabase(dataFolder('test'), { schema: 'test', bufferMb: 256, forTests: true })
const own = new URL(database.url)
own.pathname = `/${SCHEMA}`
say('making the demo at full size ...')
const server = await startTestServer(own.href, '', { demo: 'full' })
const { status } = spawnSync('npx', ['vitest', 'run', '--root', 'e2e', 'tour.test.ts'], {
  cwd: ROOT,
  stdio: 'inherit',
  env: { ...process.env, TZ: 'UTC', TEST_SERVER_URL: server.address, WRITE_TOUR: 'yes' }
})
await server.stop()
await dropSchema(database.url, SCHEMA)
await database.stop()
process.exit(status ?? 1)
