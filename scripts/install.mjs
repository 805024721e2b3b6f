import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { basename } from 'node:path'
import { say } from './console.mjs'
import { ROOT, inProject } from './project.mjs'

/** A step of the set-up failed; the message says what to do. */
export class SetUpError extends Error {}

/** @param {string} command */
function has(command) {
  return ['/usr/sbin', '/usr/bin', '/usr/local/bin', '/usr/local/sbin', ...(process.env.PATH ?? '').split(':')].some((folder) =>
    existsSync(`${folder}/${command}`)
  )
}

/**
 * @param {string} command
 * @param {string[]} args
 * @param {NodeJS.ProcessEnv} [env]
 * @returns {Promise<void>}
 */
export function run(command, args, env = process.env) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: ROOT, env, stdio: ['ignore', 'pipe', 'pipe'] })
    let tail = ''
    const keep = (/** @type {Buffer} */ chunk) => (tail = (tail + chunk.toString()).slice(-4000))
    child.stdout.on('data', keep)
    child.stderr.on('data', keep)
    child.on('error', reject)
    child.on('exit', (code) => (code === 0 ? resolve() : reject(new SetUpError(`${command} ${args.join(' ')} failed:\n${tail}`))))
  })
}

/** Refuses a Node that is too old before anything else is tried. */
export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < 20 || (major === 20 && minor < 19))
    throw new SetUpError(`Tin Harbor needs Node 20.19 or newer; this is ${process.versions.node}.`)
}

/** Installs the packages of the lock file when they are not the ones that are there. */
export async function installPackages() {
  const lock = createHash('sha256')
    .update(readFileSync(inProject('package-lock.json')))
    .digest('hex')
  const stamp = inProject('node_modules', '.tin-harbor-lock')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  say('installing packages ...')
  await run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'])
  writeFileSync(stamp, lock)
}

/**
 * Installs Debian packages when a command they bring is missing.
 * @param {string} command
 * @param {string[]} packages
 */
async function installDebian(command, packages) {
  if (has(command)) return
  if (process.getuid?.() !== 0)
    throw new SetUpError(`${command} is missing. Install it first: sudo apt-get install --no-install-recommends ${packages.join(' ')}`)
  if (!has('apt-get')) throw new SetUpError(`${command} is missing, and there is no apt-get to install it with: ${packages.join(' ')}`)
  say(`installing ${packages.join(', ')} ...`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  await run('apt-get', ['update', '-qq'], env)
  await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], env)
}

/** Not `mariadb-server`, which would start a service of its own. */
export const installDatabase = () => installDebian('mariadbd', ['mariadb-server-core', 'mariadb-client-core'])

/** Chromium without its windows: the same pages, and no tabs and bars of its own drawn beside them that nobody sees. */
export const BROWSER = '/usr/bin/chromium-headless-shell'

export const installBrowser = () => installDebian(basename(BROWSER), [basename(BROWSER)])

/** Reads films and sounds, makes them fit, and speaks. */
export async function installFilms() {
  // Both at once where both are missing.
  await installDebian('espeak-ng', ['ffmpeg', 'espeak-ng'])
  await installDebian('ffmpeg', ['ffmpeg'])
}

/** A folder of the project that git ignores. @param {string[]} parts */
export function dataFolder(...parts) {
  const folder = inProject('.data', ...parts)
  mkdirSync(folder, { recursive: true })
  return folder
}
