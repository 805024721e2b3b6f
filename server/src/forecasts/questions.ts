import { adRules, flightHours, type Goal, type LineDraft } from '@tin-harbor/core/buying'
import type { AdView } from '@tin-harbor/core/contract'
import { NO_LIMITS, hasOwnRules, type ForecastQuestion, type GoalMeasure } from '@tin-harbor/core/forecast'
import { soldBy, type AdRules } from '@tin-harbor/core/exchange'
import { DATA_COSTS } from '@tin-harbor/core/market'
import { OPEN_MARKET } from '@tin-harbor/core/pricing'
import { segmentsIn } from '@tin-harbor/core/dimensions'
import { SHAPES, findSegment, shapesOf } from '@tin-harbor/core/taxonomy'
import { type Campaign } from '../campaigns/campaign-model.js'
import { Line } from '../lines/line-model.js'
import type { Deps } from '../deps.js'
import { meanViewPoint } from '../lines/view-points.js'
import { limitsOf } from '../campaigns/limits.js'
import { grantedDeals } from '../deals/granted.js'
import { historyOf, termsOf } from './history.js'
import { readLine, type LineReading } from './reading.js'

type Needs = Pick<Deps, 'sequelize' | 'exposures'>

/** What the segments that a draft names cost: the dearest of those it includes, micros an impression. */
export function dataCost(draft: Pick<LineDraft, 'targeting'>): number {
  const costs = draft.targeting.restrictions
    .filter((r) => r.dimension === 'segments' && r.mode === 'include')
    .flatMap((restriction) => segmentsIn(restriction).map((name) => DATA_COSTS[findSegment(name)?.index ?? -1] ?? 0))
  return Math.max(0, ...costs) / 1000
}

const MEASURE_OF_GOAL = {
  reach: 'reach',
  views: 'views',
  visits: 'visits',
  pages: 'visits',
  conversions: 'conversions',
  revenue: 'conversions'
} as const satisfies Record<Goal, GoalMeasure>
/** What of a forecast a campaign's goal is measured in. */
export const measureOf = ({ goal }: Pick<Campaign, 'goal'>): GoalMeasure => MEASURE_OF_GOAL[goal]

/** Live lines of a campaign that an answer is run together with, those that could spend most. */
const MOST_MATES = 6

/** A question together with those of the campaign's live lines, which compete with it. */
export async function questionAmongMates(deps: Needs, draft: LineDraft, reading: LineReading): Promise<ForecastQuestion> {
  const { around, line } = reading
  const mates = around.inForce
    .filter((mate) => mate.line !== line?.id)
    .sort((a, b) => b.demandMicros - a.demandMicros)
    .slice(0, MOST_MATES)
  const rows = new Map((await Line.findAll({ where: { id: mates.map((mate) => mate.line) } })).map((row) => [row.id, row]))
  const [question, ...others] = await Promise.all([
    questionOf(deps, draft, reading),
    ...mates.map(async (mate) => questionOf(deps, mate.draft, await readLine(deps.sequelize, rows.get(mate.line) ?? null, around)))
  ])
  return { ...question, mates: mates.map((mate, n) => ({ line: mate.line, question: others[n] })) }
}

/** A line's ads as they would run, but for those that are off or stopped. */
function adsShown(draft: LineDraft, ads: readonly AdView[]): AdRules[] {
  const rules = ads
    .filter(({ stopped }) => stopped === null)
    .flatMap(({ id, shapes }) => shapes.map((shape) => adRules(draft, { ad: id, shape: (SHAPES as readonly string[]).indexOf(shape) })))
  // What learning weighs them is known to the exchange alone; to begin with, and in turn, it is one as the other.
  return rules.filter(({ off }) => !off).map((ad) => ((draft.rotation ?? 'weight') === 'weight' ? ad : { ...ad, weight: 1 }))
}

/**
 * A draft as a question to the forecast. Without a bid it is asked at zero, so that what matches is still counted.
 * The campaign's day is shared with its lines in force, by what each could spend and may; a line that is live already
 * starts with what it has spent and with what people saw of it.
 */
export async function questionOf({ sequelize, exposures }: Needs, draft: LineDraft, reading: LineReading): Promise<ForecastQuestion> {
  const { line, ads, around } = reading
  const { campaign, hour: nowHour, advertiser, trackers, inForce: all, isOurMarket } = around
  const lineId = line?.id ?? null
  const mates = all.filter((mate) => mate.line !== lineId)
  // Of a line in force its share goes by what it was forecast when it went live, unless it is to go live anew with other terms.
  const inForce = all.find((mate) => mate.line === lineId && termsOf(mate.draft) === termsOf(draft))
  const own = shapesOf(draft.format).map((shape) => SHAPES.indexOf(shape))
  const shown = adsShown(draft, ads).filter(({ shape }) => own.includes(shape))
  const fitting = shown.map(({ shape }) => shape)
  const shapes = fitting.length > 0 ? [...new Set(fitting)].sort((a, b) => a - b) : own
  const { model, maxMicros, adjustments, repeatDiscount, steps, aim } = draft.price
  // What an aim will bid is learned as it runs: it is asked about at the most that it may.
  const bidMicros = aim ? maxMicros : draft.price.bidMicros
  return {
    targeting: draft.targeting,
    shapes,
    ...(shown.some(hasOwnRules) ? { ads: shown } : {}),
    price: { model, bidMicros: bidMicros ?? 0, maxMicros, adjustments, repeatDiscount, steps },
    hours: draft.hours ?? null,
    caps: draft.caps,
    gapMinutes: draft.gapMinutes ?? 0,
    campaignCaps: campaign.caps ?? [],
    buys: draft.buys ? { open: draft.buys.open, deals: await grantedDeals(draft.buys.deals, advertiser.organisationId) } : OPEN_MARKET,
    counted: trackers.map(({ kind, clickHours, viewHours }) => ({ kind, clickHours, viewHours })),
    dataMicros: dataCost(draft),
    viewPoint: meanViewPoint(draft, ads),
    pacing: draft.pacing,
    limits: { ...NO_LIMITS, ...Object.fromEntries(Object.entries(draft.budget).map(([name, value]) => [name, value ?? null])) },
    spent: await reading.spentIn(draft.zone),
    campaignLimits: limitsOf(campaign),
    campaignSpent: around.spent,
    zone: draft.zone,
    ...flightHours(draft.flight, draft.zone),
    nowHour,
    history: line && (await historyOf(sequelize, { line: line.id, liveFromHour: line.liveFromHour }, draft, { trackers, nowHour })),
    follow: draft.price.follow === true,
    aim: aim ?? null,
    conversionMicros: soldBy({ ads: [], shapes }, trackers).worth,
    among: isOurMarket ? (lineId ?? 0) : undefined,
    weightMicros: inForce?.demandMicros ?? null,
    sharers: mates.map(({ demandMicros, draft: { budget } }) => ({ demandMicros, dailyMicros: budget.dailyMicros ?? null })),
    exposures: lineId === null ? { person: [], minute: [] } : await exposures.of(lineId, nowHour)
  }
}
