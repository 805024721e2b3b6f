import type { Sequelize, Transaction } from 'sequelize'
import {
  cellName,
  cellParts,
  cellsOf,
  creativeSchema,
  mixFindings,
  mixWords,
  partProblem,
  type CreativeDraft,
  type Mix as MixDraft,
  type MixCell
} from '@tin-harbor/core/creative'
import { parseInput, type FieldIssue } from '@tin-harbor/core/buying'
import type { MixMade, MixSummary, MixView } from '@tin-harbor/core/contract'
import { addMadeIn } from '../creatives/creatives.js'
import { Ad } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { StoredFile } from '../files/file-model.js'
import { contentName } from '../files/library.js'
import { conflict, invalid, invalidField, stale, unknownObject } from '../http/errors.js'
import { advertiserOfLine, findLine } from '../lines/lines.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { Mix } from './mix-model.js'

export async function findMix(id: number, transaction?: Transaction): Promise<Mix> {
  const mix = await Mix.findByPk(id, transaction ? { transaction, lock: transaction.LOCK.UPDATE } : {})
  if (!mix) throw unknownObject('matrix')
  return mix
}

/** Matrices of an advertiser, the newest first. */
export async function mixesOf(advertiserId: number): Promise<MixSummary[]> {
  const all = await Mix.findAll({ where: { advertiserId }, order: [['id', 'DESC']] })
  return all.map(({ id, draft }) => ({ id, name: draft.name, kind: draft.kind, words: mixWords(draft) }))
}

/** A matrix with the creative of each of its combinations that there is, and where that is shown. */
export async function mixView(id: number): Promise<MixView> {
  const { advertiserId, draft, version } = await findMix(id)
  const made = await MadeCreative.findAll({ where: { advertiserId, kind: draft.kind }, order: [['id', 'ASC']] })
  const there = new Map(made.map((one) => [asMade(one.parts), one]))
  const ads = await Ad.findAll({ where: { madeCreativeId: made.map((one) => one.id), removed: false } })
  const gone = goneFrom(draft, id, made)
  return {
    id,
    advertiserId,
    version,
    mix: draft,
    made: cellsOf(draft).flatMap((cell) => {
      const one = there.get(asMade(cellParts(draft, cell)))
      if (!one) return []
      return [{ cell: cell.key, creative: one.id, lines: ads.filter((ad) => ad.madeCreativeId === one.id).map(({ lineId }) => lineId) }]
    }),
    stillOn: ads.filter((ad) => gone.has(ad.madeCreativeId ?? 0)).map((ad) => ({ ad: ad.id, line: ad.lineId }))
  }
}

/** Creatives that were made of a matrix and that it would not make as it is now: struck out, taken away or written anew. */
function goneFrom(draft: MixDraft, id: number, made: readonly MadeCreative[]): ReadonlySet<number> {
  const wanted = new Set(cellsOf(draft).flatMap((cell) => (cell.struck ? [] : asMade(cellParts(draft, cell)))))
  return new Set(made.filter(({ mixId, parts }) => mixId === id && !wanted.has(asMade(parts))).map((one) => one.id))
}

/** Parts as they are told apart: two ads that are alike in all of them are one. */
const asMade = (parts: object) => JSON.stringify(Object.entries(parts).sort(([a], [b]) => (a < b ? -1 : 1)))

export async function createMix(sequelize: Sequelize, actor: Actor, advertiserId: number, draft: MixDraft): Promise<MixView> {
  await requireFiles(advertiserId, draft)
  const { id } = await sequelize.transaction(async (transaction) => {
    const mix = await Mix.create({ advertiserId, draft }, { transaction })
    await audit(actor, 'add', { kind: 'mix', id: mix.id, advertiserId }, null, { name: draft.name }, transaction)
    return mix
  })
  return mixView(id)
}

/** Saves a matrix as it is drafted; what was made of it stays as it is. */
export async function saveMix(sequelize: Sequelize, actor: Actor, id: number, version: number, draft: MixDraft): Promise<MixView> {
  await requireFiles((await findMix(id)).advertiserId, draft)
  await sequelize.transaction(async (transaction) => {
    const mix = await findMix(id, transaction)
    if (mix.version !== version) throw stale('matrix', { version: mix.version, mix: mix.draft })
    const was = mix.draft
    await mix.update({ draft, version: version + 1 }, { transaction })
    await audit(
      actor,
      'save',
      { kind: 'mix', id, advertiserId: mix.advertiserId },
      { words: mixWords(was) },
      { words: mixWords(draft) },
      transaction
    )
  })
  return mixView(id)
}

/** Deletes a matrix; what was made of it stays. */
export async function deleteMix(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const mix = await findMix(id, transaction)
    for (const one of await MadeCreative.findAll({ where: { mixId: id }, transaction })) await one.update({ mixId: null }, { transaction })
    await audit(actor, 'delete', { kind: 'mix', id, advertiserId: mix.advertiserId }, mix.draft, null, transaction)
    await mix.destroy({ transaction })
  })
}

