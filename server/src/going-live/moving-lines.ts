import { changedAt, lineSchema, nextState, parseInput, type LineDraft } from '@tin-harbor/core/buying'
import { positionsOf } from '@tin-harbor/core/market'
import { findCampaign } from '../campaigns/campaigns.js'
import type { Deps } from '../deps.js'
import { questionOf } from '../forecasts/questions.js'
import { readCampaign, readLine } from '../forecasts/reading.js'
import { conflict, invalidField, stale } from '../http/errors.js'
import { LineRevision, type Line } from '../lines/line-model.js'
import { findLine } from '../lines/lines.js'
import { personOf, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { claimMarket, putOf } from './claims.js'
import { makeRevision } from './line-rules.js'
import { lockMarket, publish } from './publications.js'

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
 * Leaves placements out of a line, takes them in again, or gives them a price of their own, at once: in the draft, and, when the line is
 * in force, by a new revision that differs from the last in this alone, so that edits not yet put live stay so.
 */
export async function changeAtPlacements(
  deps: Deps,
  actor: Actor,
  lineId: number,
  placements: readonly string[],
  change: { out: boolean } | { ownMicros: number | null }
): Promise<void> {
  const known = positionsOf(deps.catalogue.inventory).placement
  const unknown = placements.find((placement) => !known.has(placement))
  if (unknown !== undefined) throw invalidField('placements', `No placement is called “${unknown}”.`)
  const line = await findLine(lineId)
  const around = await readCampaign(deps.sequelize, await findCampaign(line.campaignId))
  const named = [...new Set(placements)]
  const changed = (draft: LineDraft) => parseInput(lineSchema, changedAt(draft, 'placement', named, change))
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
    if (live && kept) {
      const made = { draft: live, live: kept, hour: state.hour, kept: revision?.rules }
      locked.revisionId = (await makeRevision(actor, locked, made, transaction)).id
    }
    const put = live ? putOf(locked, state.hour) : null
    await locked.save({ transaction })
    if (put) await publish(state, { puts: new Map([[lineId, put]]), madeBy: actor.id }, transaction)
    const action = 'out' in change ? (change.out ? 'leave out' : 'take in') : 'own price'
    const told = 'out' in change ? placements : { placements, ownMicros: change.ownMicros }
    await audit(actor, action, { kind: 'line', id: lineId, advertiserId: around.advertiser.id }, null, told, transaction)
  })
}
