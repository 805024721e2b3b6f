import type { Sequelize, Transaction } from 'sequelize'
import { lineSchema, nextState, parseInput, withAdsInOrder, type FieldChange, type LineDraft } from '@tin-harbor/core/buying'
import type { AdView, LineView } from '@tin-harbor/core/contract'
import { changesBetween } from '@tin-harbor/core/wording'
import { AIM_PLURALS, LEAST_EVENTS, OUTCOMES, learnedEvent } from '@tin-harbor/core/exchange'
import { conflict, invalidField, stale, unknownObject } from '../http/errors.js'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { Ad } from '../creatives/creative-model.js'
import { adsOf } from './ads-shown.js'
import { Line, LineRevision } from './line-model.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { findCampaign, requireInside } from '../campaigns/campaigns.js'
import { TALLIED_EVENT } from '../delivery/line-facts.js'
import { outcomesOf } from '../delivery/outcomes.js'
import { sumsBy } from '../delivery/roll-ups.js'
import { withListValues } from '../lists/lists.js'
import { chargeOf, leftFor, stoppedWords } from '../money/funds.js'
import { reviewsOfLine } from '../review/views.js'

export async function findLine(id: number, transaction?: Transaction): Promise<Line> {
  const line = await Line.findByPk(id, transaction ? { transaction, lock: transaction.LOCK.UPDATE } : {})
  if (!line) throw unknownObject('line')
  return line
}

export async function advertiserOfLine(id: number): Promise<number> {
  const line = await findLine(id)
  return (await findCampaign(line.campaignId)).advertiserId
}

/** Advertisers of some lines, each once; lines that are not there have none. */
export async function advertisersOfLines(lines: readonly number[]): Promise<number[]> {
  const campaigns = (await Line.findAll({ attributes: ['campaignId'], where: { id: [...lines] } })).map(({ campaignId }) => campaignId)
  const found = await Campaign.findAll({ attributes: ['advertiserId'], where: { id: [...new Set(campaigns)] } })
  return [...new Set(found.map(({ advertiserId }) => advertiserId))]
}

const OUTCOME_WORDS: Readonly<Record<string, string>> = {
  no_ad: 'no ad fits what it matches',
  below_floor: 'its bid is under the floors',
  outbid: 'it is outbid',
  no_money: 'there is no money for it',
  total_budget: 'its total budget is used up',
  period_budget: "today's budget is used up",
  paced_out: 'paced; its plan for the hour is met',
  capped: 'everybody it matches has reached the cap',
  gap: 'everybody it matches saw it a moment ago',
  placement_limit: 'the daily limit of its placements or sources is used up',
  outbid_after_discount: 'after the repeat discount it is outbid',
  own_line: 'another line of yours bids more',
  won: 'serving'
}

/** Why a line does or does not serve, from its state and the last hour's outcomes. */
async function servingWords(sequelize: Sequelize, line: Line, advertiserId: number, hour: number): Promise<string> {
  if (line.state === 'cleared') return line.released ? 'starts with its flight' : 'waits for release'
  if (line.state !== 'live') return `does not serve: ${line.state}`
  if (line.startHour !== null && hour < line.startHour) return 'not yet in flight'
  const left = await leftFor(sequelize, await Advertiser.findByPk(advertiserId, { rejectOnEmpty: true }), hour)
  const counts = await outcomesOf(sequelize, line.id, hour - 1, hour)
  const stopped = stoppedWords(left, counts.no_money > 0 ? chargeOf(line.draft.price) : 0)
  if (stopped) return `does not serve: ${stopped}`
  if (counts.no_money > 0) return 'goes on with the next market hour: there is money again'
  const total = OUTCOMES.reduce((sum, outcome) => sum + counts[outcome], 0)
  if (total === 0)
    return line.liveFromHour !== null && line.liveFromHour >= hour
      ? 'begins with the next market hour'
      : 'does not serve: nothing matched in the last hour'
  const { won, paced_out: paced } = counts
  if (won > 0)
    return paced > 0
      ? `serving; paced to ${Math.round((100 * won) / (won + paced))} % of what it could win`
      : `serving; won ${Math.round((100 * won) / total)} % of what it matched in the last hour`
  const most = OUTCOMES.reduce((a, b) => (counts[b] > counts[a] ? b : a))
  return `does not serve: ${OUTCOME_WORDS[most] ?? most}`
}

/** What a line in force has gathered of what it pays for or aims at. */
async function learningWords(sequelize: Sequelize, line: Line, revision: LineRevision | null): Promise<string> {
  const event = revision ? learnedEvent(revision.rules) : null
  if (event === null) return ''
  const words = AIM_PLURALS[event]
  const counted = TALLIED_EVENT[event]
  const gathered = (await sumsBy(sequelize, 'line', [counted], { lines: [line.id] }))[0]?.[counted] ?? 0
  return gathered >= LEAST_EVENTS
    ? `bids by what ${gathered} ${words} say of placement, device, hour and ad`
    : `${gathered} of ${LEAST_EVENTS} ${words} gathered; until then it bids by the trade's averages and its own level`
}

/** What putting the draft live would change of the revision in force, its ads included. */
export function changesSince(revision: LineRevision, line: Line, ads: readonly AdView[]): FieldChange[] {
  const was = [...new Set(revision.rules.ads.map(({ ad }) => ad))]
  const is = ads.map(({ id }) => id)
  const words = (n: number, fresh: number) => `${n} ${n === 1 ? 'ad' : 'ads'}${fresh > 0 ? `, ${fresh} of them new` : ''}`
  const fresh = is.filter((id) => !was.includes(id)).length
  const same = fresh === 0 && was.length === is.length
  return [
    ...changesBetween(revision.draft, line.draft),
    ...(same ? [] : [{ field: 'creatives', before: words(was.length, 0), after: words(is.length, fresh) }])
  ]
}

