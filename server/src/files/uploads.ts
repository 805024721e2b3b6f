import { mkdir, readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { Request, Response } from 'express'
import { FileStore } from '@tus/file-store'
import { Metadata, Server } from '@tus/server'
import { Op, type Sequelize } from 'sequelize'
import { withoutControls, yup } from '@tin-harbor/core/input'
import { parseInput } from '@tin-harbor/core/buying'
import { MOST_FILE_BYTES } from '@tin-harbor/core/creative'
import type { FileTaken } from '@tin-harbor/core/contract'
import { conflict, unknownObject } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { Upload } from './file-model.js'
import { takeFile, type Shelf } from './library.js'

/** An upload that was not gone on with for so long is given up. */
const UNFINISHED_MS = 2 * 24 * 3_600_000

const beginSchema = yup
  .object({
    name: yup.string().trim().required('The file needs a name.').max(190, 'The name of the file has at most 190 letters.'),
    bytes: yup
      .number()
      .integer('A length is a whole number of bytes.')
      .min(1, 'The file is empty.')
      .max(MOST_FILE_BYTES, `A file has at most ${MOST_FILE_BYTES / 1024 / 1024} MB.`)
      .required('How long is the file?')
  })
  .noUnknown()

/** What a request to begin says that the file is called; empty where it says so wrongly. */
function fileNameOf(req: Request): string {
  try {
    return Metadata.parse(String(req.headers['upload-metadata'] ?? '')).filename ?? ''
  } catch {
    return ''
  }
}

/**
 * Uploads by the tus protocol 1.0: begun, gone on with after whatever broke, and given up. Bytes lie in a folder of their own until the
 * file is whole and was read; who may do what is the registry's.
 */
export class Uploads {
  private readonly tus: Server
  /** Row of the upload that a request begins: the protocol's server names the upload after it. */
  private readonly rows = new WeakMap<object, number>()

  constructor(
    private readonly sequelize: Sequelize,
    private readonly folder: string
  ) {
    this.tus = new Server({
      path: '/api/uploads',
      datastore: new FileStore({ directory: folder }),
      maxSize: MOST_FILE_BYTES,
      relativeLocation: true,
      // Our own pages alone.
      allowedOrigins: () => false,
      namingFunction: (req) => String(this.rows.get(req.runtime?.node?.req ?? req) ?? ''),
      generateUrl: (_req, { id }) => `/api/uploads/${id}`
    })
  }

  private pathOf(id: number): string {
    return join(this.folder, String(id))
  }

  /** Answers the request itself. */
  async begin(actor: Actor, advertiserId: number, req: Request, res: Response): Promise<void> {
    const name = withoutControls(fileNameOf(req))
    const length = Number(req.headers['upload-length'] ?? NaN)
    const { bytes } = parseInput(beginSchema, { name, bytes: Number.isNaN(length) ? undefined : length })
    await mkdir(this.folder, { recursive: true })
    const { id } = await this.sequelize.transaction((transaction) =>
      Upload.create({ advertiserId, userId: actor.id, name: name.trim(), bytes }, { transaction })
    )
    this.rows.set(req, id)
    await this.tus.handle(req, res)
    if (res.statusCode >= 400) await this.forget(id)
  }

  /** Where it stands, more of it, or that it is given up. Answers the request itself. */
  async goOn(actor: Actor, id: number, req: Request, res: Response): Promise<void> {
    await this.find(actor, id)
    if (req.method === 'DELETE') await this.forget(id)
    await this.tus.handle(req, res)
  }

  /** Somebody else's is not there. */
  private async find(actor: Actor, id: number): Promise<Upload> {
    const upload = await Upload.findByPk(id)
    if (upload?.userId !== actor.id) throw unknownObject('upload')
    return upload
  }

  /** Takes a whole upload into the library; what cannot be read leaves nothing behind. */
  async finish(deps: Shelf, actor: Actor, id: number): Promise<FileTaken> {
    const { name, bytes, advertiserId } = await this.find(actor, id)
    const path = this.pathOf(id)
    const there = await stat(path).then(
      ({ size }) => size,
      () => 0
    )
    if (there !== bytes) throw conflict(`${there} of ${bytes} bytes have come: the upload goes on where it stopped.`)
    let isOver = true
    try {
      return await takeFile(deps, actor, advertiserId, { name, path })
    } catch (error) {
      // What is wrong with the file stays wrong; a database that is away comes back, and the file need not be sent again.
      isOver = (error as { status?: number }).status === 422
      throw error
    } finally {
      if (isOver) await this.remove(id)
    }
  }

  private async forget(id: number): Promise<void> {
    await this.sequelize.transaction((transaction) => Upload.destroy({ where: { id }, transaction }))
  }

  private async remove(id: number): Promise<void> {
    await this.forget(id)
    await Promise.all(['', '.json'].map((ending) => rm(`${this.pathOf(id)}${ending}`, { force: true })))
  }

  /** Gives up what nobody went on with, and what has no row. */
  async sweep(): Promise<number> {
    await mkdir(this.folder, { recursive: true })
    const old = await Upload.findAll({ where: { begun: { [Op.lt]: new Date(Date.now() - UNFINISHED_MS) } } })
    for (const { id } of old) await this.remove(id)
    const known = new Set((await Upload.findAll({ attributes: ['id'] })).map(({ id }) => String(id)))
    const lost = (await readdir(this.folder)).filter((name) => !known.has(name.replace(/\.json$/, '')))
    await Promise.all(lost.map((name) => rm(join(this.folder, name), { force: true })))
    return old.length + lost.length
  }
}
