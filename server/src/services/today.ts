import { QueryTypes, type Sequelize } from 'sequelize'
import type { TodayView } from '@tin-harbor/core/buying'
import { calendarOfCampaign, dayCurve, dayWeights, emptyPurse, hourWeights, isLimited, plannedShare, purseAllowance, type Limits, type LineRules, type Pacing, type SpentSoFar } from '@tin-harbor/core/exchange'
import { dateOfDay, localDayOf, localHourOf, startOfLocalDay, weekdayOf, zoneIndex } from '@tin-harbor/core/time'
import { publicationRules, readMarket } from './publications.js'
import { spentSoFar } from './spent.js'

const HOURS = 24

async function byHour(sequelize: Sequelize, what: { line: number } | { campaign: number }, zone: number, day: number): Promise<TodayView['hours']> {
  const rows = await sequelize.query<{ hour: number; spendMicros: number; wins: number; clicks: number }>(
    `SELECT h.hour, CAST(SUM(h.spend_micros) AS SIGNED) AS spendMicros, CAST(SUM(h.wins) AS SIGNED) AS wins, CAST(SUM(h.clicks) AS SIGNED) AS clicks FROM line_hour h JOIN line l ON l.id = h.line_id
     WHERE ${'line' in what ? 'h.line_id' : 'l.campaign_id'} = ? AND h.hour >= ? AND h.hour < ? GROUP BY h.hour`,
    { type: QueryTypes.SELECT, replacements: ['line' in what ? what.line : what.campaign, startOfLocalDay(zone, day), startOfLocalDay(zone, day + 1)] })
  const hours = Array.from({ length: HOURS }, () => ({ spendMicros: 0, wins: 0, clicks: 0 }))
  for (const row of rows) {
    const into = hours[localHourOf(zone, row.hour)]
    into.spendMicros += Number(row.spendMicros)
    into.wins += Number(row.wins)
    into.clicks += Number(row.clicks)
  }
  return hours
}

/** Spend that a plan has by the start of each local hour, 25 of them; null without a limit of money. */
function planned(limit: number, pacing: Pacing, weights: ArrayLike<number>, day: number, openFrom: number, openTo: number): number[] | null {
  if (!Number.isFinite(limit)) return null
  const plan = { limitMicros: limit, openFrom, openTo, curve: dayCurve(weights, weekdayOf(day)) }
  return Array.from({ length: HOURS + 1 }, (_, hour) => Math.round(limit * plannedShare(plan, pacing, hour * 60)))
}

const purseOf = (limits: Limits, spent: SpentSoFar) => ({ ...emptyPurse(limits), spent })

/** Today against its plan, with yesterday behind it, on the line's or the campaign's own calendar. */
export async function todayOf(sequelize: Sequelize, what: { line: number } | { campaign: number }): Promise<TodayView | null> {
  const { hour, publicationId } = await readMarket()
  const rules = await publicationRules(publicationId)
  const line = 'line' in what ? rules.lines.find((one) => one.line === what.line) : undefined
  const campaign = rules.campaigns.find((one) => one.campaign === (line ? line.campaign : 'campaign' in what ? what.campaign : -1))
  const of = line ?? campaign
  if (!of) return null
  const zone = zoneIndex(of.zone)
  const day = localDayOf(zone, hour)
  const from = Math.max(startOfLocalDay(zone, day), of.startHour, line?.liveFromHour ?? 0)
  const spent = await spentSoFar(sequelize, what, of.zone, hour)
  const calendar = line ? { ...calendarOfCampaign(line), weights: hourWeights(line.pacing, line.hours, line.traffic) } : calendarOfCampaign(of)
  const pacing = line?.pacing ?? 'even'
  const own = isLimited(of.limits) ? purseAllowance(purseOf(of.limits, spent), dayWeights(calendar, day, from), pacing === 'fast').micros : Infinity
  const limit = line && campaign ? Math.min(own, await shareOf(sequelize, line, campaign, rules.lines, hour)) : own
  const openFrom = (from - startOfLocalDay(zone, day)) * 60
  return { date: dateOfDay(day), hour: localHourOf(zone, hour), hours: await byHour(sequelize, what, zone, day), yesterday: await byHour(sequelize, what, zone, day - 1), plannedMicros: planned(limit, pacing, calendar.weights, day, openFrom, 1440) }
}

/** What the campaign leaves a line of its day, in proportion to what each could spend. */
async function shareOf(sequelize: Sequelize, line: LineRules, campaign: { campaign: number; zone: string; startHour: number; endHour: number | null; limits: Limits }, lines: readonly LineRules[], hour: number): Promise<number> {
  if (!isLimited(campaign.limits)) return Infinity
  const zone = zoneIndex(campaign.zone)
  const day = localDayOf(zone, hour)
  const weights = dayWeights(calendarOfCampaign(campaign), day, Math.max(startOfLocalDay(zone, day), campaign.startHour))
  const all = purseAllowance(purseOf(campaign.limits, await spentSoFar(sequelize, { campaign: campaign.campaign }, campaign.zone, hour)), weights, line.pacing === 'fast').micros
  const mates = lines.filter((mate) => mate.campaign === campaign.campaign)
  const sum = mates.reduce((demand, mate) => demand + mate.demandMicros, 0)
  return all * (mates.length < 2 ? 1 : sum > 0 ? line.demandMicros / sum : 1 / mates.length)
}
