import { randomInt } from 'node:crypto'
import { LRUCache } from 'lru-cache'
import type { Sequelize } from 'sequelize'
import { joinedTails, landingOf, withTail } from '@tin-harbor/core/buying'
import { filledLink } from '@tin-harbor/core/creative'
import type { LogColumns } from '@tin-harbor/core/exchange'
import { SOURCES } from '@tin-harbor/core/market'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { Ad } from '../creatives/creative-model.js'
import { readWins } from '../delivery/log.js'
import { adView, adsShownOn, findLine } from '../lines/lines.js'
import { placementName, type Catalogue } from '../market/catalogue.js'
import type { StandInSites } from '../standins/sites.js'
import type { Leads } from './ids.js'

/** How long a link is used without looking whether it changed, and links that are remembered. */
const [LASTS_MS, MOST_LINKS] = [10_000, 2000]
/** Hours of the log that are kept open for their clicks. */
const MOST_HOURS = 4

interface AdLink {
  link: string
  values: Readonly<Record<string, string>>
}

/** The link of an ad with its tails, and what its macros are filled in with. */
async function linkOf(id: number): Promise<AdLink | null> {
  const ad = await Ad.findByPk(id)
  if (!ad) return null
  const { draft, campaignId } = await findLine(ad.lineId)
  const campaign = await findCampaign(campaignId)
  const advertiser = await Advertiser.findByPk(campaign.advertiserId, { rejectOnEmpty: true })
  const shown = (await adsShownOn(ad.lineId)).find((one) => one.ad.id === id)
  const { link } = (shown?.made?.parts ?? {}) as { link?: string }
  return {
    link: withTail(link ?? landingOf(draft, id), joinedTails(advertiser.linkTail, campaign.linkTail)),
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
export function clickLeads(sequelize: Sequelize, catalogue: Catalogue, sites: StandInSites): Leads {
  const links = new LRUCache<number, AdLink>({ max: MOST_LINKS, ttl: LASTS_MS })
  const hours = new LRUCache<number, LogColumns>({ max: MOST_HOURS })

  async function logOf(hour: number): Promise<LogColumns | null> {
    const known = hours.get(hour)
    if (known) return known
    for await (const { log } of readWins(sequelize, hour, hour + 1)) {
      hours.set(hour, log)
      return log
    }
    return null
  }
  /** What an impression says of itself. */
  async function impressionOf({
    hour,
    place
  }: {
    hour: number
    place: number
  }): Promise<{ ad: number; values: Record<string, string> } | null> {
    const log = await logOf(hour)
    if (!log || place >= log.ad.length) return null
    const path = log.path[place]
    const named = placementName(catalogue, Math.floor(path / SOURCES.length))
    return {
      ad: log.ad[place],
      values: {
        PLACEMENT_ID: named.placement,
        PROPERTY: named.property,
        SOURCE: SOURCES[path % SOURCES.length].name,
        AUCTION_PRICE: (log.price[place] / 1000).toFixed(2),
        AUCTION_CURRENCY: 'EUR'
      }
    }
  }

  return async (subject, id) => {
    const shown = subject.kind === 'preview' ? { ad: subject.ad, values: {} } : await impressionOf(subject)
    if (!shown) return null
    const ad = links.get(shown.ad) ?? (await linkOf(shown.ad))
    if (!ad || ad.link === '') return null
    links.set(shown.ad, ad)
    const values: Readonly<Record<string, string>> = {
      ...ad.values,
      ...shown.values,
      CLICK_ID: id,
      TIMESTAMP: new Date().toISOString(),
      CACHEBUSTING: String(randomInt(10_000_000, 100_000_000))
    }
    const filled = filledLink(ad.link, (name) => values[name])
    return sites.addressOf(new URL(filled)) ?? filled
  }
}
