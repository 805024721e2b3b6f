import { spawn } from 'node:child_process'
import { chmod, copyFile, mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** Nobody, and nobody's group. */
const NOBODY = '65534'
/** Bytes of memory: with much less the programs fail, and say something misleading. */
const MOST_MEMORY = 800 * 1024 * 1024
const WORK_FOLDER = /^tin-harbor-work-(\d+)-/
const MOST_OUTPUT = 4 * 1024 * 1024

export interface JailLimits {
  /** Seconds of the processor, and by the clock three times as many. */
  seconds: number
  /** Bytes of a file that is written. */
  bytes: number
  /** Ends it at once. */
  signal?: AbortSignal
  /** Path of a second file, which the program finds as `beside`. */
  beside?: string
  /** Hears what it says on its first stream, as it comes. */
  onSaid?: (text: string) => void
}

/** Does something in a folder of its own, which says by its name whose it is, and is gone afterwards. */
export async function inWorkFolder<T>(work: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), `tin-harbor-work-${process.pid}-`))
  try {
    return await work(folder)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

const isAlive = (pid: number) => {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}

/** Removes folders of work that a killed server left. @returns how many */
export async function sweepWork(): Promise<number> {
  const left = (await readdir(tmpdir())).filter((name) => {
    const pid = WORK_FOLDER.exec(name)?.[1]
    return pid !== undefined && !isAlive(Number(pid))
  })
  for (const name of left) await rm(join(tmpdir(), name), { recursive: true, force: true })
  return left.length
}

/** A program did not end well; what could not even be started, or written, is an error of the system. */
class JailError extends Error {}

/** Demuxers that read one file and nothing beside it: a playlist that is called a film is none of these. */
const FORMATS = 'mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,ogg,mp3,wav,flac,aac'
/** How ffmpeg and its probe are to read what they are given. */
export const READS: readonly string[] = ['-format_whitelist', FORMATS, '-protocol_whitelist', 'file,pipe']

/**
 * Runs a program on a file that somebody sent: in a folder with that one file, as a user who may nothing, without network, within limits.
 * Only an end with 0 counts. Where we are not root we stay who we are; everything else holds.
 * @param input path of the file, which the program finds as `input`
 */
export function jailed<T>(
  input: string,
  command: string,
  args: readonly string[],
  limits: JailLimits,
  read: (out: { stdout: string; stderr: string; folder: string }) => Promise<T> | T
): Promise<T> {
  return inWorkFolder(async (folder) => {
    await copyFile(input, join(folder, 'input'))
    if (limits.beside !== undefined) await copyFile(limits.beside, join(folder, 'beside'))
    const isRoot = process.getuid?.() === 0
    if (isRoot) {
      // The folder alone is nobody's: what is in it may be read, and written beside.
      await chmod(folder, 0o777)
      for (const name of await readdir(folder)) await chmod(join(folder, name), 0o444)
    }
    const limited = ['prlimit', `--as=${MOST_MEMORY}`, `--cpu=${limits.seconds}`, `--fsize=${limits.bytes}`, '--core=0', '--']
    const asNobody = [`--reuid=${NOBODY}`, `--regid=${NOBODY}`, '--clear-groups', '--no-new-privs']
    // It ends with us, however we end.
    const mortal = ['setpriv', '--pdeathsig', 'KILL', ...(isRoot ? asNobody : []), '--']
    const offline = isRoot ? ['unshare', '--net', '--'] : []
    const [program, ...rest] = [...offline, ...mortal, ...limited, 'nice', '-n', '10', command, ...args]
    const out = await outputOf(program, rest, folder, limits)
    return await read({ ...out, folder })
  })
}

function outputOf(
  program: string,
  args: readonly string[],
  cwd: string,
  { seconds, signal, onSaid }: JailLimits
): Promise<{ stdout: string; stderr: string }> {
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, {
      cwd,
      env: { PATH: '/usr/bin:/bin', TMPDIR: cwd, LANG: 'C' },
      stdio: ['ignore', 'pipe', 'pipe'],
      timeout: seconds * 3000,
      signal,
      killSignal: 'SIGKILL'
    })
    const out = { stdout: '', stderr: '' }
    for (const name of ['stdout', 'stderr'] as const)
      child[name].on('data', (chunk: Buffer) => {
        if (out[name].length < MOST_OUTPUT) out[name] += chunk.toString('utf8')
        if (name === 'stdout') onSaid?.(chunk.toString('utf8'))
      })
    child.on('error', reject)
    child.on('close', (code, signal) => {
      if (code === 0) resolve(out)
      else reject(new JailError(`It ended with ${code ?? signal}: ${out.stderr.slice(-600)}`))
    })
  })
}
