import type { Transaction } from 'sequelize'
import { flightHours, nextState, withAdsOn, type Finding, type LineDraft } from '@tin-harbor/core/buying'
import type { LiveAnswer } from '@tin-harbor/core/contract'
import type { ForLive } from '@tin-harbor/core/forecast'
import { forecastFindings } from '@tin-harbor/core/preflight'
import { retrying } from '../database/connection.js'
import { conflict, invalid, stale } from '../http/errors.js'
import type { Campaign } from '../campaigns/campaign-model.js'
import { Ad } from '../creatives/creative-model.js'
import type { MarketState } from '../exchange/market-model.js'
import { IdempotentAnswer } from '../http/answer-model.js'
import { LineRevision, type Line } from '../lines/line-model.js'
import { now, personOf, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { findCampaign } from '../campaigns/campaigns.js'
import type { Deps } from '../deps.js'
import { adsShownOn } from '../lines/ads-shown.js'
import { findLine } from '../lines/lines.js'
import { once } from '../http/once.js'
import { questionOf } from '../forecasts/questions.js'
import { readCampaign, readLine, type LineReading } from '../forecasts/reading.js'
import { claimMarket, putOf } from './claims.js'
import { publishersOf, sendAds, settleLine, type Publisher } from '../review/sending.js'
import type { ReadyAd } from '../review/seen.js'
import { adsAround, readyAds, unseenAds } from '../review/subject.js'
import { makeRevision } from './line-rules.js'
import { findingsOf } from './preflight.js'
import { lockMarket, publish, type Put } from './publications.js'

/**
 * Puts a draft live, all of it or nothing. Asked again with the same token it answers as before and does nothing.
 * @param token of the confirmation, chosen by the page
 */
export async function putLive(deps: Deps, actor: Actor, lineId: number, version: number, token: string): Promise<LiveAnswer> {
  const route = `put live ${lineId}`
  const answer = await once(actor, token, route, () => retrying(() => putLiveNow(deps, actor, lineId, version, token, route)))
  await deps.reviews.ask()
  // Who answers at once has, by now.
  return { ...answer, state: (await findLine(lineId)).state }
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
    const { put } = await goLive(line, going, state, { actor }, transaction)
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
  /** Its ads as they are shown to whoever reviews them. */
  ready: readonly ReadyAd[]
  publishers: readonly Publisher[]
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
  const { campaign, advertiser } = reading.around
  const around = await adsAround(deps.store, advertiser, campaign)
  const publishers = await publishersOf(deps, draft.buys?.deals ?? [], advertiser.organisationId)
  return {
    draft,
    campaign,
    live,
    takesAds,
    // Publishers look at what the reviewer cleared before, too.
    ready: await (publishers.length > 0 ? readyAds : unseenAds)(around, draft, await adsShownOn(reading.line.id)),
    publishers
  }
}

/** Makes a revision of a draft; the caller publishes what of it comes into force, and saves nothing else of the line. */
export async function goLive(
  line: Line,
  { draft: typed, campaign, live, takesAds, ready, publishers }: ReadyToGo,
  state: MarketState,
  { actor, slip = null }: { actor: Actor; slip?: number | null },
  transaction: Transaction
): Promise<{ before: number | null; after: number; put: Put | null }> {
  const was = { state: line.state, revision: line.revisionId }
  claimMarket(state, actor)
  if (line.state === 'refused') line.state = nextState(line.state, 'edit')
  if (line.state === 'draft') line.state = nextState(line.state, 'put live')
  if (line.state === 'ended') {
    line.state = nextState(line.state, 'flight extended', line.stateBeforeEnd)
    line.liveFromHour = null
  }
  let draft = typed
  if (takesAds) {
    const where = { lineId: line.id, removed: false }
    const on = new Set((await Ad.findAll({ attributes: ['id'], where, transaction })).map(({ id }) => id))
    // No way leads back to ads that were taken off: what is said of them would be kept for ever.
    draft = withAdsOn(typed, on)
    line.draft = withAdsOn(line.draft, on)
  }
  const kept = takesAds || line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId, { transaction })
  const revision = await makeRevision(actor, line, { draft, live, hour: state.hour, kept: kept?.rules }, transaction)
  line.revisionId = revision.id
  line.released = line.released || draft.onceCleared === 'start'
  takeFlight(line, draft, state.hour)
  const ads = [...new Set(revision.rules.ads.map(({ ad }) => ad))]
  const { advertiserId } = campaign
  await sendAds({ line, advertiserId, ads, ready, publishers, hour: state.hour, sentBy: actor.id }, transaction)
  await settleLine(line, state.hour, transaction)
  line.version++
  const put = putOf(line, state.hour)
  await line.save({ transaction })
  await audit(
    actor,
    'put live',
    { kind: 'line', id: line.id, advertiserId: campaign.advertiserId, slip },
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
