import type { Sequelize } from 'sequelize'
import type { TodayHour, TodayView } from '@tin-harbor/core/contract'
import { planCampaignDay, planDay, plannedAt, plannedBy } from '@tin-harbor/core/exchange'
import { dateOfDay, localDayOf, localHourOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { readMarket, rulesInForce } from '../going-live/publications.js'
import { matchedByHour } from '../delivery/outcomes.js'
import { sumsBy } from '../delivery/roll-ups.js'
import { spentSoFar } from '../delivery/spent.js'

const HOURS = 24

async function byHour(
  sequelize: Sequelize,
  what: { line: number } | { campaign: number },
  zone: number,
  day: number
): Promise<TodayHour[]> {
  const whose = 'line' in what ? { lines: [what.line] } : what
  const span = { from: startOfLocalDay(zone, day), to: startOfLocalDay(zone, day + 1) }
  const hours = Array.from({ length: HOURS }, (): TodayHour => ({ spendMicros: 0, matched: 0, wins: 0, viewable: 0, clicks: 0 }))
  const rows = [
    ...(await sumsBy(sequelize, 'hour', ['spendMicros', 'wins', 'viewable', 'clicks'], whose, span)),
    ...(await matchedByHour(sequelize, whose, span.from, span.to))
  ]
  for (const { by: hour, ...counts } of rows) {
    const into = hours[localHourOf(zone, hour)]
    for (const [name, n] of Object.entries(counts)) into[name as keyof TodayHour] += n
  }
  return hours
}

/** Today against its plan, with yesterday behind it, on the line's or the campaign's own calendar. */
export async function todayOf(sequelize: Sequelize, what: { line: number } | { campaign: number }): Promise<TodayView | null> {
  const { hour, publicationId } = await readMarket()
  const { lines, campaigns } = await rulesInForce(publicationId)
  const line = 'line' in what ? lines.find((one) => one.line === what.line) : undefined
  const campaign = campaigns.find((one) => one.campaign === (line ? line.campaign : 'campaign' in what ? what.campaign : -1))
  if (!campaign) return null
  const ofCampaign = plannedAt(campaign, hour, await spentSoFar(sequelize, { campaign: campaign.campaign }, campaign.zone, hour))
  const mates = lines.filter((mate) => mate.campaign === campaign.campaign)
  const plan = line
    ? planDay(plannedAt(line, hour, await spentSoFar(sequelize, { line: line.line }, line.zone, hour)), ofCampaign, mates)
    : planCampaignDay(ofCampaign)
  const zone = zoneIndex((line ?? campaign).zone)
  const day = localDayOf(zone, hour)
  return {
    date: dateOfDay(day),
    hour: localHourOf(zone, hour),
    hours: await byHour(sequelize, what, zone, day),
    yesterday: await byHour(sequelize, what, zone, day - 1),
    plannedMicros: Number.isFinite(plan.limitMicros)
      ? Array.from({ length: HOURS + 1 }, (_, hourOfDay) => Math.round(plannedBy(plan, line?.pacing ?? 'even', hourOfDay * 60)))
      : null
  }
}
