import { randomUUID } from 'node:crypto'
import { mkdir, open, readFile, readdir, rm, type FileHandle } from 'node:fs/promises'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'

/** With the number of the process that writes it: one that still runs is left alone. */
const NAME = /^hits-(\d+)-[0-9a-f-]{36}\.log$/

interface Waiting {
  line: string
  resolve: () => void
  reject: (error: Error) => void
}

/** A line with its checksum, so that one that was torn is told from one that is whole. */
const sealed = (text: string) => `${crc32(text).toString(16).padStart(8, '0')} ${text}\n`

/** The whole lines of a journal; what was torn at its end, or anywhere, is left out: nobody was told that it is kept. */
export function linesOf(content: string): string[] {
  return content.split('\n').flatMap((line) => {
    const text = line.slice(9)
    return line.length > 9 && crc32(text).toString(16).padStart(8, '0') === line.slice(0, 8) ? [text] : []
  })
}

/**
 * Lines that are on the disk before whoever wrote them goes on. Those that come while one batch is synced go with the next: a thousand a
 * second need no more syncs than the disk gives.
 */
export class Journal {
  private waiting: Waiting[] = []
  private isWriting = false
  private isTorn = false
  private bytes = 0

  private constructor(
    readonly path: string,
    private readonly file: FileHandle
  ) {}

  static async begin(folder: string): Promise<Journal> {
    await mkdir(folder, { recursive: true })
    const path = join(folder, `hits-${process.pid}-${randomUUID()}.log`)
    return new Journal(path, await open(path, 'a'))
  }

  get size(): number {
    return this.bytes
  }

  /** Settles once the line is on the disk. */
  append(text: string): Promise<void> {
    return new Promise((resolve, reject) => {
      this.waiting.push({ line: sealed(text), resolve, reject })
      if (!this.isWriting) void this.write()
    })
  }

  private async write(): Promise<void> {
    this.isWriting = true
    while (this.waiting.length > 0) {
      const batch = this.waiting
      this.waiting = []
      try {
        // After a write that failed half way the next one begins a line of its own.
        const text = `${this.isTorn ? '\n' : ''}${batch.map(({ line }) => line).join('')}`
        this.isTorn = true
        await this.file.appendFile(text)
        await this.file.datasync()
        this.isTorn = false
        this.bytes += text.length
        for (const { resolve } of batch) resolve()
      } catch (error) {
        for (const { reject } of batch) reject(error as Error)
      }
    }
    this.isWriting = false
  }

  async close(): Promise<void> {
    while (this.isWriting) await new Promise((resolve) => setTimeout(resolve, 5))
    await this.file.close()
  }

  /** Throws away one that is closed, and of which all was taken. */
  remove(): Promise<void> {
    return rm(this.path)
  }
}

function isAlive(pid: number): boolean {
  if (pid === process.pid) return false
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    // One of somebody else may not be asked, and is there.
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}

/** Journals that others left, each with its whole lines, and how it is thrown away. */
export async function leftJournals(folder: string, own: string): Promise<{ lines: string[]; remove: () => Promise<void> }[]> {
  const names = (await readdir(folder).catch(() => [])).filter((name) => {
    const pid = NAME.exec(name)?.[1]
    return pid !== undefined && join(folder, name) !== own && !isAlive(Number(pid))
  })
  return Promise.all(
    names.map(async (name) => ({ lines: linesOf(await readFile(join(folder, name), 'utf8')), remove: () => rm(join(folder, name)) }))
  )
}
