import { Op, type Transaction } from 'sequelize'
import { InputError, WHOLE_LINE, expectedOf, lineSchema, parseInput, type LineDraft, type SlipItem } from '@tin-harbor/core/buying'
import type { SlipView, SlipsView, StagedForecast, StagedLine } from '@tin-harbor/core/contract'
import { AIM_PLURALS, learnedEvent } from '@tin-harbor/core/exchange'
import { withFields } from '@tin-harbor/core/wording'
import { retrying } from '../database/connection.js'
import { AppError, conflict, notAllowed, stale, unknownObject } from '../http/errors.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { IdempotentAnswer } from '../http/answer-model.js'
import { Line, LineRevision } from '../lines/line-model.js'
import { Slip } from './slip-model.js'
import { User } from '../team/user-model.js'
import { maySee, now, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { findCampaign, requireInside } from '../campaigns/campaigns.js'
import { landingsAround, type LandingsAround } from '../links/landing.js'
import { takeUpLinks } from '../review/sending.js'
import type { Deps } from '../deps.js'
import { readCampaign, readLine, type CampaignReading } from '../forecasts/reading.js'
import { advertisersOfLines, changesSince } from '../lines/lines.js'
import { maybeStaged } from './staged.js'
import { findingsOf } from '../going-live/preflight.js'
import { once } from '../http/once.js'
import { severalAtOnce } from '../database/several-at-once.js'
import { lockMarket, publish, type Put } from '../going-live/publications.js'
import { putOf } from '../going-live/claims.js'
import { forecastOf } from '../going-live/live-plan.js'
import { goLive, readyToGo, type ReadyToGo } from '../going-live/putting-live.js'

/** A line with its campaign, for an actor who sees it. */
interface Seen {
  line: Line
  campaign: Campaign
}

async function seenLines(actor: Actor, where: { id?: number[] } = {}): Promise<Seen[]> {
  const lines = await Line.findAll({ where: { ...where, template: false }, order: [['id', 'ASC']] })
  const campaigns = new Map(
    (await Campaign.findAll({ where: { id: [...new Set(lines.map((line) => line.campaignId))] } })).map((campaign) => [
      campaign.id,
      campaign
    ])
  )
  return lines
    .map((line) => ({ line, campaign: campaigns.get(line.campaignId) as Campaign }))
    .filter(({ campaign }) => maySee(actor, campaign.advertiserId))
}

/** The lines that a slip names. @throws where one is unknown or not seen */
async function linesOf(actor: Actor, items: readonly SlipItem[]): Promise<(Seen & { fields: string[] })[]> {
  const seen = new Map((await seenLines(actor, { id: items.map((item) => item.line) })).map((one) => [one.line.id, one]))
  return items.map(({ line, fields }) => {
    const found = seen.get(line)
    if (!found) throw notAllowed(`You do not see line L-${line}, or it is gone.`)
    return { ...found, fields }
  })
}

/** Readings of campaigns, each made once however many of their lines are looked at. */
function campaignsOnce({ sequelize }: Deps): (campaign: Campaign) => Promise<CampaignReading> {
  const known = new Map<number, Promise<CampaignReading>>()
  return (campaign) => {
    const found = known.get(campaign.id) ?? readCampaign(sequelize, campaign)
    known.set(campaign.id, found)
    return found
  }
}

async function stagedOf(deps: Deps, line: Line, around: CampaignReading): Promise<StagedLine | null> {
  const reading = await readLine(deps.sequelize, line, around)
  const revision = await LineRevision.findByPk(line.revisionId as number, { rejectOnEmpty: true })
  const changes = changesSince(revision, line, reading.ads)
  if (changes.length === 0) return null
  const learned = learnedEvent(revision.rules)
  const next = learnedEvent({
    ...revision.rules,
    price: { ...revision.rules.price, model: line.draft.price.model },
    aim: line.draft.price.aim ?? null
  })
  return {
    line: line.id,
    code: `L-${line.id}`,
    name: line.draft.name,
    campaign: around.campaign.name,
    state: line.state,
    changes,
    findings: await findingsOf(deps, line.draft, reading),
    forgets: learned !== null && learned !== next ? `what ${AIM_PLURALS[learned]} taught its bids` : ''
  }
}

/** Everything that is staged, and the slips that were made of it. */
export async function slipsFor(deps: Deps, actor: Actor): Promise<SlipsView> {
  const seen = await seenLines(actor)
  const differ = await maybeStaged(deps.sequelize)
  const around = campaignsOnce(deps)
  const staged = (
    await severalAtOnce(
      seen.filter(({ line }) => differ.has(line.id)),
      async ({ line, campaign }) => stagedOf(deps, line, await around(campaign))
    )
  ).filter((found) => found !== null)
  const mine = new Set(seen.map(({ line }) => line.id))
  const slips = (await Slip.findAll({ where: { state: { [Op.ne]: 'taken back' } }, order: [['id', 'DESC']], limit: 60 })).filter((slip) =>
    slip.items.every((item) => mine.has(item.line))
  )
  const names = new Map(
    (await User.findAll({ where: { id: slips.flatMap((slip) => slip.madeBy ?? []) } })).map((user) => [user.id, user.name])
  )
  const revisions = new Map(seen.map(({ line }) => [line.id, line.revisionId]))
  return { staged, slips: slips.map((slip) => viewOf(slip, names.get(slip.madeBy ?? -1) ?? 'nobody', revisions)) }
}

/** What the staged lines bring as they are in force, and would with their edits: both asked now. */
export async function stagedForecasts(deps: Deps, actor: Actor): Promise<StagedForecast[]> {
  const differ = await maybeStaged(deps.sequelize)
  const around = campaignsOnce(deps)
  return severalAtOnce(
    (await seenLines(actor)).filter(({ line }) => differ.has(line.id)),
    async ({ line, campaign }) => {
      const revision = await LineRevision.findByPk(line.revisionId as number, { rejectOnEmpty: true })
      const reading = await readLine(deps.sequelize, line, await around(campaign))
      const ask = async (draft: LineDraft) => {
        const told = await forecastOf(deps, actor, draft, reading)
        return told && expectedOf(told)
      }
      return { line: line.id, before: await ask(revision.draft), after: await ask(line.draft) }
    }
  )
}

function viewOf(
  { id, name, state, items, liveHour, revisions }: Slip,
  madeBy: string,
  inForce: ReadonlyMap<number, number | null>
): SlipView {
  const changed = (revisions ?? []).filter(({ line, after }) => inForce.get(line) !== after)
  const fresh = (revisions ?? []).filter(({ before }) => before === 0)
  const stands =
    state !== 'live'
      ? null
      : changed.length > 0
        ? `L-${changed[0].line} went live again since.`
        : fresh.length > 0
          ? `L-${fresh[0].line} was not live before: pause or end it instead.`
          : null
  return { id, name, state, items, madeBy, liveHour, stands }
}

/** Of all lines that a slip names. */
export async function advertisersOfSlip(id: number): Promise<number[]> {
  const slip = await Slip.findByPk(id)
  if (!slip) throw unknownObject('slip')
  return advertisersOfLines(slip.items.map(({ line }) => line))
}

/** Moves chosen edits to a slip of their own. Edits that are on another open slip leave it. */
export async function createSlip({ sequelize }: Deps, actor: Actor, name: string, items: SlipItem[]): Promise<{ id: number }> {
  await linesOf(actor, items)
  return sequelize.transaction(async (transaction) => {
    await takeFromOthers(items, transaction)
    const slip = await Slip.create({ name, items, state: 'open', madeBy: actor.id, madeAt: now() }, { transaction })
    await audit(actor, 'create', { kind: 'slip', id: slip.id, advertiserId: null }, null, items, transaction)
    return { id: slip.id }
  })
}

async function takeFromOthers(items: readonly SlipItem[], transaction: Transaction): Promise<void> {
  const taken = new Map(items.map((item) => [item.line, new Set(item.fields)]))
  for (const slip of await Slip.findAll({ where: { state: 'open' }, transaction, lock: transaction.LOCK.UPDATE })) {
    const left = slip.items
      .map((item) => ({ ...item, fields: item.fields.filter((field) => !taken.get(item.line)?.has(field)) }))
      .filter((item) => item.fields.length > 0)
    if (JSON.stringify(left) === JSON.stringify(slip.items)) continue
    if (left.length === 0) await slip.destroy({ transaction })
    else await slip.update({ items: left }, { transaction })
  }
}

/** Takes an open slip apart: its edits stay staged. */
export async function dropSlip({ sequelize }: Deps, actor: Actor, id: number): Promise<void> {
  const slip = await Slip.findByPk(id)
  if (!slip || slip.state !== 'open') throw unknownObject('open slip')
  await linesOf(actor, slip.items)
  await sequelize.transaction(async (transaction) => {
    const locked = await Slip.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE })
    if (locked?.state !== 'open') throw unknownObject('open slip')
    await audit(actor, 'delete', { kind: 'slip', id, advertiserId: null }, locked.items, null, transaction)
    await locked.destroy({ transaction })
  })
}

