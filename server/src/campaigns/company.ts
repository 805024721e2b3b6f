import type { CompanyView } from '@tin-harbor/core/buying'
import { adviseSplit, valueAt } from '@tin-harbor/core/forecast'
import { type Campaign } from './campaign-model.js'
import { Line } from '../lines/line-model.js'
import { personOf, type Actor } from '../security/sessions.js'
import { planOf } from './campaigns.js'
import { limitsOf } from './limits.js'
import type { Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'
import { aroundOf, measureOf, questionOf } from '../forecasts/questions.js'

/** Most lines that are looked at together. */
const MOST_LINES = 8

/**
 * What the campaign's money buys its lines by share, the split that would buy most of its goal, and whom they share. Null where the
 * campaign has no day's money of its own, or fewer than two lines with a bid.
 */
export async function companyView(deps: Deps, actor: Actor, campaign: Campaign): Promise<CompanyView | null> {
  const { hour } = await readMarket()
  const measure = measureOf(campaign)
  const limits = limitsOf(campaign)
  const plan = planOf({ dailyMicros: limits.dailyMicros, totalMicros: limits.totalMicros }, campaign)
  const lines = (await Line.findAll({ where: { campaignId: campaign.id, template: false }, order: [['id', 'ASC']] }))
    .filter(({ state, draft }) => state !== 'ended' && state !== 'refused' && (draft.price.bidMicros !== null || draft.price.aim))
    .slice(0, MOST_LINES)
  if (!plan || lines.length < 2) return null
  const around = await aroundOf(deps.sequelize, campaign, hour)
  const questions = await Promise.all(
    lines.map(async ({ id, draft }) => ({ line: id, question: await questionOf(deps, draft, campaign, id, hour, around) }))
  )
  const totalMicros = Math.round(plan.aDay)
  const { curves, overlaps } = await deps.pool.company(personOf(actor), { lines: questions, totalMicros, measure })
  const advised = adviseSplit(curves, totalMicros)
  return {
    totalMicros,
    measure,
    overlaps,
    lines: lines.map(({ id, draft, version }) => {
      const curve = curves.find(({ line }) => line === id) as (typeof curves)[0]
      const now = Math.min(draft.budget.dailyMicros ?? totalMicros, totalMicros)
      const micros = advised.get(id) ?? 0
      return {
        line: id,
        version,
        name: draft.name,
        ownMicros: draft.budget.dailyMicros,
        buysNow: valueAt(curve, now),
        advisedMicros: micros,
        buysAdvised: valueAt(curve, micros),
        points: curve.points
      }
    })
  }
}
