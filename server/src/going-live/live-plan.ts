import { flightDays, type LineDraft } from '@tin-harbor/core/buying'
import type { LivePlan } from '@tin-harbor/core/contract'
import type { MainFigures } from '@tin-harbor/core/forecast'
import type { Campaign } from '../campaigns/campaign-model.js'
import { findCampaign } from '../campaigns/campaigns.js'
import type { Deps } from '../deps.js'
import { measureOf, questionOf } from '../forecasts/questions.js'
import { readCampaign, readLine, type LineReading } from '../forecasts/reading.js'
import { LineRevision } from '../lines/line-model.js'
import { changesSince, findLine } from '../lines/lines.js'
import { personOf, type Actor } from '../security/sessions.js'
import { foreseen } from '../review/foreseen.js'
import { findingsOf } from './preflight.js'

const least = (...amounts: (number | null)[]) => {
  const known = amounts.filter((amount) => amount !== null)
  return known.length > 0 ? Math.min(...known) : null
}

function money(draft: LineDraft, campaign: Campaign): Pick<LivePlan, 'mostADayMicros' | 'mostInAllMicros'> {
  const days = flightDays(draft.flight)
  const aDay = least(draft.budget.dailyMicros, campaign.dailyMicros)
  const byDays = aDay !== null && days !== null ? aDay * days : null
  const inAll = least(draft.budget.totalMicros, campaign.totalMicros, byDays)
  return { mostADayMicros: least(aDay, inAll), mostInAllMicros: inAll }
}

/** What a draft is forecast to bring, for those who confirm it; null while there is no tape. */
export async function forecastOf(deps: Deps, actor: Actor, draft: LineDraft, reading: LineReading): Promise<MainFigures | null> {
  if (!deps.pool.isReady || (draft.price.bidMicros === null && draft.price.maxMicros === null)) return null
  return deps.pool.figures(personOf(actor), await questionOf(deps, draft, reading), measureOf(reading.around.campaign))
}

/** Preflight and the count of what would exist. */
export async function livePlan(deps: Deps, actor: Actor, lineId: number): Promise<LivePlan> {
  const line = await findLine(lineId)
  const { draft } = line
  const around = await readCampaign(deps.sequelize, await findCampaign(line.campaignId))
  const reading = await readLine(deps.sequelize, line, around)
  const revision = line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId)
  const isLive = revision !== null && line.state !== 'draft'
  const sent = await foreseen(deps, draft, reading)
  return {
    findings: await findingsOf(deps, draft, reading, await forecastOf(deps, actor, draft, reading)),
    campaigns: around.inForce.length === 0 ? 1 : 0,
    lines: isLive ? 0 : 1,
    ads: sent.unseen,
    answeredBy: sent.answeredBy,
    ...money(draft, around.campaign),
    changes: revision ? changesSince(revision, line, reading.ads) : [],
    isLive,
    waits: draft.onceCleared === 'wait'
  }
}