/** The draft that a slip puts live of a line: what is in force with the chosen edits, or all of a line that never was. */
async function targetOf(
  { line, fields }: Seen & { fields: string[] },
  deps: Deps,
  actor: Actor,
  around: CampaignReading
): Promise<ReadyToGo> {
  const revision = line.revisionId === null ? null : await LineRevision.findByPk(line.revisionId)
  if (!revision && fields[0] !== WHOLE_LINE) throw conflict(`L-${line.id} was never live: it goes live as a whole.`)
  // Some edits without the others may be no line at all: an aim without the maximum that it needs.
  const draft =
    revision && fields[0] !== WHOLE_LINE
      ? parseInput(
          lineSchema,
          withFields(
            revision.draft,
            line.draft,
            fields.filter((field) => field !== 'creatives')
          )
        )
      : line.draft
  requireInside(draft, around.campaign)
  const takesAds = !revision || fields[0] === WHOLE_LINE || fields.includes('creatives')
  return readyToGo(deps, actor, { draft, reading: await readLine(deps.sequelize, line, around), takesAds })
}

interface SlipAnswer {
  id: number
  lines: number
  fromHour: number
}
const ROUTE = 'slip live'

/**
 * Puts a slip live, all of it or none; asked again with the same token it answers as before and does nothing.
 * @param what a slip that was made, or edits to be put live as a slip of their own
 */
