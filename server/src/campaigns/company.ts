import { namesApart } from '@tin-harbor/core/buying'
import type { CompanyView } from '@tin-harbor/core/contract'
import { adviseSplit, valueAt } from '@tin-harbor/core/forecast'
import { type Campaign } from './campaign-model.js'
import { Line } from '../lines/line-model.js'
import { personOf, type Actor } from '../security/sessions.js'
import { planOf } from './campaigns.js'
import { limitsOf } from './limits.js'
import type { Deps } from '../deps.js'
import { measureOf, questionOf } from '../forecasts/questions.js'
import { readCampaign, readLine } from '../forecasts/reading.js'

/** Most lines that are looked at together: those in force first, then those with most money of their own. */
const MOST_LINES = 8
const byMoney = (a: Line, b: Line) =>
  Number(b.state === 'live') - Number(a.state === 'live') || (b.draft.budget.dailyMicros ?? 0) - (a.draft.budget.dailyMicros ?? 0)

/**
 * What the campaign's money buys its lines by share, the split that would buy most of its goal, and whom they share. Null where the
 * campaign has no day's money of its own, or fewer than two lines with a bid.
 */
export async function companyView(deps: Deps, actor: Actor, campaign: Campaign): Promise<CompanyView | null> {
  const measure = measureOf(campaign)
  const limits = limitsOf(campaign)
  const plan = planOf({ dailyMicros: limits.dailyMicros, totalMicros: limits.totalMicros }, campaign)
  const all = (await Line.findAll({ where: { campaignId: campaign.id, template: false }, order: [['id', 'ASC']] })).filter(
    ({ state, draft }) => state !== 'ended' && state !== 'refused' && (draft.price.bidMicros !== null || draft.price.aim)
  )
  const looked = new Set([...all].sort(byMoney).slice(0, MOST_LINES))
  const lines = all.filter((line) => looked.has(line))
  if (!plan || lines.length < 2) return null
  const around = await readCampaign(deps.sequelize, campaign)
  const questions = await Promise.all(
    lines.map(async (line) => ({
      line: line.id,
      question: await questionOf(deps, line.draft, await readLine(deps.sequelize, line, around))
    }))
  )
  const names = namesApart(all.map(({ id, draft }) => ({ id, name: draft.name })))
  const totalMicros = Math.round(plan.aDay)
  const { curves, overlaps } = await deps.pool.company(personOf(actor), { lines: questions, totalMicros, measure })
  const advised = adviseSplit(curves, totalMicros)
  return {
    totalMicros,
    among: all.length,
    measure,
    overlaps,
    lines: lines.map(({ id, draft, version }) => {
      const curve = curves.find(({ line }) => line === id) as (typeof curves)[0]
      const now = Math.min(draft.budget.dailyMicros ?? totalMicros, totalMicros)
      const micros = advised.get(id) ?? 0
      return {
        line: id,
        version,
        name: names.get(id) ?? draft.name,
        ownMicros: draft.budget.dailyMicros,
        buysNow: valueAt(curve, now),
        advisedMicros: micros,
        buysAdvised: valueAt(curve, micros),
        points: curve.points
      }
    })
  }
}
