import type { Sequelize } from 'sequelize'
import {
  FORMAT_OF_KIND,
  creativeSchema,
  fittingShapes,
  pictureProblem,
  problemOf,
  slotSizeOf,
  type CreativeKind,
  type Medium
} from '@tin-harbor/core/creative'
import { parseInput, type LineDraft } from '@tin-harbor/core/buying'
import { shapesOf } from '@tin-harbor/core/taxonomy'
import type { MadeChoice } from '@tin-harbor/core/contract'
import { valuesOf } from '@tin-harbor/core/targeting'
import { StoredFile } from '../files/file-model.js'
import { contentName } from '../files/library.js'
import { invalidField, unknownObject } from '../http/errors.js'
import { Ad, Creative } from './creative-model.js'
import { MadeCreative } from './made-creative-model.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { advertiserOfLine, findLine } from '../lines/lines.js'

/** Puts a file of the library on a line of its advertiser's, after holding it against what the line's slots take. */
export async function addFile(sequelize: Sequelize, actor: Actor, lineId: number, fileId: number): Promise<number> {
  const advertiserId = await advertiserOfLine(lineId)
  const file = await StoredFile.findByPk(fileId)
  if (file?.advertiserId !== advertiserId) throw invalidField('file', 'Not a file of this advertiser.')
  const { draft } = await findLine(lineId)
  if (draft.format !== 'display') return addMade(sequelize, actor, lineId, await madeOf(sequelize, draft, file))
  const { facts, name, sha256, bytes } = file
  const problem = pictureProblem(facts, valuesOf(draft.targeting, 'size'))
  const slotSize = slotSizeOf(facts)
  if (problem !== null || slotSize === null) throw invalidField('file', problem ?? 'The picture fits no slot.')
  return sequelize.transaction(async (transaction) => {
    const { type, width, height } = facts
    const creative = await Creative.create(
      { advertiserId, name, type, width: width ?? 0, height: height ?? 0, bytes, slotSize, sha256 },
      { transaction }
    )
    const ad = await Ad.create({ lineId, creativeId: creative.id, review: 'draft' }, { transaction })
    await audit(actor, 'add', { kind: 'ad', id: ad.id, advertiserId }, null, { name, slotSize }, transaction)
    return ad.id
  })
}

/** A film or a sound as a creative that its format can show: the one that is there, or a new one. */
async function madeOf(sequelize: Sequelize, { format }: LineDraft, file: StoredFile): Promise<number> {
  const { advertiserId, name, facts, sha256 } = file
  const kind = MADE_OF[facts.medium]
  if (kind === undefined || FORMAT_OF_KIND[kind] !== format) throw invalidField('file', `A ${facts.medium} cannot run on a ${format} line.`)
  const problem = problemOf(facts, shapesOf(format))
  if (problem !== null) throw invalidField('file', problem)
  const { seconds, width, height } = facts
  const shared = { file: contentName(sha256), seconds, companion: null }
  const wanted = { name, kind, parts: kind === 'video' ? { ...shared, width, height, skipAfter: null } : shared }
  const draft = parseInput(creativeSchema, wanted)
  return sequelize.transaction(async (transaction) => {
    // Who puts it on lines takes turns by the file's row: two at once would both find none.
    await file.reload({ transaction, lock: transaction.LOCK.UPDATE })
    const made = await MadeCreative.findAll({ where: { advertiserId, kind }, transaction })
    const known = made.find(({ parts }) => (parts as { file?: string }).file === shared.file)
    return (known ?? (await MadeCreative.create({ advertiserId, ...draft }, { transaction }))).id
  })
}
const MADE_OF: Readonly<Partial<Record<Medium, CreativeKind>>> = { film: 'video', sound: 'audio' }

/** Puts a creative made of parts on a line of its format. */
export async function addMade(sequelize: Sequelize, actor: Actor, lineId: number, madeCreativeId: number): Promise<number> {
  const advertiserId = await advertiserOfLine(lineId)
  const { draft } = await findLine(lineId)
  const made = await MadeCreative.findByPk(madeCreativeId)
  if (!made || made.advertiserId !== advertiserId) throw invalidField('creative', 'Not a creative of this advertiser.')
  if (FORMAT_OF_KIND[made.kind] !== draft.format)
    throw invalidField('creative', `"${made.name}" is ${FORMAT_OF_KIND[made.kind]}; this line buys ${draft.format}.`)
  return sequelize.transaction(async (transaction) => {
    // Who adds takes turns by the line's row: two at once would both find it without.
    await findLine(lineId, transaction)
    const known = await Ad.findOne({ where: { lineId, madeCreativeId, removed: false }, transaction })
    if (known) throw invalidField('creative', `"${made.name}" is on this line already.`)
    const ad = await Ad.create({ lineId, madeCreativeId, review: 'draft' }, { transaction })
    await audit(actor, 'add', { kind: 'ad', id: ad.id, advertiserId }, null, { name: made.name, kind: made.kind }, transaction)
    return ad.id
  })
}

/** Creatives made of parts of a line's advertiser that its format can show. */
export async function madeFor(lineId: number): Promise<MadeChoice[]> {
  const { draft } = await findLine(lineId)
  const rows = await MadeCreative.findAll({ where: { advertiserId: await advertiserOfLine(lineId) }, order: [['id', 'ASC']] })
  return rows
    .filter((row) => FORMAT_OF_KIND[row.kind] === draft.format)
    .map((row) => ({ id: row.id, name: row.name, kind: row.kind, shapes: [...fittingShapes(row)] }))
}

/** Takes an ad off its line; a line in force goes on with it until it is put live again. */
export async function removeAd(sequelize: Sequelize, actor: Actor, lineId: number, adId: number): Promise<void> {
  const advertiserId = await advertiserOfLine(lineId)
  await sequelize.transaction(async (transaction) => {
    const ad = await Ad.findOne({ where: { id: adId, lineId, removed: false }, transaction, lock: transaction.LOCK.UPDATE })
    if (!ad) throw unknownObject('ad')
    await ad.update({ removed: true }, { transaction })
    await audit(actor, 'remove', { kind: 'ad', id: adId, advertiserId }, null, null, transaction)
  })
}

export async function findCreative(id: number): Promise<Creative> {
  const creative = await Creative.findByPk(id)
  if (!creative) throw unknownObject('creative')
  return creative
}