export async function lineView(sequelize: Sequelize, id: number, hour: number): Promise<LineView> {
  const line = await findLine(id)
  const campaign = await findCampaign(line.campaignId)
  const revision = line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId, { rejectOnEmpty: true })
  const ads = await adsOf(id)
  return {
    id,
    code: `L-${id}`,
    campaignId: line.campaignId,
    advertiserId: campaign.advertiserId,
    draft: line.draft,
    state: line.state,
    waits: line.state === 'cleared' && !line.released,
    version: line.version,
    ads,
    reviews: await reviewsOfLine(id),
    inForce: revision && {
      draft: revision.draft,
      forecast: revision.forecast,
      marketHour: revision.marketHour,
      changes: changesSince(revision, line, ads)
    },
    serving: await servingWords(sequelize, line, campaign.advertiserId, hour),
    learning: await learningWords(sequelize, line, revision),
    tags: line.tags ?? [],
    template: line.template,
    copiedFrom: await originalOf(line)
  }
}

/** The line that one was copied from, and how they differ by now; null for none, or one that is gone. */
async function originalOf(line: Line): Promise<LineView['copiedFrom']> {
  const original = line.copiedFrom === null ? null : await Line.findByPk(line.copiedFrom)
  // The ads of a copy are ads of their own: they are told apart by their order.
  return (
    original && {
      id: original.id,
      name: original.draft.name,
      differs: changesBetween(withAdsInOrder(original.draft), withAdsInOrder(line.draft))
    }
  )
}

export async function createLine(sequelize: Sequelize, actor: Actor, campaign: Campaign, typed: LineDraft): Promise<number> {
  requireInside(typed, campaign)
  return sequelize.transaction(async (transaction) => {
    await requireOwnAds(typed, null, transaction)
    const draft = await withListValues(actor, typed, transaction)
    const line = await Line.create({ campaignId: campaign.id, draft, state: 'draft' }, { transaction })
    await audit(actor, 'create', { kind: 'line', id: line.id, advertiserId: campaign.advertiserId }, null, draft, transaction)
    return line.id
  })
}

/** Saves the draft. What is live stays as it is until the draft is put live. */
export async function saveLine(sequelize: Sequelize, actor: Actor, id: number, version: number, typed: LineDraft): Promise<void> {
  const campaign = await findCampaign((await findLine(id)).campaignId)
  requireInside(typed, campaign)
  await sequelize.transaction(async (transaction) => {
    // Lists before lines, as where a list is saved, so that neither waits for the other.
    const draft = await withListValues(actor, typed, transaction)
    const line = await findLine(id, transaction)
    if (line.version !== version)
      throw stale('line', { version: line.version, draft: line.draft, changes: changesBetween(draft, line.draft), current: `L-${id}` })
    await writeDraft(actor, line, draft, campaign.advertiserId, transaction)
  })
}

/** Ads that a draft says something of are the line's, or were. */
async function requireOwnAds({ ads = [] }: LineDraft, line: number | null, transaction: Transaction): Promise<void> {
  if (ads.length === 0) return
  const own = line === null ? [] : await Ad.findAll({ attributes: ['id'], where: { lineId: line }, transaction })
  const known = new Set(own.map(({ id }) => id))
  const place = ads.findIndex(({ ad }) => !known.has(ad))
  if (place >= 0) throw invalidField(`ads[${place}].ad`, `Ad ${ads[place].ad} is not on this line.`)
}

/** Writes a draft whose line is locked. */
export async function writeDraft(
  actor: Actor,
  line: Line,
  draft: LineDraft,
  advertiserId: number,
  transaction: Transaction
): Promise<void> {
  await requireOwnAds(draft, line.id, transaction)
  const was = line.draft
  const state = line.state === 'refused' ? nextState(line.state, 'edit') : line.state
  await line.update({ draft, state, version: line.version + 1 }, { transaction })
  await audit(actor, 'save', { kind: 'line', id: line.id, advertiserId }, was, draft, transaction)
}

/**
 * Gives lines of a campaign their daily budgets, all or none; on lines that are live they wait like any edit.
 * @param parts with the version of each line that they were worked out for
 */
export async function saveDailyBudgets(
  sequelize: Sequelize,
  actor: Actor,
  campaign: Campaign,
  parts: readonly { line: number; version: number; dailyMicros: number }[]
): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    // Always in one order, so that two who save at once do not wait for each other.
    for (const { line: id, version, dailyMicros } of [...parts].sort((a, b) => a.line - b.line)) {
      const line = await findLine(id, transaction)
      if (line.campaignId !== campaign.id) throw unknownObject('line')
      if (line.version !== version) throw conflict(`“${line.draft.name}” was changed meanwhile; nothing was saved.`)
      await writeDraft(
        actor,
        line,
        parseInput(lineSchema, { ...line.draft, budget: { ...line.draft.budget, dailyMicros } }),
        campaign.advertiserId,
        transaction
      )
    }
  })
}

/** Deletes a draft that was never live, with its ads. */
export async function deleteDraft(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  const advertiserId = await advertiserOfLine(id)
  await sequelize.transaction(async (transaction) => {
    const line = await findLine(id, transaction)
    if (line.state !== 'draft' || line.revisionId !== null) throw conflict('Only a draft that was never live can be deleted.')
    await Ad.destroy({ where: { lineId: id }, transaction })
    await audit(actor, 'delete', { kind: 'line', id, advertiserId }, line.draft, null, transaction)
    await line.destroy({ transaction })
  })
}
