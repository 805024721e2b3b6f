import type { Sequelize } from 'sequelize'
import type { LineDraft } from '@tin-harbor/core/buying'
import { plateFindings, plateParts, pictureProblem, problemOf, type FileFacts, type Plate as PlateDraft } from '@tin-harbor/core/creative'
import { shapesOf } from '@tin-harbor/core/taxonomy'
import { valuesOf } from '@tin-harbor/core/targeting'
import type { PlateDrawn, PlateMade } from '@tin-harbor/core/contract'
import { addFile } from '../creatives/creatives.js'
import { replaceFile } from '../creatives/replacing.js'
import type { Deps } from '../deps.js'
import { findFile, linesShowing, takeData } from '../files/library.js'
import type { StoredFile } from '../files/file-model.js'
import { conflict, invalid, invalidField, stale } from '../http/errors.js'
import { advertiserOfLine, findLine } from '../lines/lines.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { drawPlate, shrunk, sizeWords, type Drawn } from './drawing.js'
import type { Plate } from './plate-model.js'
import { filesBuiltOf, findPlate, picturesOf, plateView } from './plates.js'

type Pictures = Awaited<ReturnType<typeof picturesOf>>

async function drawnOf({ store }: Pick<Deps, 'store'>, draft: PlateDraft, { image, cover }: Pictures): Promise<Drawn[]> {
  const content = async (file: StoredFile | null) => (file ? shrunk(await store.read(file.sha256)) : null)
  return drawPlate(draft, { image: await content(image), cover: await content(cover) })
}

/** A plate as it is typed, in all its sizes. */
export async function previewPlate(deps: Pick<Deps, 'store'>, plateId: number, draft: PlateDraft): Promise<PlateDrawn[]> {
  const { advertiserId } = await findPlate(plateId)
  const drawn = await drawnOf(deps, draft, await picturesOf(advertiserId, draft))
  return drawn.map(({ built, data, times }) => ({
    shape: built.shape as PlateDraft['sizes'][number],
    width: built.width,
    height: built.height,
    times,
    bytes: data?.length ?? 0,
    png: data?.toString('base64') ?? null,
    without: built.without,
    problem: built.problem
  }))
}

/**
 * Makes pictures of a plate in all its sizes, files of the library each; those that are there already are taken as they are.
 * @param line that they are put on where it buys their slot
 * @param replaces pictures of the plate of before go: each is taken off its lines, and the new one of its size put there, to be reviewed
 */
export async function makePlate(
  deps: Deps,
  actor: Actor,
  plateId: number,
  { version, line, replaces }: { version: number; line: number | null; replaces: boolean }
): Promise<PlateMade> {
  const { sequelize } = deps
  const plate = await findPlate(plateId)
  const { advertiserId, draft } = plate
  if (plate.version !== version) throw stale('plate', { version: plate.version, plate: draft })
  if (line !== null && (await advertiserOfLine(line)) !== advertiserId) throw invalidField('line', 'Not a line of this advertiser.')
  const stops = plateFindings(draft).filter(({ severity }) => severity === 'stops')
  if (stops.length > 0) throw invalid(stops.map(({ part, says }) => ({ field: `plate.${part}`, message: says })))
  const pictures = await picturesOf(advertiserId, draft)
  const drawn = await drawnOf(deps, draft, pictures)
  const refused = drawn.flatMap(({ built }) => (built.problem === null ? [] : [{ shape: built.shape as string, says: built.problem }]))
  if (refused.length === drawn.length) throw conflict(`In no size can it be built: ${refused[0].shape}: ${refused[0].says}`)
  const files = await takeAll(deps, actor, plate, { drawn, pictures })
  const replaced = replaces ? await replaceEarlier(deps, actor, plate, files) : 0
  const { put, others } = line === null ? { put: 0, others: [] } : await putOn(sequelize, actor, line, { advertiserId, files })
  const made = files.filter(({ wasKnown }) => !wasKnown).length
  await sequelize.transaction((transaction) =>
    audit(actor, 'make', { kind: 'plate', id: plateId, advertiserId }, null, { name: draft.name, made, put, replaced, line }, transaction)
  )
  return { made, there: files.length - made, put, replaced, refused: [...refused, ...others], view: await plateView(plateId) }
}

type Taken = Pick<StoredFile, 'id' | 'sha256' | 'facts' | 'built'> & { wasKnown: boolean }

async function takeAll(
  deps: Deps,
  actor: Actor,
  { advertiserId, draft, id }: Plate,
  { drawn, pictures: { image, cover } }: { drawn: readonly Drawn[]; pictures: Pictures }
): Promise<Taken[]> {
  const taken: Taken[] = []
  for (const { built, data } of drawn) {
    if (!data) continue
    const origin = { plate: id, shape: built.shape, parts: plateParts(draft) }
    const { file, wasKnown } = await takeData(deps, actor, advertiserId, {
      name: `${draft.name} ${sizeWords(built.shape, built)}.png`,
      data,
      made: {
        from: (image ?? cover)?.id ?? null,
        how: `built of “${draft.name}”, ${draft.layout}: ${draft.headline.trim()}`,
        built: origin
      }
    })
    // Another plate may have made the same picture: it is this one's now.
    if (wasKnown)
      await deps.sequelize.transaction(async (transaction) =>
        (await findFile(file.id, transaction)).update({ built: origin }, { transaction })
      )
    taken.push({ id: file.id, sha256: file.sha256, facts: file.facts, built: origin, wasKnown })
  }
  return taken
}

/** Puts new pictures in the places of earlier ones of the same size. @returns how many gave way */
async function replaceEarlier({ sequelize }: Deps, actor: Actor, plate: Plate, files: readonly Taken[]): Promise<number> {
  const ours = new Set(files.map(({ id }) => id))
  let replaced = 0
  for (const old of await filesBuiltOf(plate)) {
    const by = files.find(({ built }) => built?.shape === old.built?.shape)
    if (!by || ours.has(old.id)) continue
    const { version } = await findFile(old.id)
    await replaceFile(sequelize, actor, old.id, { by: by.id, version })
    replaced++
  }
  return replaced
}

/** Puts pictures on a line where it buys their slot, and says why the others are not put there. */
async function putOn(
  sequelize: Sequelize,
  actor: Actor,
  lineId: number,
  { advertiserId, files }: { advertiserId: number; files: readonly Taken[] }
): Promise<{ put: number; others: PlateMade['refused'] }> {
  const { draft } = await findLine(lineId)
  const shown = await linesShowing(advertiserId)
  const others: PlateMade['refused'] = []
  let put = 0
  for (const { id, sha256, facts, built } of files) {
    if (shown.get(sha256)?.includes(lineId)) continue
    const says = lineProblem(draft, facts)
    if (says === null) {
      await addFile(sequelize, actor, lineId, id)
      put++
    } else others.push({ shape: built?.shape ?? '', says })
  }
  return { put, others }
}

/** What keeps a picture off a line; null where nothing does. */
function lineProblem({ targeting, format }: LineDraft, facts: FileFacts): string | null {
  if (format !== 'display') return `The line buys ${format}.`
  const sizes = valuesOf(targeting, 'size')
  const shapes = shapesOf(format).filter((shape) => sizes.length === 0 || sizes.includes(shape))
  return shapes.some((shape) => problemOf(facts, [shape]) === null) ? null : (pictureProblem(facts, sizes) ?? 'The line buys no such slot.')
}
