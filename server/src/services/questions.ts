import type { Sequelize } from 'sequelize'
import { flightHours, type LineDraft } from '@tin-harbor/core/buying'
import type { ForecastQuestion } from '@tin-harbor/core/forecast'
import type { Campaign } from '../models/index.js'
import { linesInForce } from './publications.js'

/**
 * A draft as a question to the forecast. Without a bid it is asked at zero, so that what matches is still counted.
 * The campaign's day is shared with its lines in force, in proportion to what each could spend.
 */
export async function questionOf(sequelize: Sequelize, draft: LineDraft, campaign: Campaign, lineId: number | null, nowHour: number): Promise<ForecastQuestion> {
  const mates = (await linesInForce(sequelize, campaign.id)).filter((mate) => mate.line !== lineId)
  return {
    targeting: draft.targeting,
    price: { model: 'CPM', bidMicros: draft.price.bidMicros ?? 0, maxMicros: draft.price.maxMicros },
    caps: draft.caps,
    money: {
      dailyMicros: draft.budget.dailyMicros, totalMicros: draft.budget.totalMicros, pacing: draft.pacing,
      campaignDailyMicros: campaign.dailyMicros, campaignTotalMicros: campaign.totalMicros
    },
    zone: draft.zone, ...flightHours(draft.flight, draft.zone), nowHour,
    matesDemandMicros: mates.reduce((sum, mate) => sum + mate.demandMicros, 0)
  }
}