/** Files that a matrix names are its advertiser's, and what the slots of its kind take as that part. */
async function requireFiles(advertiserId: number, { kind, pictures, common }: MixDraft): Promise<void> {
  const named = [
    ...pictures.map(({ file }, n) => ({ field: `pictures[${n}].file`, part: 'picture', file: file ?? '' })),
    ...(common.icon === '' ? [] : [{ field: 'common.icon', part: 'icon', file: common.icon }])
  ]
  const files = await StoredFile.findAll({ where: { advertiserId, sha256: named.map(({ file }) => file.replace(/^sha256:/, '')) } })
  const known = new Map(files.map((file) => [contentName(file.sha256), file]))
  const issues = named.flatMap(({ field, part, file }): FieldIssue[] => {
    const found = known.get(file)
    if (!found) return [{ field, message: 'Not a file of this advertiser.' }]
    const message = partProblem({ kind, parts: {} }, part, found.facts)
    return message === null ? [] : [{ field, message: `“${found.name}”: ${message}` }]
  })
  if (issues.length > 0) throw invalid(issues)
}

/** What stops combinations that would be made: of parts that are struck out nothing does. */
function requireMakeable(draft: MixDraft, cells: readonly MixCell[]): void {
  const used = new Set(cells.flatMap(({ headline, picture, text }) => [headline.key, picture?.key ?? '', text.key]))
  const issues = mixFindings(draft)
    .filter(({ severity, axis, key }) => severity === 'stops' && (axis === 'common' || used.has(key)))
    .map(({ axis, key, says }) => ({
      field: axis === 'common' ? `common.${key}` : `${axis}[${draft[axis].findIndex((part) => part.key === key)}]`,
      message: says
    }))
  if (issues.length > 0) throw invalid(issues)
}

/**
 * Makes an ad of every combination that is not struck out, all or none; those that are there already are taken as they are. With a line
 * they are put on it.
 * @param takes what of the matrix is on that line and would not be made any more comes off it
 */
export async function makeMix(
  sequelize: Sequelize,
  actor: Actor,
  id: number,
  { version, line, takes }: { version: number; line: number | null; takes: boolean }
): Promise<MixMade> {
  const { advertiserId } = await findMix(id)
  if (line !== null && (await advertiserOfLine(line)) !== advertiserId) throw invalidField('line', 'Not a line of this advertiser.')
  const counts = await sequelize.transaction(async (transaction) => {
    const mix = await findMix(id, transaction)
    if (mix.version !== version) throw stale('matrix', { version: mix.version, mix: mix.draft })
    const { draft } = mix
    const cells = cellsOf(draft).filter(({ struck }) => !struck)
    if (cells.length === 0) throw conflict('Every combination is struck out: there is no ad to make.')
    requireMakeable(draft, cells)
    const known = await MadeCreative.findAll({ where: { advertiserId, kind: draft.kind }, order: [['id', 'ASC']], transaction })
    const there = new Map(known.map((one) => [asMade(one.parts), one]))
    const names = new Set(known.map(({ name }) => name))
    const ids: number[] = []
    let made = 0
    for (const cell of cells) {
      const parts = cellParts(draft, cell)
      const old = there.get(asMade(parts))
      const one = old ?? (await MadeCreative.create({ ...newCreative(draft, cell, names), advertiserId, mixId: id }, { transaction }))
      if (!old) made++
      there.set(asMade(parts), one)
      ids.push(one.id)
    }
    await audit(actor, 'make', { kind: 'mix', id, advertiserId }, null, { name: draft.name, made, words: mixWords(draft) }, transaction)
    if (line === null) return { made, there: cells.length - made, put: 0, taken: 0 }
    // Whoever puts ads on it or takes them off meanwhile waits.
    await findLine(line, transaction)
    const onIt = await Ad.findAll({ where: { lineId: line, removed: false }, transaction })
    let taken = 0
    if (takes) {
      const ours = await MadeCreative.findAll({ where: { mixId: id }, transaction })
      const gone = goneFrom(draft, id, ours)
      for (const ad of onIt.filter(({ madeCreativeId }) => gone.has(madeCreativeId ?? 0))) {
        await ad.update({ removed: true }, { transaction })
        taken++
      }
    }
    const shown = new Set(onIt.map(({ madeCreativeId }) => madeCreativeId))
    const fresh = [...new Set(ids)].filter((one) => !shown.has(one))
    if (fresh.length > 0) await addMadeIn(actor, { lineId: line, advertiserId }, fresh, transaction)
    return { made, there: cells.length - made, put: fresh.length, taken }
  })
  return { ...counts, view: await mixView(id) }
}

/** A creative of a combination, checked like any other; its name is its own. */
function newCreative(draft: MixDraft, cell: MixCell, names: Set<string>): CreativeDraft {
  const called = cellName(draft, cell)
  let name = called
  for (let n = 2; names.has(name); n++) name = `${called} (${n})`
  names.add(name)
  return parseInput(creativeSchema, { name, kind: draft.kind, parts: cellParts(draft, cell) })
}
