import { createHash, randomBytes } from 'node:crypto'
import { createReadStream, type ReadStream } from 'node:fs'
import { mkdir, open, readdir, rename, rm, stat, utimes, copyFile, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'

/** A hash as a name. */
const NAME = /^[0-9a-f]{64}$/
/** Contents that nothing names are kept so long: a row that names one is written after it. */
const KEPT_MS = 24 * 3_600_000

export interface Content {
  sha256: string
  bytes: number
}

/**
 * Contents of files in a folder, by the hash of what they hold: the same content is there once, and none is ever changed. It is written
 * beside and renamed, so that what has a name is whole.
 */
export class ContentStore {
  constructor(private readonly folder: string) {}

  /** @throws where the name is no hash: a path is never made of anything else */
  pathOf(sha256: string): string {
    if (!NAME.test(sha256)) throw new Error('A content is named by its hash.')
    return join(this.folder, sha256.slice(0, 2), sha256)
  }

  read(sha256: string): Promise<Buffer> {
    return readFile(this.pathOf(sha256))
  }

  stream(sha256: string): ReadStream {
    return createReadStream(this.pathOf(sha256))
  }

  async has(sha256: string): Promise<boolean> {
    return stat(this.pathOf(sha256)).then(
      () => true,
      () => false
    )
  }

  /** Takes what a file holds; the file itself stays. */
  async take(path: string): Promise<Content> {
    const hash = createHash('sha256')
    await pipeline(createReadStream(path), hash)
    const sha256 = hash.digest('hex')
    return this.keep(sha256, (beside) => copyFile(path, beside))
  }

  async put(data: Buffer): Promise<Content> {
    const sha256 = createHash('sha256').update(data).digest('hex')
    return this.keep(sha256, async (beside) => {
      const file = await open(beside, 'wx')
      try {
        await file.writeFile(data)
      } finally {
        await file.close()
      }
    })
  }

  private async keep(sha256: string, write: (beside: string) => Promise<void>): Promise<Content> {
    const path = this.pathOf(sha256)
    if (await this.has(sha256)) {
      // As young as one that is new, for the sweep.
      const now = new Date()
      await utimes(path, now, now)
      return { sha256, bytes: (await stat(path)).size }
    }
    await mkdir(join(this.folder, sha256.slice(0, 2)), { recursive: true })
    const beside = join(this.folder, `${randomBytes(8).toString('hex')}.part`)
    try {
      await write(beside)
      const file = await open(beside, 'r+')
      try {
        await file.sync()
      } finally {
        await file.close()
      }
      await rename(beside, path)
    } catch (error) {
      await rm(beside, { force: true })
      throw error
    }
    return { sha256, bytes: (await stat(path)).size }
  }

  /**
   * Removes what nothing names and what a stopped writing left, both only when they are old.
   * @param named hashes that rows name @returns what was removed
   */
  async sweep(named: ReadonlySet<string>, keptMs = KEPT_MS): Promise<string[]> {
    const removed: string[] = []
    const old = async (path: string) => Date.now() - (await stat(path)).mtimeMs >= keptMs
    await mkdir(this.folder, { recursive: true })
    for (const entry of await readdir(this.folder, { withFileTypes: true })) {
      const inside = join(this.folder, entry.name)
      const names = entry.isDirectory() ? (await readdir(inside)).map((name) => join(entry.name, name)) : [entry.name]
      for (const name of names) {
        const sha256 = name.slice(-64)
        if ((NAME.test(sha256) && named.has(sha256)) || !(await old(join(this.folder, name)))) continue
        await rm(join(this.folder, name), { force: true })
        removed.push(name)
      }
    }
    return removed
  }
}
