import type { Sequelize } from 'sequelize'
import {
  FORMAT_OF_KIND,
  creativeSchema,
  filesNamed,
  fittingShapes,
  interstitialOf,
  partProblem,
  pictureProblem,
  problemOf,
  slotSizeOf,
  type CreativeDraft,
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
  const { facts, name, sha256, bytes } = file
  // What is no picture of a fixed size is an ad of one part.
  if (draft.format !== 'display' || facts.medium === 'banner' || interstitialOf(facts) !== null)
    return addMade(sequelize, actor, lineId, await madeOf(sequelize, draft, file))
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

/** Of a file as it can run by itself. */
function partsOf({ facts, sha256 }: StoredFile, kind: CreativeKind): object {
  const { seconds, width, height } = facts
  const file = contentName(sha256)
  if (kind === 'html5') return { size: `${width}x${height}`, file }
  if (kind === 'interstitial') return { upright: interstitialOf(facts) === 'interstitial, upright', file }
  return { file, seconds, companion: null, ...(kind === 'video' ? { width, height, skipAfter: null } : {}) }
}

/** A file as a creative that its format can show: the one that is there, or a new one. */
async function madeOf(sequelize: Sequelize, { format, targeting }: LineDraft, file: StoredFile): Promise<number> {
  const { advertiserId, name, facts } = file
  const kind = facts.medium === 'picture' ? 'interstitial' : MADE_OF[facts.medium]
  if (kind === undefined || FORMAT_OF_KIND[kind] !== format) throw invalidField('file', `A ${facts.medium} cannot run on a ${format} line.`)
  const sizes = valuesOf(targeting, 'size')
  const shapes = shapesOf(format).filter((shape) => format !== 'display' || sizes.length === 0 || sizes.includes(shape))
  const problem = facts.medium === 'banner' ? pictureProblem(facts, sizes) : problemOf(facts, shapes)
  if (problem !== null) throw invalidField('file', problem)
  const draft = parseInput(creativeSchema, { name, kind, parts: partsOf(file, kind) })
  return sequelize.transaction(async (transaction) => {
    // Who puts it on lines takes turns by the file's row: two at once would both find none.
    await file.reload({ transaction, lock: transaction.LOCK.UPDATE })
    const made = await MadeCreative.findAll({ where: { advertiserId, kind }, transaction })
    const known = made.find(({ parts }) => (parts as { file?: string }).file === contentName(file.sha256))
    return (known ?? (await MadeCreative.create({ advertiserId, ...draft }, { transaction }))).id
  })
}
const MADE_OF: Readonly<Partial<Record<Medium, CreativeKind>>> = { film: 'video', sound: 'audio', banner: 'html5' }

/** Makes a creative of parts; files that it names are the advertiser's, and what its slot takes as that part. */
export async function createMade(sequelize: Sequelize, actor: Actor, advertiserId: number, draft: CreativeDraft): Promise<MadeChoice> {
  for (const { part, sha256 } of filesNamed(draft)) {
    const file = await StoredFile.findOne({ where: { advertiserId, sha256 } })
    if (!file) throw invalidField(`parts.${part}`, 'Not a file of this advertiser.')
    const problem = partProblem(draft, part, file.facts)
    if (problem !== null) throw invalidField(`parts.${part}`, problem)
  }
  const made = await sequelize.transaction(async (transaction) => {
    const row = await MadeCreative.create({ advertiserId, ...draft }, { transaction })
    await audit(actor, 'add', { kind: 'creative', id: row.id, advertiserId }, null, { name: draft.name, kind: draft.kind }, transaction)
    return row
  })
  return choiceOf(made)
}

const choiceOf = (row: MadeCreative): MadeChoice => ({ id: row.id, name: row.name, kind: row.kind, shapes: [...fittingShapes(row)] })

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
  return rows.filter((row) => FORMAT_OF_KIND[row.kind] === draft.format).map(choiceOf)
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

export async function findMade(id: number): Promise<MadeCreative> {
  const made = await MadeCreative.findByPk(id)
  if (!made) throw unknownObject('creative')
  return made
}

export async function findCreative(id: number): Promise<Creative> {
  const creative = await Creative.findByPk(id)
  if (!creative) throw unknownObject('creative')
  return creative
}
