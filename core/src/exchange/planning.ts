import { hoursOfDay, localDayOf, startOfLocalDay, weekdayOf, zoneIndex } from '../time/index.js'
import { calendarOfCampaign, hourWeights, isLimited, type Calendar } from './day-plan.js'
import { NOTHING_SPENT, type Amounts, type SpentSoFar } from './limits.js'
import { UNLIMITED, allowance, type Planned } from './planned.js'
import { nothingSoFar, shareDay, type Share, type Sharing } from './sharing.js'
import { dayCurve, type DayPlan } from './pacing.js'
import type { CampaignRules, LineRules } from './rules.js'

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

/**
 * A line's plan for its local day, from what was spent before the day alone: its own limits, and its share of the campaign's day
 * when that begins.
 * @param lines all lines of the campaign
 */
export function planDay(line: Planned<LineRules>, campaign: Planned<CampaignRules> | null, lines: readonly LineRules[]): DayPlan {
  const { rules, calendar, localDay } = line
  const dayStart = startOfLocalDay(calendar.zone, localDay)
  const dayEnd = startOfLocalDay(calendar.zone, localDay + 1)
  const from = Math.max(dayStart, rules.startHour, rules.liveFromHour)
  const to = Math.min(dayEnd, rules.endHour ?? dayEnd)
  const own = allowance(line, rules.pacing === 'fast')
  const share = campaign ? shareOf(line, campaign, lines) : UNLIMITED
  return {
    limitMicros: Math.min(own.micros, share.micros),
    limitShown: Math.min(own.impressions, share.impressions),
    openFrom: (from - dayStart) * 60,
    openTo: (to - dayStart) * 60,
    curve: dayCurve(calendar.weights, weekdayOf(localDay), hoursOfDay(calendar.zone, localDay))
  }
}

/** A line's share of the campaign's day when that begins: what its lines could spend is what they were forecast. */
function shareOf(line: Planned<LineRules>, campaign: Planned<CampaignRules>, lines: readonly LineRules[]): Amounts {
  if (!isLimited(campaign.rules.limits)) return UNLIMITED
  const dayStart = startOfLocalDay(campaign.calendar.zone, campaign.localDay)
  const mates = lines.map((rules): Sharing => {
    const calendar = calendarOfLine(rules)
    const own = rules.line === line.rules.line
    return {
      rules,
      calendar,
      localDay: localDayOf(calendar.zone, dayStart),
      purse: { limits: rules.limits, spent: own ? beforeToday(line.purse.spent) : NOTHING_SPENT },
      soFar: nothingSoFar(campaign.localDay)
    }
  })
  const shares = shareDay({ ...campaign, purse: { ...campaign.purse, spent: beforeToday(campaign.purse.spent) } }, mates, dayStart)
  return shares[mates.findIndex(({ rules }) => rules.line === line.rules.line)]?.total ?? UNLIMITED
}

/** What was spent before the day began. */
function beforeToday(spent: SpentSoFar): SpentSoFar {
  const before = ({ micros, impressions }: Amounts): Amounts => ({
    micros: micros - spent.day.micros,
    impressions: impressions - spent.day.impressions
  })
  return { day: { micros: 0, impressions: 0 }, week: before(spent.week), month: before(spent.month), total: before(spent.total) }
}

/**
 * A line's plan from an hour on, of its share of the campaign's day: what was due and did not come is due still, the rest is spread over
 * what is left of its own day.
 */
export function planShare(line: Sharing, share: Share, hour: number): DayPlan {
  const { rules, calendar, localDay, purse, soFar } = line
  const dayStart = startOfLocalDay(calendar.zone, localDay)
  const dayEnd = startOfLocalDay(calendar.zone, localDay + 1)
  const from = Math.max(dayStart, hour)
  const own = allowance(line, rules.pacing === 'fast')
  const part = (what: 'micros' | 'impressions') => {
    const spent = purse.spent.day[what]
    const rest = Math.max(0, share.total[what] - soFar.spent[what])
    const due = Math.min(rest, soFar.due[what])
    // Of no limit no part is a limit either, whatever comes before its own day ends.
    const limit = rest === Infinity ? own[what] : Math.min(own[what], spent + due + (rest - due) * share.today)
    return { limit, due: Math.min(limit, spent + due) }
  }
  const [micros, impressions] = [part('micros'), part('impressions')]
  return {
    limitMicros: micros.limit,
    limitShown: impressions.limit,
    openFrom: (from - dayStart) * 60,
    openTo: (Math.min(dayEnd, share.endHour, rules.endHour ?? dayEnd) - dayStart) * 60,
    due: { micros: micros.due, impressions: impressions.due },
    curve: dayCurve(calendar.weights, weekdayOf(localDay), hoursOfDay(calendar.zone, localDay))
  }
}

/** A campaign's plan for its local day, evenly over it. */
export function planCampaignDay(campaign: Planned<CampaignRules>): DayPlan {
  const dayStart = startOfLocalDay(campaign.calendar.zone, campaign.localDay)
  const from = Math.max(dayStart, campaign.rules.startHour)
  const { micros, impressions } = allowance(campaign, false)
  return {
    limitMicros: micros,
    limitShown: impressions,
    openFrom: (from - dayStart) * 60,
    openTo: (startOfLocalDay(campaign.calendar.zone, campaign.localDay + 1) - dayStart) * 60
  }
}
