import type { AdPreview, LinePreview } from '@tin-harbor/core/contract'
import { filesNamed } from '@tin-harbor/core/creative'
import { linkOfPreview, termsOfAd } from '@tin-harbor/core/buying'
import { Advertiser } from '../advertisers/advertiser-model.js'
import type { MadeCreative } from '../creatives/made-creative-model.js'
import { StoredFile } from '../files/file-model.js'
import { unknownObject } from '../http/errors.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { adView, adsShownOn, type AdShown } from '../lines/ads-shown.js'
import { advertiserOfLine, findLine } from '../lines/lines.js'
import { landingsAround, stepsOf } from '../links/landing.js'
import { PAGE } from '../sandbox/page-shown.js'
import type { Deps } from '../deps.js'

/** A content as a part of an ad. */
interface Part {
  part: string
  sha256: string
}

/** The size of the companion that a creative wants beside it. */
function companionSize(made: MadeCreative | undefined): string | null {
  const { companion } = (made?.parts ?? {}) as { companion?: unknown }
  return typeof companion === 'string' ? companion : null
}

/** The newest picture of the library that has the pixels of a companion, for each size that is wanted. */
async function companionsOf(shown: readonly AdShown[]): Promise<Map<string, string>> {
  const advertiserId = shown.find(({ made }) => companionSize(made) !== null)?.made?.advertiserId
  if (advertiserId === undefined) return new Map()
  const where = { advertiserId, medium: 'picture', retired: false }
  const files = await StoredFile.findAll({ attributes: ['sha256', 'facts'], where, order: [['id', 'ASC']] })
  return new Map(files.map(({ sha256, facts }) => [`${facts.width}x${facts.height}`, sha256]))
}

/** Contents that ads of one line show, by the ad, each as the part that it is. */
export async function contentsOf(shown: readonly AdShown[]): Promise<Map<number, Part[]>> {
  const companions = await companionsOf(shown)
  return new Map(
    shown.map(({ ad, picture, made }) => {
      if (picture) return [ad.id, [{ part: 'file', sha256: picture.sha256 }]]
      const companion = companions.get(companionSize(made) ?? '')
      return [ad.id, [...(made ? filesNamed(made) : []), ...(companion ? [{ part: 'companion', sha256: companion }] : [])]]
    })
  )
}

/** A file that some ad of a line shows; nothing else of the library is reached through a line. */
export async function fileShown(lineId: number, sha256: string): Promise<StoredFile> {
  const contents = [...(await contentsOf(await adsShownOn(lineId))).values()].flat()
  const file = contents.some((one) => one.sha256 === sha256)
    ? await StoredFile.findOne({ where: { advertiserId: await advertiserOfLine(lineId), sha256 } })
    : null
  if (!file) throw unknownObject('file')
  return file
}

/** All that is needed to see the ads of a line where they will stand. */
export async function previewOf(lineId: number, { sandbox, hits }: Pick<Deps, 'sandbox' | 'hits'>): Promise<LinePreview> {
  const { draft, campaignId } = await findLine(lineId)
  const campaign = await findCampaign(campaignId)
  const around = await landingsAround(campaign)
  const advertiser = await Advertiser.findByPk(campaign.advertiserId, { rejectOnEmpty: true })
  const shown = await adsShownOn(lineId)
  const files = await contentsOf(shown)
  const hashes = [...files.values()].flatMap((own) => own.map(({ sha256 }) => sha256))
  const stored = new Map(
    (await StoredFile.findAll({ where: { advertiserId: advertiser.id, sha256: hashes } })).map((file) => [file.sha256, file])
  )
  return {
    advertiser: advertiser.name,
    format: draft.format,
    ads: shown.map((one): AdPreview => {
      const { id, name, shapes, review } = adView(one)
      const { made } = one
      const own = files.get(id) ?? []
      const named = new Set(own.map(({ part }) => part))
      const banner = made?.kind === 'html5' ? stored.get(own[0]?.sha256 ?? '') : undefined
      return {
        id,
        name,
        kind: made?.kind ?? 'picture',
        shapes,
        review,
        isOff: termsOfAd(draft, id).off === true || one.ad.stopped != null,
        landing: linkOfPreview(stepsOf(draft, id, around)),
        click: hits.clickOf(id),
        said: Object.entries(made?.parts ?? {}).flatMap(([part, value]: [string, unknown]) =>
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
          made?.kind === 'markup'
            ? sandbox.open({ kind: 'creative', id: made.id }, 'tag.html').address
            : made?.kind === 'pop page' || made?.kind === 'redirect'
              ? sandbox.open({ kind: 'creative', id: made.id }, PAGE).address
              : banner?.facts.banner
                ? sandbox.open({ kind: 'file', id: banner.id }, banner.facts.banner.entry).address
                : null
      }
    })
  }
}
