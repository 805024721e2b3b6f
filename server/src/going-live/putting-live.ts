import type { Transaction } from 'sequelize'
import { flightDays, flightHours, lineSchema, nextState, parseInput, type Finding, type LineDraft } from '@tin-harbor/core/buying'
import type { AdView, LiveAnswer, LivePlan } from '@tin-harbor/core/contract'
import { NO_LIMITS, type LineRules } from '@tin-harbor/core/exchange'
import type { ForLive, MainFigures } from '@tin-harbor/core/forecast'
import { forecastFindings } from '@tin-harbor/core/preflight'
import { SHAPES, shapesOf } from '@tin-harbor/core/taxonomy'
import { withValues, valuesOf } from '@tin-harbor/core/targeting'
import { retrying } from '../database/connection.js'
import { conflict, invalid, invalidField, stale } from '../http/errors.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { Ad } from '../creatives/creative-model.js'
import { type MarketState } from '../exchange/market-model.js'
import { IdempotentAnswer } from '../http/answer-model.js'
import { Line, LineRevision } from '../lines/line-model.js'
import { now, personOf, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { findCampaign } from '../campaigns/campaigns.js'
import type { Deps } from '../deps.js'
import { adsOf, changesSince, findLine } from '../lines/lines.js'
import { once } from '../http/once.js'
import { lockMarket, publish, type Put } from './publications.js'
import { grantedDeals } from '../deals/granted.js'
import { findingsOf } from './preflight.js'
import { dataCost, measureOf, questionOf } from '../forecasts/questions.js'
import { readCampaign, readLine, type LineReading } from '../forecasts/reading.js'
import { meanViewPoint, viewPointOf } from '../lines/view-points.js'

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
  return {
    findings: await findingsOf(deps, draft, reading, await forecastOf(deps, actor, draft, reading)),
    campaigns: around.inForce.length === 0 ? 1 : 0,
    lines: isLive ? 0 : 1,
    ads: reading.ads.filter((ad) => ad.review !== 'cleared').length,
    ...money(draft, around.campaign),
    changes: revision ? changesSince(revision, line, reading.ads) : [],
    isLive,
    waits: draft.onceCleared === 'wait'
  }
}

async function rulesOf(
  line: Line,
  draft: LineDraft,
  organisationId: number,
  ads: readonly AdView[],
  { forecast, traffic, landscape, correction }: ForLive
): Promise<Omit<LineRules, 'revision' | 'liveFromHour'>> {
  const { model, maxMicros, adjustments, repeatDiscount, steps, aim } = draft.price
  const bidMicros = draft.price.bidMicros ?? maxMicros
  if (bidMicros === null) throw conflict('A line without a bid cannot go live.')
  return {
    line: line.id,
    campaign: line.campaignId,
    targeting: draft.targeting,
    shapes: shapesOf(draft.format).map((shape) => SHAPES.indexOf(shape)),
    price: { model, bidMicros, maxMicros, adjustments, repeatDiscount, steps },
    aim: aim ?? null,
    ...(correction === null ? {} : { firstCorrection: correction }),
    follow: landscape,
    zone: draft.zone,
    ...flightHours(draft.flight, draft.zone),
    limits: { ...NO_LIMITS, ...Object.fromEntries(Object.entries(draft.budget).map(([name, value]) => [name, value ?? null])) },
    pacing: draft.pacing,
    rotation: draft.rotation,
    caps: draft.caps,
    hours: draft.hours ?? null,
    gapMinutes: draft.gapMinutes ?? 0,
    dataMicros: dataCost(draft),
    viewPoint: meanViewPoint(draft, ads),
    buys: draft.buys ? { open: draft.buys.open, deals: await grantedDeals(draft.buys.deals, organisationId) } : undefined,
    traffic,
    demandMicros: forecast.demandMicros,
    ads: ads.flatMap((ad) =>
      ad.shapes.map((shape) => ({
        ad: ad.id,
        shape: (SHAPES as readonly string[]).indexOf(shape),
        weight: ad.weight,
        viewPoint: viewPointOf(draft, ad.seconds)
      }))
    )
  }
}

/** Makes an immutable revision; it is in force only as part of a publication. */
async function makeRevision(
  actor: Actor,
  line: Line,
  { draft, live, hour, keptAds }: { draft: LineDraft; live: ForLive; hour: number; keptAds?: LineRules['ads'] },
  transaction: Transaction
): Promise<LineRevision> {
  const ads = (await adsOf(line.id, transaction)).filter((ad) => ad.review === 'cleared')
  const made = (await rulesOf(line, draft, actor.organisationId, ads, live)) as LineRules
  const rules = keptAds ? { ...made, ads: keptAds } : made
  return LineRevision.create(
    { lineId: line.id, draft, rules, forecast: live.forecast, madeBy: actor.id, madeAt: now(), marketHour: hour },
    { transaction }
  )
}

