import { joinedTails, landingSteps, linksOf, withTail, type LandingStep, type LineDraft } from '@tin-harbor/core/buying'
import { exampleLink, filesNamed, partProblem, textFindings, type CreativeKind } from '@tin-harbor/core/creative'
import type { Reviewed } from '@tin-harbor/core/review'
import type { Advertiser } from '../advertisers/advertiser-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import type { Campaign } from '../campaigns/campaign-model.js'
import type { ContentStore } from '../files/content-store.js'
import { StoredFile } from '../files/file-model.js'
import type { AdShown } from '../lines/ads-shown.js'
import { landingsAround, type LandingsAround } from '../links/landing.js'
import { isUnseen, type ReadyAd } from './seen.js'
import { toneContrast } from './tones.js'

/** Parts that are names of files or choices, and no text that somebody reads. */
const NO_TEXT = new Set(['size', 'file', 'link', 'markup', 'companion', 'endCard', 'icon', 'picture'])

/** What the ads of a line have in common. */
export interface AdsAround {
  store: ContentStore
  advertiser: Advertiser
  campaign: Campaign
  landings: LandingsAround
  about: string | null
}

export async function adsAround(store: ContentStore, advertiser: Advertiser, campaign: Campaign): Promise<AdsAround> {
  const tracker = (await Tracker.findAll({ where: { advertiserId: advertiser.id }, order: [['id', 'ASC']] })).find(
    ({ subject }) => subject !== null
  )
  return { store, advertiser, campaign, landings: await landingsAround(campaign), about: tracker?.subject ?? null }
}

/** What an ad shows: its kind, its parts, and the files that they name. */
function contentOf({ picture, made }: AdShown): {
  name: string
  kind: CreativeKind
  parts: object
  files: { part: string; sha256: string }[]
} {
  if (picture) {
    const { name, slotSize, sha256 } = picture
    return { name, kind: 'picture', parts: { size: slotSize }, files: [{ part: 'file', sha256 }] }
  }
  if (!made) throw new Error('An ad has no creative.')
  return { name: made.name, kind: made.kind, parts: made.parts, files: filesNamed(made) }
}

/** Where people land from an ad as a draft says it: a pop page is its own link. */
const landingsOf = (draft: LineDraft, { ad }: AdShown, parts: object, around: LandingsAround): LandingStep[] => {
  const { link } = parts as { link?: string }
  return link ? [{ level: 'ad', landings: [{ countries: [], devices: [], link }] }] : landingSteps(draft, ad.id, around)
}

/** Ads of a draft whose links were not cleared as they are, or that nobody looked at at all; each as it is shown. */
export const unseenAds = (around: AdsAround, draft: LineDraft, shown: readonly AdShown[]): Promise<ReadyAd[]> =>
  readyAds(
    around,
    draft,
    shown.filter((one) => isUnseen(one.ad, { landings: landingsOf(draft, one, contentOf(one).parts, around.landings) }))
  )

/** Ads as they are shown to whoever reviews them. */
export async function readyAds(around: AdsAround, draft: LineDraft, shown: readonly AdShown[]): Promise<ReadyAd[]> {
  const sha256 = [...new Set(shown.flatMap((one) => contentOf(one).files.map((file) => file.sha256)))]
  const where = { advertiserId: around.advertiser.id, sha256 }
  const files = new Map((await StoredFile.findAll({ where })).map((file) => [file.sha256, file]))
  const ready: ReadyAd[] = []
  for (const one of shown) ready.push(await readyAd(around, draft, one, files))
  return ready
}

async function readyAd(
  { store, advertiser, campaign, landings: other, about }: AdsAround,
  draft: LineDraft,
  one: AdShown,
  files: ReadonlyMap<string, StoredFile>
): Promise<ReadyAd> {
  const { name, kind, parts, files: named } = contentOf(one)
  const landings = landingsOf(draft, one, parts, other)
  // What is added to links is no part of what is cleared; that the page answers is looked at with it.
  const tail = joinedTails(advertiser.linkTail, campaign.linkTail)
  const tones: Reviewed['tones'][number][] = []
  const outside = textFindings({ kind, parts })
  const texts = textsOf(parts)
  for (const { part, sha256 } of named) {
    const file = files.get(sha256)
    if (!file) continue
    const problem = partProblem({ kind, parts }, part, file.facts)
    if (problem !== null) outside.push(problem)
    if (file.built) texts.push(...builtTexts(file.built.parts))
    if (file.medium === 'picture' && part !== 'icon') tones.push({ part, contrast: await toneContrast(store, sha256).catch(() => 1) })
  }
  const links = linksOf(landings).map((link) => exampleLink(withTail(link, tail)))
  const { note } = campaign
  const reviewed = { kind, name, advertiser: advertiser.name, domain: advertiser.domain, texts, outside, tones, links, about, note }
  return { ad: one.ad.id, reviewed, landings }
}

const textsOf = (parts: object): { part: string; text: string }[] =>
  Object.entries(parts).flatMap(([part, value]: [string, unknown]) =>
    typeof value === 'string' && value !== '' && !NO_TEXT.has(part) ? [{ part, text: value }] : []
  )

/** What is written on a picture that was built here. */
const builtTexts = ({ headline, text }: { headline: string; text: string | null }) => [
  { part: 'headline', text: headline },
  ...(text === null ? [] : [{ part: 'text', text }])
]
