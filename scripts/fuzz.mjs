import { spawn } from 'node:child_process'
import { say } from './console.mjs'
import { checkNode, dataFolder, installDatabase, installPackages } from './install.mjs'
import { ROOT, inProject } from './project.mjs'
import { buildServer } from './compile.mjs'
import { startDatabase } from './database.mjs'

/** npm run fuzz -- N SEED: sends N malformed bodies over all routes; a 500, or a problem without a field or in foreign words, fails. */
const [tries = '100000', seed = '1'] = process.argv.slice(2)
if (![tries, seed].every((text) => /^\d{1,9}$/.test(text))) {
  console.error('Say how many and from which seed: npm run fuzz -- 100000 1')
  process.exit(2)
}
checkNode()
await installPackages()
await installDatabase()
await buildServer()
const database = await startDatabase(dataFolder('test'), { schema: 'test', bufferMb: 256, forTests: true })
const code = await new Promise((resolve) => {
  const child = spawn(inProject('node_modules/.bin/vitest'), ['run', '--root', 'server', 'test/fuzz.test.ts'], {
    cwd: ROOT,
    stdio: 'inherit',
    env: { ...process.env, TZ: 'UTC', TEST_DATABASE_URL: database.url, TIN_HARBOR_FUZZ: tries, TIN_HARBOR_FUZZ_SEED: seed }
  })
  child.on('exit', resolve)
})
await database.stop()
say(code === 0 ? `${tries} malformed bodies: no answer of 500, each problem with its field` : 'malformed bodies: FAILED')
process.exit(typeof code === 'number' ? code : 1)
