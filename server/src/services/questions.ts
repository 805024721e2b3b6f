import { QueryTypes, type Sequelize } from 'sequelize'
import { flightHours, type LineDraft } from '@tin-harbor/core/buying'
import type { ForecastQuestion } from '@tin-harbor/core/forecast'
import type { Campaign } from '../models/index.js'
import { wholeNumber } from '../database/connection.js'
import { linesInForce } from './publications.js'

const SPENT = 'SELECT CAST(COALESCE(SUM(h.spend_micros), 0) AS SIGNED) AS campaign, CAST(COALESCE(SUM(IF(h.line_id = ?, h.spend_micros, 0)), 0) AS SIGNED) AS line FROM line_hour h JOIN line l ON l.id = h.line_id WHERE l.campaign_id = ?'

/** What the line and its campaign have spent so far: a forecast has only the rest of a total to spend. */
async function spentSoFar(sequelize: Sequelize, campaignId: number, lineId: number | null): Promise<{ campaign: number; line: number }> {
  const [row] = await sequelize.query<{ campaign: number; line: number }>(SPENT, { type: QueryTypes.SELECT, replacements: [lineId ?? 0, campaignId] })
  return { campaign: wholeNumber(Number(row.campaign), 'campaign spend'), line: wholeNumber(Number(row.line), 'line spend') }
}

const rest = (total: number | null, spent: number) => (total === null ? null : Math.max(0, total - spent))

/**
 * A draft as a question to the forecast. Without a bid it is asked at zero, so that what matches is still counted.
 * The campaign's day is shared with its lines in force, in proportion to what each could spend.
 */
export async function questionOf(sequelize: Sequelize, draft: LineDraft, campaign: Campaign, lineId: number | null, nowHour: number): Promise<ForecastQuestion> {
  const mates = (await linesInForce(sequelize, campaign.id)).filter((mate) => mate.line !== lineId)
  const spent = await spentSoFar(sequelize, campaign.id, lineId)
  return {
    targeting: draft.targeting,
    price: { model: 'CPM', bidMicros: draft.price.bidMicros ?? 0, maxMicros: draft.price.maxMicros },
    caps: draft.caps,
    money: {
      dailyMicros: draft.budget.dailyMicros, totalMicros: rest(draft.budget.totalMicros, spent.line), pacing: draft.pacing,
      campaignDailyMicros: campaign.dailyMicros, campaignTotalMicros: rest(campaign.totalMicros, spent.campaign)
    },
    zone: draft.zone, ...flightHours(draft.flight, draft.zone), nowHour,
    matesDemandMicros: mates.reduce((sum, mate) => sum + mate.demandMicros, 0)
  }
}
