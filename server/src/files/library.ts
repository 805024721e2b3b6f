import { stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { Op, UniqueConstraintError, type Sequelize, type Transaction } from 'sequelize'
import { filesNamed, type FileFacts } from '@tin-harbor/core/creative'
import type { FileTaken, FileView } from '@tin-harbor/core/contract'
import pLimit from 'p-limit'
import { Ad, Creative } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { stale, unknownObject } from '../http/errors.js'
import { readMarket } from '../going-live/publications.js'
import { audit } from '../team/audit.js'
import type { Actor } from '../security/sessions.js'
import type { Content, ContentStore } from './content-store.js'
import { StoredFile, type BuiltOf } from './file-model.js'
import { inWorkFolder } from './jail.js'
import { rewritten } from './place.js'
import { readFacts } from './reading.js'

/** Where files are kept: what is known of them, and what they hold. */
export interface Shelf {
  sequelize: Sequelize
  store: ContentStore
}

/** Part of a creative that names a content of the library. */
export const contentName = (sha256: string) => `sha256:${sha256}`

/** Files are read two at a time: each unpacks a picture, or starts a program. */
const reading = pLimit(2)

export interface FileEdit {
  name: string
  altText: string
  tags: string[]
  retired: boolean
  version: number
}

/** Lines that show a content of an advertiser's. */
export async function linesShowing(advertiserId: number, transaction?: Transaction): Promise<Map<string, number[]>> {
  const pictures = await Creative.findAll({ attributes: ['id', 'sha256'], where: { advertiserId }, transaction })
  const made = await MadeCreative.findAll({ where: { advertiserId }, transaction })
  const hashOfPicture = new Map(pictures.map(({ id, sha256 }) => [id, sha256]))
  const hashesOfMade = new Map(made.map((one) => [one.id, filesNamed(one).map(({ sha256 }) => sha256)]))
  const ads = await Ad.findAll({
    attributes: ['lineId', 'creativeId', 'madeCreativeId'],
    where: { removed: false, [Op.or]: [{ creativeId: [...hashOfPicture.keys()] }, { madeCreativeId: [...hashesOfMade.keys()] }] },
    order: [['lineId', 'ASC']],
    transaction
  })
  const lines = new Map<string, number[]>()
  for (const { lineId, creativeId, madeCreativeId } of ads) {
    const picture = hashOfPicture.get(creativeId ?? -1)
    for (const sha256 of picture === undefined ? (hashesOfMade.get(madeCreativeId ?? -1) ?? []) : [picture]) {
      const known = lines.get(sha256) ?? []
      if (!known.includes(lineId)) lines.set(sha256, [...known, lineId])
    }
  }
  return lines
}

function viewOf(file: StoredFile, lines: ReadonlyMap<string, readonly number[]>): FileView {
  const { id, advertiserId, name, sha256, bytes, medium, facts, altText, tags, retired, version } = file
  const { madeFrom, madeHow, addedHour, replacedBy, proxy } = file
  const known = { id, advertiserId, name, sha256, bytes, medium, facts, altText, tags, retired, version }
  return { ...known, madeFrom, madeHow, addedHour, replacedBy, hasProxy: proxy !== null, usedBy: [...(lines.get(sha256) ?? [])] }
}

/** All files of an advertiser, the newest first. */
export async function filesOf(advertiserId: number): Promise<FileView[]> {
  const files = await StoredFile.findAll({ where: { advertiserId }, order: [['id', 'DESC']] })
  const lines = await linesShowing(advertiserId)
  return files.map((file) => viewOf(file, lines))
}

export async function findFile(id: number, transaction?: Transaction): Promise<StoredFile> {
  const file = await StoredFile.findByPk(id, { transaction, ...(transaction ? { lock: transaction.LOCK.UPDATE } : {}) })
  if (!file) throw unknownObject('file')
  return file
}

export async function fileView(id: number): Promise<FileView> {
  const file = await findFile(id)
  return viewOf(file, await linesShowing(file.advertiserId))
}

/** Of which file something was made and how; a picture that was built says of what too. */
export interface Made {
  from: number | null
  how: string
  built?: BuiltOf
}

/** Reads a file and puts its content into the store, written anew where it says where it was taken, or has no length. */
async function keep(store: ContentStore, path: string): Promise<{ facts: FileFacts; content: Content }> {
  const read = async (file: string) => {
    const { size } = await stat(file)
    return reading(() => readFacts(file, size))
  }
  const facts = await read(path)
  // A recorder that was stopped leaves no length, which players and slots want to know.
  const isEndless = (facts.medium === 'film' || facts.medium === 'sound') && facts.seconds === null
  if (!facts.hasPlace && !isEndless) return { facts, content: await store.take(path) }
  return inWorkFolder(async (folder) => {
    const target = join(folder, 'kept')
    await rewritten(path, facts, target)
    return { facts: await read(target), content: await store.take(target) }
  })
}

/**
 * Takes a file into an advertiser's library after reading all of it. The same content again is the file that is there: it is offered
 * again where it was retired.
 * @param path of the file, which stays where it is
 * @param made of which file it was made, and how
 */
export async function takeFile(
  { sequelize, store }: Shelf,
  actor: Actor,
  advertiserId: number,
  { name, path, made }: { name: string; path: string; made?: Made }
): Promise<FileTaken> {
  const {
    facts,
    content: { sha256, bytes }
  } = await keep(store, path)
  const { hour: addedHour } = await readMarket()
  const known = async () => {
    const file = await StoredFile.findOne({ where: { advertiserId, sha256 } })
    if (file?.retired) await saveFile({ sequelize }, actor, file.id, { ...editOf(file), retired: false })
    return file && { id: file.id, wasKnown: true }
  }
  // Looked for without a lock: many who look for what is not there would hold each other up.
  const create = () =>
    sequelize.transaction(async (transaction) => {
      const { id } = await StoredFile.create(
        {
          advertiserId,
          name: name.slice(0, 190),
          sha256,
          bytes,
          medium: facts.medium,
          facts,
          tags: [],
          madeFrom: made?.from ?? null,
          madeHow: made?.how.slice(0, 500) ?? null,
          built: made?.built ?? null,
          addedHour
        },
        { transaction }
      )
      await audit(actor, 'add', { kind: 'file', id, advertiserId }, null, { name, medium: facts.medium }, transaction)
      return { id, wasKnown: false }
    })
  const taken =
    (await known()) ??
    (await create().catch(async (error: unknown) => {
      // Two sent the same at once: the second finds what the first made.
      const other = error instanceof UniqueConstraintError ? await known() : null
      if (!other) throw error
      return other
    }))
  return { file: await fileView(taken.id), wasKnown: taken.wasKnown }
}

/** The same for a content that is at hand. */
export function takeData(
  deps: Shelf,
  actor: Actor,
  advertiserId: number,
  { name, data, made }: { name: string; data: Buffer; made?: Made }
): Promise<FileTaken> {
  return inWorkFolder(async (folder) => {
    const path = join(folder, 'file')
    await writeFile(path, data)
    return takeFile(deps, actor, advertiserId, { name, path, made })
  })
}

const editOf = ({ name, altText, tags, retired, version }: StoredFile): FileEdit => ({ name, altText, tags, retired, version })

/** Names, describes, tags, retires a file or offers it again. */
export async function saveFile({ sequelize }: Pick<Shelf, 'sequelize'>, actor: Actor, id: number, edit: FileEdit): Promise<FileView> {
  await sequelize.transaction(async (transaction) => {
    const file = await findFile(id, transaction)
    if (file.version !== edit.version) throw stale('file', viewOf(file, await linesShowing(file.advertiserId, transaction)))
    const { version, ...was } = editOf(file)
    const { version: _, ...became } = edit
    // What is offered again has nothing in its place any more.
    const { replacedBy } = file
    await file.update({ ...became, replacedBy: edit.retired ? replacedBy : null, version: version + 1 }, { transaction })
    await audit(actor, 'save', { kind: 'file', id, advertiserId: file.advertiserId }, was, became, transaction)
  })
  return fileView(id)
}

/** Hashes that rows name: what the sweep must not take. */
export async function namedContents(): Promise<Set<string>> {
  const files = await StoredFile.findAll({ attributes: ['sha256', 'proxy'], raw: true })
  const pictures = await Creative.findAll({ attributes: ['sha256'], raw: true })
  return new Set([...[...files, ...pictures].map(({ sha256 }) => sha256), ...files.flatMap(({ proxy }) => proxy ?? [])])
}