/**
 * Puts a draft live, all of it or nothing. Asked again with the same token it answers as before and does nothing.
 * @param token of the confirmation, chosen by the page
 */
export async function putLive(deps: Deps, actor: Actor, lineId: number, version: number, token: string): Promise<LiveAnswer> {
  const route = `put live ${lineId}`
  return once(actor, token, route, () => retrying(() => putLiveNow(deps, actor, lineId, version, token, route)))
}

async function putLiveNow(deps: Deps, actor: Actor, lineId: number, version: number, token: string, route: string): Promise<LiveAnswer> {
  const before = await findLine(lineId)
  // What is worked out below is of this draft: a version that came between would go live as another.
  if (before.version !== version) throw stale('line', { version: before.version, draft: before.draft })
  const around = await readCampaign(deps.sequelize, await findCampaign(before.campaignId))
  const going = await readyToGo(deps, actor, {
    draft: before.draft,
    reading: await readLine(deps.sequelize, before, around),
    takesAds: true
  })
  return deps.sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    const line = await findLine(lineId, transaction)
    if (line.version !== version) throw stale('line', { version: line.version, draft: line.draft })
    const { put } = await goLive(line, going, state, actor, transaction)
    if (put) await publish(state, { puts: new Map([[lineId, put]]), madeBy: actor.id }, transaction)
    const answer: LiveAnswer = { line: lineId, state: line.state, fromHour: state.hour }
    await IdempotentAnswer.create({ userId: actor.id, token, route, answer, at: now() }, { transaction })
    return answer
  })
}

/** A draft that passed preflight, with what is kept of it when it goes live. */
export interface ReadyToGo {
  draft: LineDraft
  campaign: Campaign
  live: ForLive
  /** False where the line's ads stay those that are in force. */
  takesAds: boolean
}

/**
 * Checks a draft and works out what going live needs, before the market is locked.
 * @throws the findings that stop it
 */
export async function readyToGo(
  deps: Deps,
  actor: Actor,
  { draft, reading, takesAds }: { draft: LineDraft; reading: LineReading<Line>; takesAds: boolean }
): Promise<ReadyToGo> {
  if (reading.line.template) throw conflict('A template does not go live: copy it first.')
  // What stops a line is told before it is asked what it would bring.
  const refuse = (findings: readonly Finding[]) => {
    const stops = findings.filter((finding) => finding.severity === 'stops')
    if (stops.length > 0) throw invalid(stops.map(({ field, message }) => ({ field, message })))
  }
  refuse(await findingsOf(deps, draft, reading))
  await deps.liveLines.current()
  const live = await deps.pool.live(personOf(actor), await questionOf(deps, draft, reading))
  refuse(forecastFindings(draft, live.forecast, null))
  return { draft, campaign: reading.around.campaign, live, takesAds }
}

/** The market buys for whoever first brought a line into force. @throws for people of another organisation */
function claimMarket(state: MarketState, actor: Actor): void {
  if (state.organisationId !== null && state.organisationId !== actor.organisationId)
    throw conflict('The market buys for another organisation already: your lines can be drafted and forecast here, not put live.')
  state.organisationId = actor.organisationId
}

/** Makes a revision of a draft; the caller publishes what of it comes into force, and saves nothing else of the line. */
export async function goLive(
  line: Line,
  { draft, campaign, live, takesAds }: ReadyToGo,
  state: MarketState,
  actor: Actor,
  transaction: Transaction
): Promise<{ before: number | null; after: number; put: Put | null }> {
  const was = { state: line.state, revision: line.revisionId }
  claimMarket(state, actor)
  // Until a reviewer exists each ad is cleared at once; the states it passes through are those it will pass through then.
  if (line.state === 'draft') line.state = nextState(nextState(line.state, 'put live'), 'ad cleared')
  if (line.state === 'ended') {
    line.state = nextState(line.state, 'flight extended', line.stateBeforeEnd)
    line.liveFromHour = null
  }
  if (takesAds) await Ad.update({ review: 'cleared' }, { where: { lineId: line.id, removed: false }, transaction })
  const kept = takesAds || line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId, { transaction })
  const revision = await makeRevision(actor, line, { draft, live, hour: state.hour, keptAds: kept?.rules.ads }, transaction)
  line.revisionId = revision.id
  line.released = line.released || draft.onceCleared === 'start'
  takeFlight(line, draft, state.hour)
  line.version++
  const put = putOf(line, state.hour)
  await line.save({ transaction })
  await audit(
    actor,
    'put live',
    { kind: 'line', id: line.id, advertiserId: campaign.advertiserId },
    was,
    { state: line.state, revision: revision.id },
    transaction
  )
  return { before: was.revision, after: revision.id, put }
}

