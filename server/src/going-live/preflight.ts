import type { Sequelize } from 'sequelize'
import type { LineDraft, FixableFinding } from '@tin-harbor/core/buying'
import { forecastFindings, preflight, reachOf, type DealFacts, type PreflightContext } from '@tin-harbor/core/preflight'
import type { MainFigures } from '@tin-harbor/core/forecast'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Offer } from '../advertisers/offer-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import { type Campaign } from '../campaigns/campaign-model.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { Line } from '../lines/line-model.js'
import { limitsOf } from '../campaigns/limits.js'
import type { Deps } from '../deps.js'
import { adsOf } from '../lines/lines.js'
import { balance } from '../money/ledger.js'
import { linesInForce, readMarket } from './publications.js'
import { spentSoFar } from '../delivery/spent.js'

async function dealFacts(numbers: readonly number[], organisationId: number, hour: number): Promise<DealFacts[]> {
  const rows = numbers.length === 0 ? [] : await GrantedDeal.findAll({ where: { id: [...numbers], organisationId } })
  return rows.map(({ id, name, priceMicros, leastSpendMicros, untilHour }) => ({
    id,
    name,
    priceMicros,
    leastSpendMicros,
    isExpired: untilHour !== null && untilHour <= hour
  }))
}

/** All that preflight looks at beside the draft. */
async function contextOf(sequelize: Sequelize, line: Line, draft: LineDraft, campaign: Campaign): Promise<PreflightContext> {
  const { hour } = await readMarket()
  const { advertiserId } = campaign
  const { organisationId } = await Advertiser.findByPk(advertiserId, { rejectOnEmpty: true })
  const [ads, mates, original, spent, offers] = await Promise.all([
    adsOf(line.id),
    linesInForce(sequelize, campaign.id),
    line.copiedFrom === null ? null : Line.findByPk(line.copiedFrom),
    spentSoFar(sequelize, { line: line.id }, draft.zone, hour),
    Offer.findAll({ where: { advertiserId } })
  ])
  return {
    campaign: { budget: limitsOf(campaign), goal: campaign.goal, linkTail: campaign.linkTail },
    adSizes: ads.flatMap((ad) => ad.shapes),
    nowHour: hour,
    trackers: await Tracker.count({ where: { advertiserId } }),
    deals: await dealFacts(draft.buys?.deals ?? [], organisationId, hour),
    terms: offers.map(({ terms }) => terms.terms),
    mates: mates.filter((mate) => mate.line !== line.id).map((mate) => ({ name: mate.draft.name, draft: mate.draft })),
    original: original && { name: original.draft.name, draft: original.draft },
    balanceMicros: await balance(sequelize, organisationId),
    isLive: line.revisionId !== null && line.state !== 'draft',
    spent: { day: spent.day.micros, week: spent.week.micros, month: spent.month.micros, total: spent.total.micros }
  }
}

/** Everything preflight says of a draft of a line; what it is forecast counts where it is known. */
export async function findingsOf(
  { sequelize, catalogue }: Pick<Deps, 'sequelize' | 'catalogue'>,
  line: Line,
  draft: LineDraft,
  campaign: Campaign,
  forecast: MainFigures | null = null
): Promise<FixableFinding[]> {
  const context = await contextOf(sequelize, line, draft, campaign)
  return [
    ...preflight(draft, { ...context, reach: reachOf(draft, context.adSizes, catalogue) }),
    ...forecastFindings(draft, forecast, null)
  ]
}
