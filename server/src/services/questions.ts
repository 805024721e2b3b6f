import { QueryTypes, type Sequelize } from 'sequelize'
import { flightHours, type LineDraft } from '@tin-harbor/core/buying'
import { NOTHING_SPENT, NO_LIMITS, type ForecastQuestion, type SpentSoFar } from '@tin-harbor/core/forecast'
import { DATA_COSTS } from '@tin-harbor/core/market'
import { OPEN_MARKET } from '@tin-harbor/core/pricing'
import { segmentsIn } from '@tin-harbor/core/targeting'
import { SHAPES, findSegment, shapesOf } from '@tin-harbor/core/taxonomy'
import { dateOfDay, dayOfDate, localDayOf, startOfLocalDay, weekdayOf, zoneIndex } from '@tin-harbor/core/time'
import { Advertiser, type Campaign } from '../models/index.js'
import { wholeNumber } from '../database/connection.js'
import type { Deps } from './deps.js'
import { grantedDeals } from './deals.js'
import { adsOf } from './lines.js'
import { linesInForce } from './publications.js'

const SUMS = (of: string) => ['day', 'week', 'month', 'total'].map((period) =>
  `CAST(COALESCE(SUM(IF(h.hour >= :${period}, h.${of}, 0)), 0) AS SIGNED) AS ${period}_${of === 'wins' ? 'impressions' : 'micros'}`).join(', ')

/** What a line, or all lines of a campaign, spent and showed in the periods that an hour stands in, by the zone's calendar. */
async function spentSoFar(sequelize: Sequelize, what: { line: number } | { campaign: number }, zone: string, nowHour: number): Promise<SpentSoFar> {
  const index = zoneIndex(zone)
  const day = localDayOf(index, nowHour)
  const replacements = {
    day: startOfLocalDay(index, day), week: startOfLocalDay(index, day - weekdayOf(day)), month: startOfLocalDay(index, dayOfDate(`${dateOfDay(day).slice(0, 8)}01`)), total: -1e6,
    id: 'line' in what ? what.line : what.campaign
  }
  const where = 'line' in what ? 'h.line_id = :id' : 'l.campaign_id = :id'
  const [row] = await sequelize.query<Record<string, number>>(
    `SELECT ${SUMS('spend_micros')}, ${SUMS('wins')} FROM line_hour h JOIN line l ON l.id = h.line_id WHERE ${where}`, { type: QueryTypes.SELECT, replacements })
  const period = (name: string) => ({ micros: wholeNumber(Number(row[`${name}_micros`]), `${name} spend`), impressions: wholeNumber(Number(row[`${name}_impressions`]), `${name} impressions`) })
  return { day: period('day'), week: period('week'), month: period('month'), total: period('total') }
}

/** What the segments that a draft names cost: the dearest of those it includes, micros an impression. */
export function dataCost(draft: Pick<LineDraft, 'targeting'>): number {
  const costs = draft.targeting.restrictions.filter((r) => r.dimension === 'segments' && r.mode === 'include')
    .flatMap((restriction) => segmentsIn(restriction).map((name) => DATA_COSTS[findSegment(name)?.index ?? -1] ?? 0))
  return Math.max(0, ...costs) / 1000
}

/**
 * A draft as a question to the forecast. Without a bid it is asked at zero, so that what matches is still counted.
 * The campaign's day is shared with its lines in force, in proportion to what each could spend; a line that is live already
 * starts with what it has spent and with what people saw of it.
 */
export async function questionOf({ sequelize, exposures }: Pick<Deps, 'sequelize' | 'exposures'>, draft: LineDraft, campaign: Campaign, lineId: number | null, nowHour: number): Promise<ForecastQuestion> {
  const advertiser = await Advertiser.findByPk(campaign.advertiserId, { rejectOnEmpty: true })
  const mates = (await linesInForce(sequelize, campaign.id)).filter((mate) => mate.line !== lineId)
  const ads = lineId === null ? [] : await adsOf(lineId)
  const fitting = ads.map((ad) => (SHAPES as readonly string[]).indexOf(ad.size)).filter((shape) => shape >= 0)
  const shapes = draft.format === 'display' && fitting.length > 0 ? [...new Set(fitting)].sort((a, b) => a - b) : shapesOf(draft.format).map((shape) => SHAPES.indexOf(shape))
  const { model, bidMicros, maxMicros, adjustments, repeatDiscount, steps } = draft.price
  return {
    targeting: draft.targeting, shapes, price: { model, bidMicros: bidMicros ?? 0, maxMicros, adjustments, repeatDiscount, steps },
    hours: draft.hours ?? null, caps: draft.caps, gapMinutes: draft.gapMinutes ?? 0, campaignCaps: [],
    buys: draft.buys ? { open: draft.buys.open, deals: await grantedDeals(draft.buys.deals) } : OPEN_MARKET, dataMicros: dataCost(draft), pacing: draft.pacing,
    limits: { ...NO_LIMITS, ...Object.fromEntries(Object.entries(draft.budget).map(([name, value]) => [name, value ?? null])) },
    spent: lineId === null ? NOTHING_SPENT : await spentSoFar(sequelize, { line: lineId }, draft.zone, nowHour),
    campaignLimits: { ...NO_LIMITS, dailyMicros: campaign.dailyMicros, totalMicros: campaign.totalMicros },
    campaignSpent: await spentSoFar(sequelize, { campaign: campaign.id }, advertiser.zone, nowHour),
    zone: draft.zone, ...flightHours(draft.flight, draft.zone), nowHour, conversionMicros: null,
    matesDemandMicros: mates.reduce((sum, mate) => sum + mate.demandMicros, 0),
    exposures: lineId === null ? { person: [], minute: [] } : await exposures.of(lineId, nowHour)
  }
}