/** Flight hours of the draft that just became the revision; a released line in its flight is live. */
function takeFlight(line: Line, draft: LineDraft, hour: number): void {
  const { startHour, endHour } = flightHours(draft.flight, draft.zone)
  line.startHour = startHour
  line.endHour = endHour
  if (line.state === 'cleared' && line.released && startHour <= hour) line.state = nextState(line.state, 'start')
}

/** What a publication puts into force of a line, whose first hour is noted; null where its state keeps it out. */
export function putOf(line: Line, hour: number): Put | null {
  if (line.revisionId === null || !(line.state === 'live' || (line.state === 'cleared' && line.released))) return null
  line.liveFromHour ??= hour
  return { revisionId: line.revisionId, liveFromHour: line.liveFromHour }
}

export type LineMove = 'release' | 'pause' | 'resume' | 'end'

/** Releases, pauses, resumes or ends a line; acts from the next market hour. */
export async function moveLine({ sequelize }: Deps, actor: Actor, lineId: number, move: LineMove): Promise<void> {
  const campaign = await findCampaign((await findLine(lineId)).campaignId)
  await sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    const line = await findLine(lineId, transaction)
    const was = line.state
    if (move === 'release' || move === 'resume') claimMarket(state, actor)
    if (move === 'release') {
      if (line.state !== 'cleared' || line.released) throw conflict('Only a cleared line that waits can be released.')
      line.released = true
      takeReleased(line, state.hour)
    } else {
      line.stateBeforeEnd = move === 'end' ? line.state : line.stateBeforeEnd
      line.state = nextState(line.state, move)
    }
    if (move === 'pause' || move === 'end') line.liveFromHour = null
    line.version++
    const put = move === 'release' || move === 'resume' ? putOf(line, state.hour) : null
    await line.save({ transaction })
    await publish(state, { ...(put ? { puts: new Map([[lineId, put]]) } : { takes: [lineId] }), madeBy: actor.id }, transaction)
    await audit(actor, move, { kind: 'line', id: lineId, advertiserId: campaign.advertiserId }, was, line.state, transaction)
  })
}

function takeReleased(line: Line, hour: number): void {
  if (line.startHour !== null && line.startHour <= hour) line.state = nextState(line.state, 'start')
}

/**
 * Leaves placements out of a line, or takes them in again, at once: in the draft, and, when the line is in force, by a
 * new revision that differs from the last in this alone, so that edits not yet put live stay so.
 */
export async function leaveOut(deps: Deps, actor: Actor, lineId: number, placements: readonly number[], out: boolean): Promise<void> {
  const unknown = placements.find((placement) => !deps.catalogue.inventory.placements[placement])
  if (unknown !== undefined) throw invalidField('placements', `There is no placement of the number ${unknown}.`)
  const line = await findLine(lineId)
  const around = await readCampaign(deps.sequelize, await findCampaign(line.campaignId))
  const changed = (draft: LineDraft): LineDraft => {
    const values = new Set(valuesOf(draft.targeting, 'placement', 'exclude'))
    for (const placement of placements) {
      if (out) values.add(String(placement))
      else values.delete(String(placement))
    }
    return parseInput(lineSchema, { ...draft, targeting: withValues(draft.targeting, 'placement', 'exclude', [...values]) })
  }
  const revision = line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId, { rejectOnEmpty: true })
  const live = revision && changed(revision.draft)
  const reading = live && (await readLine(deps.sequelize, line, around))
  const kept = reading && (await deps.pool.live(personOf(actor), await questionOf(deps, live, reading)))
  await deps.sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    const locked = await findLine(lineId, transaction)
    if (locked.revisionId !== line.revisionId) throw stale('line', { version: locked.version, draft: locked.draft })
    locked.draft = changed(locked.draft)
    locked.version++
    if (live && kept) locked.revisionId = (await makeRevision(actor, locked, { draft: live, live: kept, hour: state.hour }, transaction)).id
    const put = live ? putOf(locked, state.hour) : null
    await locked.save({ transaction })
    if (put) await publish(state, { puts: new Map([[lineId, put]]), madeBy: actor.id }, transaction)
    await audit(
      actor,
      out ? 'leave out' : 'take in',
      { kind: 'line', id: lineId, advertiserId: around.advertiser.id },
      null,
      placements,
      transaction
    )
  })
}
