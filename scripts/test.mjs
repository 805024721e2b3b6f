import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { basename } from 'node:path'
import { say } from './console.mjs'
import { checkNode, dataFolder, installBrowser, installDatabase, installFilms, installPackages } from './install.mjs'
import { ROOT, inProject } from './project.mjs'
import { buildPages, buildServer } from './compile.mjs'
import { startDatabase } from './database.mjs'
import { browserTests, makePagesTemplate } from './browser-tests.mjs'

/**
 * npm test: installs what is missing, builds, checks types and style, then unit, server and browser tests against a
 * database and a folder of their own. The last line is `N passed, N failed` alone.
 */

let passed = 0
let failed = 0
/** What did not pass, said once more at the end: what ran it printed thousands of lines before. @type {string[]} */
const failures = []

/**
 * @param {string[]} command @param {NodeJS.ProcessEnv} [env]
 * @returns {Promise<number>} exit code
 */
function show(command, env = process.env) {
  return new Promise((resolve) => {
    const child = spawn(inProject('node_modules/.bin', command[0]), command.slice(1), {
      cwd: ROOT,
      env,
      stdio: ['ignore', 'inherit', 'inherit']
    })
    child.on('error', () => resolve(1))
    child.on('exit', (code) => resolve(code ?? 1))
  })
}

/** A check that counts as one test. @param {string} name @param {string[]} command */
async function check(name, command) {
  const code = await show(command)
  if (code === 0) passed++
  else failed++
  if (code !== 0) failures.push(name)
  say(`${name}: ${code === 0 ? 'good' : 'FAILED'}`)
}

/**
 * @param {string} part @param {NodeJS.ProcessEnv} env @param {{ name?: string, files?: string[] }} [only] some of its
 * files, under a name of their own
 */
async function suite(part, env, { name = part, files = [] } = {}) {
  const report = inProject('.bench', `tests-${name}.json`)
  mkdirSync(inProject('.bench'), { recursive: true })
  rmSync(report, { force: true })
  const began = Date.now()
  const code = await show(
    ['vitest', 'run', ...files, '--root', part, '--reporter=default', '--reporter=json', `--outputFile.json=${report}`],
    { ...process.env, TZ: 'UTC', ...env }
  )
  const counts = existsSync(report) ? JSON.parse(readFileSync(report, 'utf8')) : { numPassedTests: 0, numFailedTests: 1 }
  passed += counts.numPassedTests
  // A file that cannot be loaded has no tests to fail.
  failed += counts.numFailedTests > 0 ? counts.numFailedTests : code === 0 ? 0 : 1
  if (code !== 0) failures.push(...failuresOf(name, counts.testResults ?? []))
  say(`${name}: ${counts.numPassedTests} passed, ${counts.numFailedTests} failed in ${((Date.now() - began) / 1000).toFixed(0)} s`)
}

/**
 * @param {string} name of the suite
 * @param {{ name: string, status: string, message: string,
 *   assertionResults: { status: string, fullName: string, failureMessages: string[] }[] }[]} files of Vitest's report
 */
function failuresOf(name, files) {
  const short = (/** @type {string} */ text) => text.split('\n').slice(0, 12).join('\n    ')
  const said = files.flatMap((file) => {
    const tests = file.assertionResults.filter((test) => test.status === 'failed')
    if (tests.length === 0 && file.status === 'failed') return [`${name}: ${basename(file.name)}\n    ${short(file.message)}`]
    return tests.map((test) => `${name}: ${basename(file.name)}: ${test.fullName}\n    ${test.failureMessages.map(short).join('\n    ')}`)
  })
  return said.length > 0 ? said : [`${name}: ended without a report that says why`]
}

/** @type {(() => Promise<void>)[]} */
const endings = []

async function main() {
  checkNode()
  await installPackages()
  await installDatabase()
  await installBrowser()
  await installFilms()
  await buildServer()
  const pages = async () => {
    await check('types of the pages and their tests', ['vue-tsc', '-p', 'web/test', '--noEmit'])
    await check('layout of the source', ['prettier', '--check', '--log-level', 'warn', '.'])
    await check('types of scripts', ['tsc', '-p', 'scripts'])
  }
  const others = async () => {
    for (const part of ['core/test', 'server/test', 'e2e']) await check(`types of ${part}`, ['tsc', '-p', part])
    await check('lint', ['eslint', '--max-warnings', '0', '.'])
    await check('unused exports and circles of imports', ['knip'])
  }
  // One after the other they keep one of two processors waiting.
  await Promise.all([buildPages(), pages(), others()])
  await suite('core', {})
  const folder = dataFolder('test')
  const database = await startDatabase(folder, { schema: 'test', bufferMb: 256, forTests: true })
  endings.push(database.stop)
  await Promise.all([makePagesTemplate(database.url), suite('web', {}).then(() => suite('server', { TEST_DATABASE_URL: database.url }))])
  await browserTests(database.url, (file, address) =>
    suite('e2e', { TEST_SERVER_URL: address }, { name: `e2e, ${file.replace('.test.ts', '')}`, files: [file] })
  )
}

try {
  await main()
} catch (error) {
  failed++
  failures.push(String(error instanceof Error ? error.stack : error))
}
for (const end of endings) await end().catch(() => undefined)
for (const failure of failures) say(`FAILED ${failure}`)
console.log(`${passed} passed, ${failed} failed`)
process.exit(failed === 0 && passed > 0 ? 0 : 1)
