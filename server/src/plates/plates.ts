import { Op, type Sequelize, type Transaction } from 'sequelize'
import type { Plate as PlateDraft } from '@tin-harbor/core/creative'
import type { PlateSummary, PlateView } from '@tin-harbor/core/contract'
import { linesShowing } from '../files/library.js'
import { StoredFile } from '../files/file-model.js'
import { invalid, stale, unknownObject } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { Plate } from './plate-model.js'

export async function findPlate(id: number, transaction?: Transaction): Promise<Plate> {
  const plate = await Plate.findByPk(id, transaction ? { transaction, lock: transaction.LOCK.UPDATE } : {})
  if (!plate) throw unknownObject('plate')
  return plate
}

/** Plates of an advertiser, the newest first. */
export async function platesOf(advertiserId: number): Promise<PlateSummary[]> {
  const plates = await Plate.findAll({ where: { advertiserId }, order: [['id', 'DESC']] })
  return plates.map(({ id, draft }) => ({
    id,
    name: draft.name,
    words: `${draft.sizes.length} ${draft.sizes.length === 1 ? 'size' : 'sizes'}`
  }))
}

/** Pictures of a plate that are offered, the newest first. */
export async function filesBuiltOf({ id, advertiserId }: Plate): Promise<StoredFile[]> {
  const files = await StoredFile.findAll({ where: { advertiserId, retired: false, built: { [Op.not]: null } }, order: [['id', 'DESC']] })
  return files.filter(({ built }) => built?.plate === id)
}

export async function plateView(id: number): Promise<PlateView> {
  const plate = await findPlate(id)
  const files = await filesBuiltOf(plate)
  const lines = await linesShowing(plate.advertiserId)
  return {
    id,
    advertiserId: plate.advertiserId,
    version: plate.version,
    plate: plate.draft,
    made: files.flatMap((file) =>
      file.built
        ? [
            {
              file: file.id,
              name: file.name,
              shape: file.built.shape as PlateDraft['sizes'][number],
              lines: [...(lines.get(file.sha256) ?? [])]
            }
          ]
        : []
    )
  }
}

/** The pictures that a plate shows, which are its advertiser's. @throws by the field that names another */
export async function picturesOf(
  advertiserId: number,
  { image, cover }: PlateDraft
): Promise<{ image: StoredFile | null; cover: StoredFile | null }> {
  const hash = (name: string) => name.replace(/^sha256:/, '')
  const files = await StoredFile.findAll({ where: { advertiserId, medium: 'picture', sha256: [image, cover].filter(Boolean).map(hash) } })
  const found = (name: string) => files.find(({ sha256 }) => sha256 === hash(name)) ?? null
  const missing = (['image', 'cover'] as const).filter(
    (part) => (part === 'image' ? image : cover) !== '' && !found(part === 'image' ? image : cover)
  )
  if (missing.length > 0) throw invalid(missing.map((part) => ({ field: `plate.${part}`, message: 'Not a picture of this advertiser.' })))
  return { image: image === '' ? null : found(image), cover: cover === '' ? null : found(cover) }
}

export async function createPlate(sequelize: Sequelize, actor: Actor, advertiserId: number, draft: PlateDraft): Promise<PlateView> {
  await picturesOf(advertiserId, draft)
  const { id } = await sequelize.transaction(async (transaction) => {
    const plate = await Plate.create({ advertiserId, draft }, { transaction })
    await audit(actor, 'add', { kind: 'plate', id: plate.id, advertiserId }, null, { name: draft.name }, transaction)
    return plate
  })
  return plateView(id)
}

/** Saves a plate as it is drafted; the pictures that were made of it stay as they are. */
export async function savePlate(sequelize: Sequelize, actor: Actor, id: number, version: number, draft: PlateDraft): Promise<PlateView> {
  const { advertiserId } = await findPlate(id)
  await picturesOf(advertiserId, draft)
  await sequelize.transaction(async (transaction) => {
    const plate = await findPlate(id, transaction)
    if (plate.version !== version) throw stale('plate', { version: plate.version, plate: plate.draft })
    const was = plate.draft
    await plate.update({ draft, version: version + 1 }, { transaction })
    await audit(actor, 'save', { kind: 'plate', id, advertiserId }, was, draft, transaction)
  })
  return plateView(id)
}

/** Deletes a plate; the pictures that were made of it stay. */
export async function deletePlate(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const plate = await findPlate(id, transaction)
    await audit(actor, 'delete', { kind: 'plate', id, advertiserId: plate.advertiserId }, plate.draft, null, transaction)
    await plate.destroy({ transaction })
  })
}
