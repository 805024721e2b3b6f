import { spawn } from 'node:child_process'
import { existsSync, readFileSync, readdirSync } from 'node:fs'
import { basename, extname, relative, resolve } from 'node:path'
import { say } from './console.mjs'
import { startDatabase } from './database.mjs'
import { dataFolder } from './install.mjs'
import { ROOT, inProject } from './project.mjs'

/**
 * npm run check -- FILE…: layout, lint, types and the nearest tests of some files, in under a minute. Without files: those that
 * differ from the last commit. What it leaves out, `npm test` runs.
 */

/** Seconds of tests that are run, by how long they took in the last `npm test`; and what a test file takes that is not known. */
const SECONDS_OF_TESTS = 40
const UNKNOWN_SECONDS = 4
const PARTS = ['core', 'server', 'web', 'e2e', 'scripts']
/** Types of each part: of its sources, and of what is built on it. */
const TYPES = {
  core: [
    ['tsc', '-b', 'core', 'server'],
    ['tsc', '-p', 'core/test']
  ],
  server: [
    ['tsc', '-b', 'server'],
    ['tsc', '-p', 'server/test']
  ],
  web: [
    ['vue-tsc', '-p', 'web/tsconfig.json', '--noEmit'],
    ['vue-tsc', '-p', 'web/test', '--noEmit']
  ],
  e2e: [['tsc', '-p', 'e2e']],
  scripts: [['tsc', '-p', 'scripts']]
}

/**
 * @param {string} name @param {string[]} command @param {NodeJS.ProcessEnv} [env]
 * @returns {Promise<boolean>} whether it was good; its output is shown when it was not
 */
function run(name, command, env = {}) {
  const began = Date.now()
  return new Promise((done) => {
    const child = spawn(inProject('node_modules/.bin', command[0]), command.slice(1), {
      cwd: ROOT,
      env: { ...process.env, TZ: 'UTC', ...env }
    })
    let output = ''
    child.stdout.on('data', (text) => (output += text))
    child.stderr.on('data', (text) => (output += text))
    child.on('error', () => done(false))
    child.on('exit', (code) => {
      say(`${name}: ${code === 0 ? 'good' : 'FAILED'} (${((Date.now() - began) / 1000).toFixed(0)} s)`)
      if (code !== 0) console.log(output)
      done(code === 0)
    })
  })
}

/** @returns {Promise<string[]>} */
function changed() {
  return new Promise((done) => {
    const child = spawn('git', ['status', '--porcelain', '--untracked-files=all'], { cwd: ROOT })
    let output = ''
    child.stdout.on('data', (text) => (output += text))
    child.on('exit', () => {
      const lines = output.split('\n').filter((line) => line && !line.slice(0, 2).includes('D'))
      done(lines.map((line) => line.slice(3).split(' -> ').at(-1) ?? ''))
    })
  })
}

/** Words by which a test would name a file: its exports, and its own name. @param {string} file */
function wordsOf(file) {
  const text = readFileSync(inProject(file), 'utf8')
  const exported = [...text.matchAll(/export (?:async )?(?:function\*?|const|class|interface|type) (\w+)/g)].map(([, name]) => name)
  return [...exported, basename(file, extname(file))]
}

/** Seconds that test files took last. @returns {Map<string, number>} */
function lastSeconds() {
  const known = new Map()
  if (!existsSync(inProject('.bench'))) return known
  for (const report of readdirSync(inProject('.bench')).filter((name) => name.startsWith('tests-')))
    for (const { name, startTime, endTime } of JSON.parse(readFileSync(inProject('.bench', report), 'utf8')).testResults)
      known.set(relative(ROOT, name), (endTime - startTime) / 1000)
  return known
}

/** The test files that name most of what some files export, as many as there is time for. @param {string} part @param {string[]} files */
function nearest(part, files) {
  const known = lastSeconds()
  const words = new Set(files.filter((file) => !file.includes('/test/')).flatMap(wordsOf))
  const own = files.filter((file) => file.endsWith('.test.ts'))
  const scored = readdirSync(inProject(part, 'test'))
    .filter((name) => name.endsWith('.test.ts'))
    .map((name) => `${part}/test/${name}`)
    .map((file) => {
      const text = new Set(readFileSync(inProject(file), 'utf8').match(/[\w-]+/g))
      return { file, score: own.includes(file) ? Infinity : [...words].filter((word) => text.has(word)).length }
    })
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score)
  let seconds = 0
  const taken = scored.filter(({ file }, n) => (seconds += known.get(file) ?? UNKNOWN_SECONDS) <= SECONDS_OF_TESTS || n === 0)
  if (taken.length < scored.length) say(`${part}: ${scored.length - taken.length} more test files name these; npm test runs them`)
  return taken.map(({ file }) => file)
}

const given = process.argv.slice(2).map((file) => relative(ROOT, resolve(file)))
const files = (given.length > 0 ? given : await changed()).filter((file) => existsSync(inProject(file)) && /\.(ts|vue|mjs|js)$/.test(file))
if (files.length === 0) {
  console.log('Nothing to check.')
  process.exit(0)
}
const parts = PARTS.filter((part) => files.some((file) => file.startsWith(`${part}/`)))
const styles = async () => [
  await run('layout', ['prettier', '--check', ...files]),
  await run('lint', ['eslint', '--max-warnings', '0', ...files])
]
const types = async () => {
  const good = []
  for (const part of parts)
    for (const command of TYPES[/** @type {keyof typeof TYPES} */ (part)])
      good.push(await run(`types, ${command.at(-1) === '--noEmit' ? command[2] : command.slice(1).join(' ')}`, command))
  return good
}
const tests = async () => {
  const good = []
  // Browser tests need a server and a market of their own: npm test makes them.
  for (const part of parts.filter((name) => name === 'core' || name === 'web' || name === 'server')) {
    const near = nearest(
      part,
      files.filter((file) => file.startsWith(`${part}/`))
    )
    if (near.length === 0) continue
    const database = part === 'server' ? await startDatabase(dataFolder('test'), { schema: 'test', bufferMb: 256, forTests: true }) : null
    const command = ['vitest', 'run', '--root', part, ...near.map((file) => file.slice(part.length + 1))]
    const name = `tests of ${part}: ${near.map((file) => basename(file, '.test.ts')).join(', ')}`
    good.push(await run(name, command, database ? { TEST_DATABASE_URL: database.url } : {}))
    await database?.stop()
  }
  return good
}
const good = (await Promise.all([styles().then(async (styled) => [...styled, ...(await types())]), tests()])).flat()
process.exit(good.every(Boolean) ? 0 : 1)
