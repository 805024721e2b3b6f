import type { Sequelize } from 'sequelize'
import type { AdView } from '@tin-harbor/core/contract'
import { NOTHING_SPENT } from '@tin-harbor/core/forecast'
import type { SpentSoFar, TrackerRules } from '@tin-harbor/core/exchange'
import { Advertiser } from '../advertisers/advertiser-model.js'
import type { Campaign } from '../campaigns/campaign-model.js'
import { spentSoFar } from '../delivery/spent.js'
import { linesInForce, readMarket, trackersOf, type LiveLine } from '../going-live/publications.js'
import type { Line } from '../lines/line-model.js'
import { adsOf } from '../lines/ads-shown.js'

/** A campaign as it stands at an hour: what all questions about its lines have in common. */
export interface CampaignReading {
  campaign: Campaign
  hour: number
  advertiser: Advertiser
  trackers: TrackerRules[]
  /** Its lines in force. */
  inForce: LiveLine[]
  spent: SpentSoFar
  /** Whether the market buys for the campaign's organisation: nobody else's lines are told of. */
  isOurMarket: boolean
}

export async function readCampaign(sequelize: Sequelize, campaign: Campaign): Promise<CampaignReading> {
  const advertiser = await Advertiser.findByPk(campaign.advertiserId, { rejectOnEmpty: true })
  const market = await readMarket()
  const [trackers, inForce, spent] = await Promise.all([
    trackersOf(advertiser.id),
    linesInForce(sequelize, campaign.id),
    spentSoFar(sequelize, { campaign: campaign.id }, advertiser.zone, market.hour)
  ])
  const isOurMarket = market.organisationId === advertiser.organisationId
  return { campaign, hour: market.hour, advertiser, trackers, inForce, spent, isOurMarket }
}

/**
 * A line as it stands: read once, and handed on to all that preflight, forecast and going live ask of it, so that they speak of the same
 * moment.
 */
export interface LineReading<L extends Line | null = Line | null> {
  /** Null for a draft that is no line yet. */
  line: L
  ads: AdView[]
  around: CampaignReading
  /** What it spent, by a zone's calendar: a draft may name another than the line in force. */
  spentIn(zone: string): Promise<SpentSoFar>
}

/** @param known what was read of its campaign already */
export async function readLine<L extends Line | null>(sequelize: Sequelize, line: L, known: CampaignReading): Promise<LineReading<L>> {
  const spent = new Map<string, Promise<SpentSoFar>>()
  return {
    line,
    ads: line ? await adsOf(line.id) : [],
    around: known,
    spentIn(zone) {
      const found = spent.get(zone) ?? (line ? spentSoFar(sequelize, { line: line.id }, zone, known.hour) : Promise.resolve(NOTHING_SPENT))
      spent.set(zone, found)
      return found
    }
  }
}
