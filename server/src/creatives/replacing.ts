import type { Sequelize, Transaction } from 'sequelize'
import { filesNamed, fittingShapes, partProblem } from '@tin-harbor/core/creative'
import type { FileReplaced } from '@tin-harbor/core/contract'
import { plainTerms, termsOfAd } from '@tin-harbor/core/buying'
import { findLine } from '../lines/lines.js'
import { stopsOf } from '../feeds/stops.js'
import { StoredFile } from '../files/file-model.js'
import { contentName, fileView, findFile } from '../files/library.js'
import { invalid, invalidField, stale } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { Ad, Creative } from './creative-model.js'
import { MadeCreative } from './made-creative-model.js'
import { showing } from './showing.js'

/** What an ad made of parts becomes with another file in the place of one; what is known of a film goes with it. */
function partsWith({ kind, parts }: MadeCreative, was: StoredFile, by: StoredFile): Record<string, unknown> {
  const changed = Object.entries(parts).map(([part, value]) => [
    part,
    value === contentName(was.sha256) ? contentName(by.sha256) : (value as unknown)
  ])
  const { width, height, seconds } = by.facts
  const known = kind === 'video' ? { width, height, seconds } : kind === 'audio' ? { seconds } : {}
  return { ...(Object.fromEntries(changed) as Record<string, unknown>), ...known }
}

/** What keeps a file out of an ad that shows another now; null when nothing does. */
function madeProblem(made: MadeCreative, was: StoredFile, by: StoredFile): string | null {
  const { name, kind } = made
  const parts = partsWith(made, was, by)
  const part = filesNamed(made).find(({ sha256 }) => sha256 === was.sha256)?.part ?? 'file'
  const problem = partProblem({ kind, parts }, part, by.facts)
  if (problem !== null) return problem
  const now = fittingShapes({ name, kind, parts })
  const lost = fittingShapes(made).filter((shape) => !now.includes(shape))
  return lost.length === 0 ? null : `Slots would go without: ${lost.join(', ')}.`
}

/**
 * Takes ads that show one creative off their lines and puts ads that show another in their places, to be reviewed; what a line's draft says
 * of an ad goes with it.
 * @returns the new ads, in the order of the old
 */
export async function swapAds(
  ads: readonly Ad[],
  shows: { creativeId: number } | { madeCreativeId: number },
  transaction: Transaction
): Promise<Ad[]> {
  const swapped: Ad[] = []
  const stops = await stopsOf('madeCreativeId' in shows ? [shows.madeCreativeId] : [], transaction)
  const stopped = [...stops.values()][0] ?? null
  for (const ad of ads) {
    await ad.update({ removed: true }, { transaction })
    // What serves goes on until the new one is cleared, however often it is replaced before.
    const replaces = ad.clearedLandings === null ? ad.replaces : ad.id
    const next = await Ad.create({ lineId: ad.lineId, review: 'draft', stopped, replaces, ...shows }, { transaction })
    swapped.push(next)
    const line = await findLine(ad.lineId, transaction)
    const terms = plainTerms({ ...termsOfAd(line.draft, ad.id), ad: next.id })
    if (terms)
      await line.update({ draft: { ...line.draft, ads: [...(line.draft.ads ?? []), terms] }, version: line.version + 1 }, { transaction })
  }
  return swapped
}

/**
 * Puts a file in the place of another wherever that is shown, or nowhere: each ad is another ad then, which goes to review before it
 * serves; lines in force go on with what they have until they are put live again. The one before is retired, and told as what it was.
 * @throws all that keeps it out, by ad
 */
export async function replaceFile(
  sequelize: Sequelize,
  actor: Actor,
  fileId: number,
  wanted: { by: number; version: number }
): Promise<FileReplaced> {
  const changed = await sequelize.transaction(async (transaction) => {
    const was = await findFile(fileId, transaction)
    if (was.version !== wanted.version) throw stale('file', await fileView(fileId))
    const by = await StoredFile.findByPk(wanted.by, { transaction, lock: transaction.LOCK.UPDATE })
    const { advertiserId } = was
    if (by?.advertiserId !== advertiserId || by.id === was.id) throw invalidField('by', 'Not another file of this advertiser.')
    if (by.retired) throw invalidField('by', `“${by.name}” is retired; offer it again first.`)
    if (by.medium !== was.medium)
      throw invalidField('by', `“${by.name}” is a ${by.medium}; a ${was.medium} takes the place of a ${was.medium}.`)
    const all = await showing(was, transaction)
    const shown = all.ads.filter(({ removed }) => !removed)
    const adsOf = (name: 'creativeId' | 'madeCreativeId', id: number) => shown.filter((ad) => ad[name] === id)
    const pictures = all.pictures.filter(({ id }) => adsOf('creativeId', id).length > 0)
    const made = all.made.filter(({ id }) => adsOf('madeCreativeId', id).length > 0)
    const problems = [
      ...pictures.map(({ name, slotSize: size }) => ({ name, says: partProblem({ kind: 'picture', parts: { size } }, 'file', by.facts) })),
      ...made.map((one) => ({ name: one.name, says: madeProblem(one, was, by) }))
    ].filter(({ says }) => says !== null)
    // Lines that show the same picture say the same of it.
    const messages = [...new Set(problems.map(({ name, says }) => `“${name}”: ${says}`))]
    if (messages.length > 0) throw invalid(messages.map((message) => ({ field: 'by', message })))
    for (const { id, slotSize } of pictures) {
      const { name, bytes, facts } = by
      const { type, width, height } = facts
      const own = { advertiserId, name, type, width: width ?? 0, height: height ?? 0, bytes, slotSize, sha256: by.sha256 }
      await swapAds(adsOf('creativeId', id), { creativeId: (await Creative.create(own, { transaction })).id }, transaction)
    }
    for (const one of made) {
      const { name, kind } = one
      const next = await MadeCreative.create(
        { advertiserId, name, kind, parts: partsWith(one, was, by), version: one.version + 1 },
        { transaction }
      )
      await swapAds(adsOf('madeCreativeId', one.id), { madeCreativeId: next.id }, transaction)
    }
    await was.update({ retired: true, replacedBy: by.id, version: was.version + 1 }, { transaction })
    await audit(
      actor,
      'replace',
      { kind: 'file', id: was.id, advertiserId },
      { name: was.name },
      { name: by.name, ads: shown.length },
      transaction
    )
    return { ads: shown.length, lines: [...new Set(shown.map(({ lineId }) => lineId))].sort((a, b) => a - b) }
  })
  return { ...changed, was: await fileView(fileId), by: await fileView(wanted.by) }
}
