import { joinedTails, type LineDraft, type FixableFinding } from '@tin-harbor/core/buying'
import { adsOn, forecastFindings, preflight, reachOf, type DealFacts, type PreflightContext } from '@tin-harbor/core/preflight'
import type { MainFigures } from '@tin-harbor/core/forecast'
import { adFindings } from '../creatives/ad-findings.js'
import { Offer } from '../advertisers/offer-model.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { Line } from '../lines/line-model.js'
import { limitsOf } from '../campaigns/limits.js'
import type { Deps } from '../deps.js'
import type { LineReading } from '../forecasts/reading.js'
import { landingsAround } from '../links/landing.js'
import { foreseen } from '../review/foreseen.js'
import { leftFor } from '../money/funds.js'

/** What preflight needs of the server. */
export type Preflighting = Pick<Deps, 'sequelize' | 'catalogue' | 'store' | 'reviews' | 'configuration'>

const dealFacts = ({ id, name, priceMicros, leastSpendMicros, untilHour }: GrantedDeal, hour: number): DealFacts => ({
  id,
  name,
  priceMicros,
  leastSpendMicros,
  isExpired: untilHour !== null && untilHour <= hour
})

/** All that preflight looks at beside the draft. */
async function contextOf(deps: Preflighting, draft: LineDraft, reading: LineReading<Line>): Promise<PreflightContext> {
  const { sequelize } = deps
  const { around, ads, line } = reading
  const { campaign, hour, advertiser, trackers, inForce } = around
  const { deals: numbers = [] } = draft.buys ?? {}
  const { organisationId } = advertiser
  const granted = numbers.length === 0 ? [] : await GrantedDeal.findAll({ where: { id: [...numbers], organisationId } })
  const [found, original, spent, offers, landings, review] = await Promise.all([
    adFindings(line.id, advertiser.id, granted),
    line.copiedFrom === null ? null : Line.findByPk(line.copiedFrom),
    reading.spentIn(draft.zone),
    Offer.findAll({ where: { advertiserId: advertiser.id, ...(campaign.offerId === null ? {} : { id: campaign.offerId }) } }),
    landingsAround(campaign),
    foreseen(deps, draft, reading)
  ])
  return {
    campaign: { budget: limitsOf(campaign), goal: campaign.goal, linkTail: joinedTails(advertiser.linkTail, campaign.linkTail) },
    landings,
    refusals: review.refusals,
    answeredBy: review.answeredBy,
    ads,
    adFindings: found,
    nowHour: hour,
    trackers: trackers.length,
    deals: granted.map((deal) => dealFacts(deal, hour)),
    terms: offers.map(({ terms }) => terms.terms),
    mates: inForce.filter((mate) => mate.line !== line.id).map((mate) => ({ name: mate.draft.name, draft: mate.draft })),
    original: original && { name: original.draft.name, draft: original.draft },
    left: await leftFor(sequelize, advertiser, hour),
    isLive: line.revisionId !== null && line.state !== 'draft',
    spent: { day: spent.day.micros, week: spent.week.micros, month: spent.month.micros, total: spent.total.micros }
  }
}

/** Everything preflight says of a draft of a line; what it is forecast counts where it is known. */
export async function findingsOf(
  deps: Preflighting,
  draft: LineDraft,
  reading: LineReading<Line>,
  forecast: MainFigures | null = null
): Promise<FixableFinding[]> {
  const context = await contextOf(deps, draft, reading)
  return [
    ...preflight(draft, {
      ...context,
      reach: reachOf(
        draft,
        adsOn(draft, context.ads).flatMap(({ shapes }) => shapes),
        deps.catalogue
      )
    }),
    ...forecastFindings(draft, forecast, null)
  ]
}