export async function slipLive(
  deps: Deps,
  actor: Actor,
  what: { id: number } | { name: string; items: SlipItem[] },
  token: string
): Promise<SlipAnswer> {
  const answer = await once(actor, token, ROUTE, () => retrying(() => slipLiveNow(deps, actor, what, token)))
  await deps.reviews.ask()
  return answer
}

async function slipLiveNow(
  deps: Deps,
  actor: Actor,
  what: { id: number } | { name: string; items: SlipItem[] },
  token: string
): Promise<SlipAnswer> {
  const slip = 'id' in what ? await Slip.findByPk(what.id) : null
  if ('id' in what && slip?.state !== 'open') throw conflict('This slip is not open: it went live, or was taken apart.')
  const items = 'id' in what ? (slip as Slip).items : what.items
  const lines = await linesOf(actor, items)
  const around = campaignsOnce(deps)
  const going = await severalAtOnce(lines, async (one) =>
    targetOf(one, deps, actor, await around(one.campaign)).catch((error: unknown) => {
      // Of many lines it must be said which one stops the slip.
      const issues = error instanceof InputError || (error instanceof AppError && error.status === 422) ? error.issues : null
      if (issues)
        throw new AppError(
          422,
          'invalid',
          `${one.line.draft.name}: ${issues.map(({ message }) => message).join(' ')}`,
          issues.map((issue) => ({ ...issue, field: `L-${one.line.id}.${issue.field}` }))
        )
      throw error
    })
  )
  return deps.sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    if (slip) await Slip.destroy({ where: { id: slip.id }, transaction })
    // What it does is noted with its number.
    const made = await Slip.create(
      {
        ...(slip ? { id: slip.id } : {}),
        name: slip?.name ?? ('name' in what ? what.name : ''),
        items: [...items],
        state: 'live',
        liveHour: state.hour,
        madeBy: actor.id,
        madeAt: now()
      },
      { transaction }
    )
    const revisions: { line: number; before: number; after: number }[] = []
    const puts = new Map<number, Put>()
    for (const [n, { line: read }] of lines.entries()) {
      const line = (await Line.findByPk(read.id, { transaction, lock: transaction.LOCK.UPDATE })) as Line
      if (line.version !== read.version) throw stale('line', { version: line.version, draft: line.draft, line: line.id })
      const { before, after, put } = await goLive(line, going[n], state, { actor, slip: made.id }, transaction)
      revisions.push({ line: line.id, before: before ?? 0, after })
      if (put) puts.set(line.id, put)
    }
    if (puts.size > 0) await publish(state, { puts, madeBy: actor.id }, transaction)
    await takeFromOthers(items, transaction)
    await made.update({ revisions }, { transaction })
    await audit(actor, 'put live', { kind: 'slip', id: made.id, advertiserId: null }, items, revisions, transaction)
    const answer = { id: made.id, lines: lines.length, fromHour: state.hour }
    await IdempotentAnswer.create({ userId: actor.id, token, route: ROUTE, answer, at: now() }, { transaction })
    return answer
  })
}

