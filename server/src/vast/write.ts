import { joinedTails, linkOfPreview, withTail } from '@tin-harbor/core/buying'
import { vastLink, vastOf } from '@tin-harbor/core/creative'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { StoredFile } from '../files/file-model.js'
import type { HitDesk } from '../hits/hit-desk.js'
import { AppError, unknownObject } from '../http/errors.js'
import { adsShownOn } from '../lines/ads-shown.js'
import { findLine } from '../lines/lines.js'
import { landingsAround, stepsOf } from '../links/landing.js'
import { viewPointOf } from '../lines/view-points.js'
import { contentsOf } from '../previews/preview.js'

interface FilmParts {
  file: string
  seconds: number
  skipAfter?: number | null
  overlay?: string | null
  overlayFrom?: number | null
  tagline?: string | null
  button?: string | null
}

/**
 * A film or a spot of a line as VAST.
 * @param contentOf address under which a content is had by whoever plays it
 */
export async function vastOfAd(
  hits: HitDesk,
  { lineId, adId, origin }: { lineId: number; adId: number; origin: string },
  contentOf: (sha256: string) => string
): Promise<string> {
  const shown = (await adsShownOn(lineId)).find(({ ad }) => ad.id === adId)
  const made = shown?.made
  if (!made) throw unknownObject('ad')
  if (made.kind !== 'video' && made.kind !== 'audio')
    throw new AppError(422, 'invalid', `“${made.name}” is neither a film nor a spot: VAST is for these.`)
  const { file, seconds, skipAfter, overlay, overlayFrom, tagline, button } = made.parts as FilmParts
  const { draft, campaignId } = await findLine(lineId)
  const campaign = await findCampaign(campaignId)
  const { advertiserId } = campaign
  const advertiser = await Advertiser.findByPk(advertiserId, { rejectOnEmpty: true })
  const sha256 = file.replace(/^sha256:/, '')
  const stored = await StoredFile.findOne({ where: { advertiserId, sha256 } })
  const besides = (await contentsOf([shown])).get(adId) ?? []
  const files = await StoredFile.findAll({ where: { advertiserId, sha256: besides.map((one) => one.sha256) } })
  const still = (part: string) => {
    const found = files.find((one) => one.sha256 === besides.find((other) => other.part === part)?.sha256)
    if (!found) return null
    const { type, width, height } = found.facts
    return { address: contentOf(found.sha256), type, width: width ?? 0, height: height ?? 0 }
  }
  // Each document is a showing of its own.
  const id = hits.previewOf(adId)
  const point = viewPointOf(draft, seconds) ?? 1000
  return vastOf({
    id: adId,
    title: made.name,
    advertiser: advertiser.name,
    seconds,
    skipAfter: skipAfter ?? null,
    viewedAt: point >= 1000 ? null : (point * seconds) / 1000,
    landing: vastLink(
      withTail(linkOfPreview(stepsOf(draft, adId, await landingsAround(campaign))), joinedTails(advertiser.linkTail, campaign.linkTail))
    ),
    media: {
      address: stored ? contentOf(sha256) : file,
      type: stored?.facts.type ?? (made.kind === 'video' ? 'video/mp4' : 'audio/mpeg'),
      width: stored?.facts.width ?? null,
      height: stored?.facts.height ?? null,
      kbps: stored ? (stored.bytes * 8) / 1000 / seconds : null
    },
    companion: still('companion'),
    icon: still('icon'),
    endCard: still('endCard'),
    overlay: overlay ? { text: overlay, from: overlayFrom ?? 0 } : null,
    tagline: [tagline, button].filter(Boolean).join(' ') || null,
    events: `${origin}/e/${id}`
  })
}
