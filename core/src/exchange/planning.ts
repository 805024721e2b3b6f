import { hoursOfDay, localDayOf, startOfLocalDay, weekdayOf, zoneIndex } from '../time/index.js'
import { calendarOfCampaign, dayWeights, hourWeights, isLimited, purseAllowance, type Calendar } from './day-plan.js'
import type { Amounts, Limits, SpentSoFar } from './limits.js'
import { dayCurve, type DayPlan } from './pacing.js'
import type { CampaignRules, LineRules } from './rules.js'

/** Rules with what was spent by them, on the local day that is planned. */
export interface Planned<R extends LineRules | CampaignRules> {
  rules: R
  calendar: Calendar
  localDay: number
  purse: { limits: Limits; spent: SpentSoFar }
}

export const calendarOfLine = ({ zone, startHour, endHour, pacing, hours, traffic }: LineRules): Calendar => ({
  zone: zoneIndex(zone),
  startHour,
  endHour,
  weights: hourWeights(pacing, hours, traffic)
})

/** A line or campaign as of a market hour, with what was spent. */
export function plannedAt<R extends LineRules | CampaignRules>(rules: R, hour: number, spent: SpentSoFar): Planned<R> {
  const calendar = 'line' in rules ? calendarOfLine(rules) : calendarOfCampaign(rules)
  return { rules, calendar, localDay: localDayOf(calendar.zone, hour), purse: { limits: rules.limits, spent } }
}

const UNLIMITED: Amounts = { micros: Infinity, impressions: Infinity }

/** What a purse allows on its local day, from the hour at which it can begin. */
function allowance({ rules, calendar, localDay, purse }: Planned<LineRules | CampaignRules>, from: number, fast: boolean): Amounts {
  return isLimited(rules.limits) ? purseAllowance(purse, dayWeights(calendar, localDay, from), fast) : UNLIMITED
}

/**
 * A line's plan for its local day, from what was spent before the day alone: its own limits, and its part of the campaign's day in
 * proportion to what each of the campaign's lines could spend.
 * @param lines all lines of the campaign
 */
export function planDay(line: Planned<LineRules>, campaign: Planned<CampaignRules> | null, lines: readonly LineRules[]): DayPlan {
  const { rules, calendar, localDay } = line
  const dayStart = startOfLocalDay(calendar.zone, localDay)
  const dayEnd = startOfLocalDay(calendar.zone, localDay + 1)
  const from = Math.max(dayStart, rules.startHour, rules.liveFromHour)
  const to = Math.min(dayEnd, rules.endHour ?? dayEnd)
  const own = allowance(line, from, rules.pacing === 'fast')
  const share = campaign ? shareOf(rules, campaign, lines, dayStart, dayEnd) : UNLIMITED
  return {
    limitMicros: Math.min(own.micros, share.micros),
    limitShown: Math.min(own.impressions, share.impressions),
    openFrom: (from - dayStart) * 60,
    openTo: (to - dayStart) * 60,
    curve: dayCurve(calendar.weights, weekdayOf(localDay), hoursOfDay(calendar.zone, localDay))
  }
}

function shareOf(
  rules: LineRules,
  campaign: Planned<CampaignRules>,
  lines: readonly LineRules[],
  dayStart: number,
  dayEnd: number
): Amounts {
  if (!isLimited(campaign.rules.limits)) return UNLIMITED
  const all = allowance(
    campaign,
    Math.max(startOfLocalDay(campaign.calendar.zone, campaign.localDay), campaign.rules.startHour),
    rules.pacing === 'fast'
  )
  const mates = lines.filter((mate) => mate.startHour < dayEnd && (mate.endHour ?? Infinity) > dayStart)
  const sum = mates.reduce((demand, mate) => demand + mate.demandMicros, 0)
  const part = mates.length < 2 ? 1 : sum > 0 ? rules.demandMicros / sum : 1 / mates.length
  return { micros: all.micros * part, impressions: all.impressions * part }
}

/** A campaign's plan for its local day, evenly over it. */
export function planCampaignDay(campaign: Planned<CampaignRules>): DayPlan {
  const dayStart = startOfLocalDay(campaign.calendar.zone, campaign.localDay)
  const from = Math.max(dayStart, campaign.rules.startHour)
  const { micros, impressions } = allowance(campaign, from, false)
  return {
    limitMicros: micros,
    limitShown: impressions,
    openFrom: (from - dayStart) * 60,
    openTo: (startOfLocalDay(campaign.calendar.zone, campaign.localDay + 1) - dayStart) * 60
  }
}
