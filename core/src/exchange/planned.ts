import { startOfLocalDay } from '../time/index.js'
import { dayWeights, isLimited, purseAllowance, type Calendar } from './day-plan.js'
import type { Amounts, Limits, SpentSoFar } from './limits.js'
import type { CampaignRules, LineRules } from './rules.js'

/** Rules with what was spent by them, on the local day that is planned. */
export interface Planned<R extends LineRules | CampaignRules> {
  rules: R
  calendar: Calendar
  localDay: number
  purse: { limits: Limits; spent: SpentSoFar }
}

export const UNLIMITED: Amounts = { micros: Infinity, impressions: Infinity }

/** What the limits of a line or campaign allow it on its local day, from the hour at which that day can begin for it. */
export function allowance({ rules, calendar, localDay, purse }: Planned<LineRules | CampaignRules>, fast: boolean): Amounts {
  if (!isLimited(rules.limits)) return UNLIMITED
  const from = Math.max(startOfLocalDay(calendar.zone, localDay), rules.startHour, 'liveFromHour' in rules ? rules.liveFromHour : -Infinity)
  return purseAllowance(purse, dayWeights(calendar, localDay, from), fast)
}
