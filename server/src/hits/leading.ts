import { randomInt } from 'node:crypto'
import { LRUCache } from 'lru-cache'
import { joinedTails, landingFor, linkOfPreview, withTail, type Lander, type LandingStep } from '@tin-harbor/core/buying'
import { filledLink } from '@tin-harbor/core/creative'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { Ad } from '../creatives/creative-model.js'
import { adView, adsShownOn } from '../lines/ads-shown.js'
import { findLine } from '../lines/lines.js'
import { landingsAround, stepsOf } from '../links/landing.js'
import type { StandInSites } from '../standins/sites.js'
import type { Leads } from './ids.js'
import { whereOf, type Impressions } from './impressions.js'

/** How long a link is used without looking whether it changed, and links that are remembered. */
const [LASTS_MS, MOST_LINKS] = [2000, 2000]

interface AdLink {
  /** A pop page is its own link. */
  own: string | null
  /** As its line's draft says, which previews show; and as it was cleared, which serves. */
  steps: readonly LandingStep[]
  cleared: readonly LandingStep[]
  tail: string
  values: Readonly<Record<string, string>>
}

/** The links of an ad with their tails, and what their macros are filled in with. */
async function linkOf(id: number): Promise<AdLink | null> {
  const ad = await Ad.findByPk(id)
  if (!ad) return null
  const { draft, campaignId } = await findLine(ad.lineId)
  const campaign = await findCampaign(campaignId)
  const advertiser = await Advertiser.findByPk(campaign.advertiserId, { rejectOnEmpty: true })
  const shown = (await adsShownOn(ad.lineId)).find((one) => one.ad.id === id)
  const { link } = (shown?.made?.parts ?? {}) as { link?: string }
  return {
    own: link ?? null,
    steps: stepsOf(draft, id, await landingsAround(campaign)),
    cleared: ad.clearedLandings ?? [],
    tail: joinedTails(advertiser.linkTail, campaign.linkTail),
    values: {
      ADVERTISER_ID: String(advertiser.id),
      CAMPAIGN_ID: String(campaign.id),
      CAMPAIGN_NAME: campaign.name,
      LINE_ID: String(ad.lineId),
      LINE_NAME: draft.name,
      AD_ID: String(id),
      CREATIVE_ID: String(ad.madeCreativeId ?? ad.creativeId ?? ''),
      CREATIVE_NAME: shown ? adView(shown).name : ''
    }
  }
}

/**
 * Says where clicks lead: the link comes from the ad's own row, so that nobody who writes an address leads people elsewhere; macros are
 * filled in behind the host, by what was shown.
 */
export function clickLeads(impressions: Impressions, sites: StandInSites): Leads {
  const links = new LRUCache<number, AdLink>({ max: MOST_LINKS, ttl: LASTS_MS })

  /** What was shown, to whom. */
  async function shownBy(subject: Parameters<Leads>[0]): Promise<{ ad: number; who: Lander; values: Record<string, string> } | null> {
    if (subject.kind === 'test') return null
    if (subject.kind === 'preview') return { ad: subject.ad, who: { country: null, device: null }, values: {} }
    const found = await impressions.of(subject.hour, subject.place)
    if (!found) return null
    const { COUNTRY: country, DEVICE: device } = whereOf(found.seen)
    return { ad: found.ad, who: { country, device }, values: { ...(await impressions.valuesOf(found)), COUNTRY: country, DEVICE: device } }
  }

  return async (subject, id, passed) => {
    const shown = await shownBy(subject)
    const ad = shown && (links.get(shown.ad) ?? (await linkOf(shown.ad)))
    if (!shown || !ad) return null
    links.set(shown.ad, ad)
    const link = subject.kind === 'preview' ? (ad.own ?? linkOfPreview(ad.steps)) : landingFor(ad.cleared, shown.who)?.link
    if (!link) return null
    const values: Readonly<Record<string, string>> = {
      ...ad.values,
      ...shown.values,
      ...passed,
      CLICK_ID: id,
      TIMESTAMP: new Date().toISOString(),
      CACHEBUSTING: String(randomInt(10_000_000, 100_000_000))
    }
    const filled = filledLink(withTail(link, ad.tail), (name) => values[name])
    return sites.addressOf(new URL(filled)) ?? filled
  }
}
