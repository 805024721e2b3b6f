import type { Sequelize, Transaction } from 'sequelize'
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
import { MOST_ADS, parseInput, type LineDraft } from '@tin-harbor/core/buying'
import { shapesOf } from '@tin-harbor/core/taxonomy'
import type { MadeChoice } from '@tin-harbor/core/contract'
import { valuesOf } from '@tin-harbor/core/targeting'
import { stopsOf } from '../feeds/stops.js'
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
    return (await addMade(sequelize, actor, lineId, [await madeOf(sequelize, draft, file)]))[0]
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

/**
 * Puts creatives made of parts on a line of their format, all or none.
 * @returns the new ads, in the order of the creatives
 */
export async function addMade(sequelize: Sequelize, actor: Actor, lineId: number, creatives: readonly number[]): Promise<number[]> {
  const advertiserId = await advertiserOfLine(lineId)
  return sequelize.transaction((transaction) => addMadeIn(actor, { lineId, advertiserId }, creatives, transaction))
}

/** The same in a transaction that makes the creatives. */
export async function addMadeIn(
  actor: Actor,
  { lineId, advertiserId }: { lineId: number; advertiserId: number },
  creatives: readonly number[],
  transaction: Transaction
): Promise<number[]> {
  // Who adds takes turns by the line's row: two at once would both find it without.
  const { draft } = await findLine(lineId, transaction)
  const made = new Map(
    (await MadeCreative.findAll({ where: { id: [...creatives], advertiserId }, transaction })).map((one) => [one.id, one])
  )
  const onIt = await Ad.findAll({ where: { lineId, removed: false }, transaction })
  const stops = await stopsOf(creatives, transaction)
  const known = new Set(onIt.map(({ madeCreativeId }) => madeCreativeId))
  const rows = [...new Set(creatives)].map((id) => {
    const one = made.get(id)
    if (!one) throw invalidField('creatives', 'Not a creative of this advertiser.')
    if (FORMAT_OF_KIND[one.kind] !== draft.format)
      throw invalidField('creatives', `“${one.name}” is ${FORMAT_OF_KIND[one.kind]}; this line buys ${draft.format}.`)
    if (known.has(id)) throw invalidField('creatives', `“${one.name}” is on this line already.`)
    return { lineId, madeCreativeId: id, review: 'draft' as const, stopped: stops.get(id) ?? null }
  })
  requireRoom(onIt.length + rows.length)
  const ads: number[] = []
  for (const row of rows) ads.push((await Ad.create(row, { transaction })).id)
  const names = rows.map(({ madeCreativeId }) => made.get(madeCreativeId)?.name)
  await audit(actor, 'add', { kind: 'ad', id: ads[0], advertiserId }, null, { line: lineId, ads: ads.length, names }, transaction)
  return ads
}

function requireRoom(ads: number): void {
  if (ads > MOST_ADS) throw invalidField('creatives', `A line shows at most ${MOST_ADS} ads; these would be ${ads}.`)
}

/** Creatives made of parts of a line's advertiser that its format can show. */
export async function madeFor(lineId: number): Promise<MadeChoice[]> {
  const { draft } = await findLine(lineId)
  const rows = await MadeCreative.findAll({ where: { advertiserId: await advertiserOfLine(lineId) }, order: [['id', 'ASC']] })
  return rows.filter((row) => FORMAT_OF_KIND[row.kind] === draft.format).map(choiceOf)
}

/** Takes ads off their line, all or none; a line in force goes on with them until it is put live again. */
export async function removeAds(sequelize: Sequelize, actor: Actor, lineId: number, ids: readonly number[]): Promise<void> {
  const advertiserId = await advertiserOfLine(lineId)
  await sequelize.transaction(async (transaction) => {
    await findLine(lineId, transaction)
    const wanted = new Set(ids)
    const ads = await Ad.findAll({ where: { id: [...wanted], lineId, removed: false }, transaction })
    if (ads.length < wanted.size) throw unknownObject('ad')
    for (const ad of ads) await ad.update({ removed: true }, { transaction })
    await audit(actor, 'remove', { kind: 'ad', id: ads[0].id, advertiserId }, { line: lineId, ads: [...wanted] }, null, transaction)
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
