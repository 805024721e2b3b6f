import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { say } from './console.mjs'
import { run } from './install.mjs'
import { ROOT, inProject } from './project.mjs'

/** @param {string} folder @param {string[]} into */
function walk(folder, into) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist' || entry.name.endsWith('.tsbuildinfo')) continue
    const path = join(folder, entry.name)
    if (entry.isDirectory()) walk(path, into)
    else into.push(path)
  }
}

/**
 * A checksum of sources by name, size and time of change: reading them all would take longer than the warm start may.
 * @param {string[]} folders
 */
function sourcesOf(folders) {
  /** @type {string[]} */
  const files = [inProject('package-lock.json'), inProject('tsconfig.base.json')]
  for (const folder of folders) walk(inProject(folder), files)
  const sum = createHash('sha256')
  for (const file of files.sort()) {
    const { size, mtimeMs } = statSync(file)
    sum.update(`${file.slice(ROOT.length)} ${size} ${mtimeMs}\n`)
  }
  return sum.digest('hex')
}

/**
 * Builds one part unless its sources are those of the last build.
 * @param {string} name @param {string[]} folders @param {string} product @param {() => Promise<void>} make
 */
async function unlessBuilt(name, folders, product, make) {
  const stamps = inProject('.stamps')
  mkdirSync(stamps, { recursive: true })
  const stamp = join(stamps, name)
  const sum = sourcesOf(folders)
  if (existsSync(inProject(product)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === sum) return
  say(`building ${name} ...`)
  await make()
  writeFileSync(stamp, sum)
}

/** Core and server: type check and build in one. */
export const buildServer = () => unlessBuilt('server', ['core/src', 'server/src'], 'server/dist/main.js', () => run(inProject('node_modules/.bin/tsc'), ['-b']))

/** The pages. */
export const buildPages = () => unlessBuilt('pages', ['core/src', 'web'], 'web/dist/index.html', () => run(inProject('node_modules/.bin/vite'), ['build', 'web', '--logLevel', 'warn']))
