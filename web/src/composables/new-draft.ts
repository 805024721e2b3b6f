import type { LineDraft } from '@tin-harbor/core/buying'
import type { CampaignView } from '@tin-harbor/core/contract'

/** A line with nothing chosen that its campaign does not already say. */
export function newDraft(campaign: Pick<CampaignView, 'flight'>, zone: string, today: string, name: string): LineDraft {
  const { startDate, endDate } = campaign.flight
  return {
    name,
    format: 'display',
    zone,
    targeting: { restrictions: [] },
    price: { model: 'CPM', bidMicros: null, maxMicros: null },
    flight: { startDate: startDate < today && (endDate === null || endDate >= today) ? today : startDate, endDate },
    budget: { dailyMicros: null, totalMicros: null },
    pacing: 'even',
    caps: [],
    landing: '',
    onceCleared: 'start'
  }
}
