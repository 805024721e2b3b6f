import type { AdPreview, LinePreview } from '@tin-harbor/core/contract'
import { filesNamed } from '@tin-harbor/core/creative'
import { termsOfAd } from '@tin-harbor/core/buying'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Creative, Ad } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { StoredFile } from '../files/file-model.js'
import { unknownObject } from '../http/errors.js'
import { adsOf, advertiserOfLine, findLine } from '../lines/lines.js'
import type { Sandbox } from '../sandbox/sandbox.js'

/** A content as a part of an ad. */
interface Part {
  part: string
  sha256: string
}

/** The newest picture of a library that has the pixels of a companion. */
async function companionOf(advertiserId: number, size: unknown): Promise<Part[]> {
  if (typeof size !== 'string') return []
  const files = await StoredFile.findAll({ where: { advertiserId, medium: 'picture', retired: false }, order: [['id', 'DESC']] })
  const file = files.find(({ facts }) => `${facts.width}x${facts.height}` === size)
  return file ? [{ part: 'companion', sha256: file.sha256 }] : []
}

/** Contents that the ads of a line show, by the ad, each as the part that it is. */
export async function filesOfLine(lineId: number): Promise<Map<number, Part[]>> {
  const ads = await Ad.findAll({ where: { lineId, removed: false } })
  const pictures = new Map(
    (await Creative.findAll({ where: { id: ads.flatMap(({ creativeId }) => creativeId ?? []) } })).map((one) => [one.id, one])
  )
  const made = new Map(
    (await MadeCreative.findAll({ where: { id: ads.flatMap(({ madeCreativeId }) => madeCreativeId ?? []) } })).map((one) => [one.id, one])
  )
  const found = new Map<number, Part[]>()
  for (const { id, creativeId, madeCreativeId } of ads) {
    const picture = pictures.get(creativeId ?? 0)
    const one = made.get(madeCreativeId ?? 0)
    if (picture) found.set(id, [{ part: 'file', sha256: picture.sha256 }])
    else if (one)
      found.set(id, [...filesNamed(one), ...(await companionOf(one.advertiserId, (one.parts as { companion?: unknown }).companion))])
  }
  return found
}

/** A file that some ad of a line shows; nothing else of the library is reached through a line. */
export async function fileShown(lineId: number, sha256: string): Promise<StoredFile> {
  const shown = [...(await filesOfLine(lineId)).values()].flat()
  const file = shown.some((one) => one.sha256 === sha256)
    ? await StoredFile.findOne({ where: { advertiserId: await advertiserOfLine(lineId), sha256 } })
    : null
  if (!file) throw unknownObject('file')
  return file
}

/** All that is needed to see the ads of a line where they will stand. */
export async function previewOf(lineId: number, sandbox: Sandbox): Promise<LinePreview> {
  const { draft } = await findLine(lineId)
  const advertiser = await Advertiser.findByPk(await advertiserOfLine(lineId), { rejectOnEmpty: true })
  const ads = await adsOf(lineId)
  const files = await filesOfLine(lineId)
  const hashes = [...files.values()].flatMap((own) => own.map(({ sha256 }) => sha256))
  const stored = new Map(
    (await StoredFile.findAll({ where: { advertiserId: advertiser.id, sha256: hashes } })).map((file) => [file.sha256, file])
  )
  const made = new Map(
    (await MadeCreative.findAll({ where: { id: ads.flatMap(({ madeCreativeId }) => madeCreativeId ?? []) } })).map((one) => [one.id, one])
  )
  return {
    advertiser: advertiser.name,
    format: draft.format,
    ads: ads.map(({ id, name, shapes, review, madeCreativeId }): AdPreview => {
      const one = made.get(madeCreativeId ?? 0)
      const own = files.get(id) ?? []
      const named = new Set(own.map(({ part }) => part))
      const banner = one?.kind === 'html5' ? stored.get(own[0]?.sha256 ?? '') : undefined
      return {
        id,
        name,
        kind: one?.kind ?? 'picture',
        shapes,
        review,
        isOff: termsOfAd(draft, id).off === true,
        landing: termsOfAd(draft, id).landing ?? draft.landing,
        said: Object.entries(one?.parts ?? {}).flatMap(([part, value]: [string, unknown]) =>
          named.has(part) || part === 'markup' || (typeof value !== 'string' && typeof value !== 'number')
            ? []
            : [{ part, value: String(value) }]
        ),
        files: own.flatMap(({ part, sha256 }) => {
          const file = stored.get(sha256)
          if (!file) return []
          const { width, height, seconds } = file.facts
          return [
            { part, sha256, medium: file.medium, altText: file.altText || file.name, width, height, seconds, hasProxy: file.proxy !== null }
          ]
        }),
        runs:
          one?.kind === 'markup'
            ? sandbox.open({ kind: 'creative', id: one.id }, 'tag.html').address
            : banner?.facts.banner
              ? sandbox.open({ kind: 'file', id: banner.id }, banner.facts.banner.entry).address
              : null
      }
    })
  }
}