/** Takes a slip that is live back as a whole: what was in force before it is again, and its edits leave the drafts. */
export async function takeBack({ sequelize }: Deps, actor: Actor, id: number): Promise<void> {
  const slip = await Slip.findByPk(id)
  if (slip?.state !== 'live') throw conflict('Only a slip that is live can be taken back.')
  const lines = await linesOf(actor, slip.items)
  await sequelize.transaction(async (transaction) => {
    const state = await lockMarket(transaction)
    const locked = await Slip.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE })
    if (locked?.state !== 'live') throw conflict('Only a slip that is live can be taken back.')
    const puts = new Map<number, Put>()
    for (const { line, before, after } of slip.revisions ?? []) {
      const found = lines.find((one) => one.line.id === line)
      const own = (await Line.findByPk(line, { transaction, lock: transaction.LOCK.UPDATE })) as Line
      if (before === 0) throw conflict(`L-${line} was not live before this slip: pause or end it instead.`)
      if (own.revisionId !== after) throw conflict(`L-${line} went live again since; take that back first.`)
      const around = await landingsAround(await findCampaign(own.campaignId))
      const put = await restore(
        own,
        before,
        slip.items.find((item) => item.line === line)?.fields ?? [],
        { hour: state.hour, around },
        transaction
      )
      if (put) puts.set(line, put)
      await audit(
        actor,
        'take back',
        { kind: 'line', id: line, advertiserId: found?.campaign.advertiserId ?? null, slip: id },
        after,
        before,
        transaction
      )
    }
    if (puts.size > 0) await publish(state, { puts, madeBy: actor.id }, transaction)
    await locked.update({ state: 'taken back' }, { transaction })
    await audit(actor, 'take back', { kind: 'slip', id, advertiserId: null }, slip.revisions, null, transaction)
  })
}

/** A line as it was in force before, its draft without the slip's edits; a line that ended meanwhile stays ended. */
async function restore(
  line: Line,
  revisionId: number,
  fields: readonly string[],
  { hour, around }: { hour: number; around: LandingsAround },
  transaction: Transaction
): Promise<Put | null> {
  const before = await LineRevision.findByPk(revisionId, { transaction, rejectOnEmpty: true })
  const named = fields.filter((field) => field !== 'creatives' && field !== WHOLE_LINE)
  line.revisionId = revisionId
  line.draft = fields.includes(WHOLE_LINE) ? before.draft : withFields(line.draft, before.draft, named)
  line.version++
  await takeUpLinks(line.id, before.draft, around, transaction)
  const put = putOf(line, hour)
  await line.save({ transaction })
  return put
}
