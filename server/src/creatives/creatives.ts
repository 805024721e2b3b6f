import { createHash } from 'node:crypto'
import { fileTypeFromBuffer } from 'file-type'
import sharp from 'sharp'
import type { Sequelize } from 'sequelize'
import { FORMAT_OF_KIND, fittingShapes, pictureProblem, slotSizeOf, type PictureFacts } from '@tin-harbor/core/creative'
import type { MadeChoice } from '@tin-harbor/core/contract'
import { valuesOf } from '@tin-harbor/core/targeting'
import { invalidField, unknownObject } from '../http/errors.js'
import { Ad, Creative } from './creative-model.js'
import { MadeCreative } from './made-creative-model.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { advertiserOfLine, findLine } from '../lines/lines.js'

/** Pixels of a picture that is unpacked. */
const MOST_PIXELS = 40_000_000

/** Reads type, size and weight from the bytes of a file, whatever its name says. */
export async function readPicture(data: Buffer): Promise<PictureFacts> {
  const type = (await fileTypeFromBuffer(data))?.mime ?? 'unknown'
  if (!type.startsWith('image/'))
    throw invalidField('file', 'The file is not a picture: its content is not PNG, JPEG, GIF or WebP, whatever its name says.')
  try {
    // A picture that claims to be huge is refused before it is unpacked.
    const { width, height } = await sharp(data, { limitInputPixels: MOST_PIXELS }).metadata()
    // Head and pixels are two things: one that was cut off, or has none, shows only when it is unpacked.
    await sharp(data, { limitInputPixels: MOST_PIXELS, failOn: 'truncated' }).stats()
    return { type, width, height, bytes: data.length }
  } catch {
    throw invalidField('file', 'The picture cannot be read; it may be damaged.')
  }
}

/** Takes a picture as a line's creative, after looking at the real file. */
export async function addPicture(sequelize: Sequelize, actor: Actor, lineId: number, name: string, data: Buffer): Promise<number> {
  const facts = await readPicture(data)
  const line = await findLine(lineId)
  const problem = pictureProblem(facts, valuesOf(line.draft.targeting, 'size'))
  const slotSize = slotSizeOf(facts)
  if (problem !== null || slotSize === null) throw invalidField('file', problem ?? 'The picture fits no slot.')
  const advertiserId = await advertiserOfLine(lineId)
  return sequelize.transaction(async (transaction) => {
    const { type, width, height, bytes } = facts
    const sha256 = createHash('sha256').update(data).digest('hex')
    const creative = await Creative.create(
      { advertiserId, name: name.slice(0, 190), type, width, height, bytes, slotSize, sha256, data },
      { transaction }
    )
    const ad = await Ad.create({ lineId, creativeId: creative.id, review: 'draft' }, { transaction })
    await audit(actor, 'add', { kind: 'ad', id: ad.id, advertiserId }, null, { name, slotSize }, transaction)
    return ad.id
  })
}

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

export async function findCreative(id: number, withData: boolean): Promise<Creative> {
  const creative = await Creative.findByPk(id, withData ? {} : { attributes: { exclude: ['data'] } })
  if (!creative) throw unknownObject('creative')
  return creative
}
