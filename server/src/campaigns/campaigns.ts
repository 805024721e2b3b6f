import type { Sequelize } from 'sequelize'
import { checkInsideCampaign, flightDays, flightHours, type CampaignDraft, type LineDraft } from '@tin-harbor/core/buying'
import type { AdvertiserView, CampaignView, ManifestView, Pace } from '@tin-harbor/core/contract'
import { daysDue, joined, type HourRange } from '@tin-harbor/core/results'
import { changesBetween } from '@tin-harbor/core/wording'
import { dateOfDay, dayOfDate, localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { invalid, invalidField, notAllowed, stale, unknownObject } from '../http/errors.js'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Offer } from '../advertisers/offer-model.js'
import { Campaign } from './campaign-model.js'
import { Line } from '../lines/line-model.js'
import { may, maySee, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { sumsBy } from '../delivery/roll-ups.js'
import { chargeOf, leftFor, stoppedWords } from '../money/funds.js'
import type { Deps } from '../deps.js'
import { hoursInForce } from '../going-live/in-force.js'
import { maybeStaged } from '../slips/staged.js'
import { linesInForce, lockMarket, publish } from '../going-live/publications.js'

export function campaignView(campaign: Campaign): CampaignView {
  return {
    id: campaign.id,
    code: `C-${campaign.id}`,
    advertiserId: campaign.advertiserId,
    version: campaign.version,
    name: campaign.name,
    goal: campaign.goal,
    flight: { startDate: campaign.startDate, endDate: campaign.endDate },
    budget: { totalMicros: campaign.totalMicros, dailyMicros: campaign.dailyMicros, ...campaign.longerLimits },
    caps: campaign.caps ?? [],
    target: campaign.target ?? null,
    linkTail: campaign.linkTail,
    note: campaign.note,
    offerId: campaign.offerId ?? null,
    landings: campaign.landings ?? []
  }
}

const columns = ({
  name,
  goal,
  flight,
  budget: { totalMicros, dailyMicros, ...longer },
  caps,
  target = null,
  linkTail = '',
  note = '',
  offerId = null,
  landings = []
}: CampaignDraft) => ({
  name,
  goal,
  startDate: flight.startDate,
  endDate: flight.endDate,
  totalMicros,
  dailyMicros,
  longerLimits: longer,
  caps: caps ?? [],
  target,
  linkTail,
  note,
  offerId,
  landings
})

export async function findCampaign(id: number): Promise<Campaign> {
  const campaign = await Campaign.findByPk(id)
  if (!campaign) throw unknownObject('campaign')
  return campaign
}

export async function createCampaign(
  sequelize: Sequelize,
  actor: Actor,
  advertiserId: number,
  draft: CampaignDraft
): Promise<CampaignView> {
  await requireOwnOffer(draft, advertiserId)
  return sequelize.transaction(async (transaction) => {
    const campaign = await Campaign.create({ advertiserId, ...columns(draft) }, { transaction })
    await audit(actor, 'create', { kind: 'campaign', id: campaign.id, advertiserId }, null, draft, transaction)
    return campaignView(campaign)
  })
}

/** A campaign sells what its own advertiser offers. */
async function requireOwnOffer({ offerId }: CampaignDraft, advertiserId: number): Promise<void> {
  if (offerId == null) return
  if (!(await Offer.findOne({ where: { id: offerId, advertiserId } }))) throw invalidField('offerId', 'Not an offer of this advertiser.')
}

/**
 * Saves a campaign. Its money and flight act on lines in force from the next market hour, so a new publication is made
 * when there are such lines.
 */
export async function saveCampaign(
  sequelize: Sequelize,
  actor: Actor,
  id: number,
  version: number,
  draft: CampaignDraft
): Promise<CampaignView> {
  return sequelize.transaction(async (transaction) => {
    // What is in force is read under the lock that putting live takes as well.
    const state = await lockMarket(transaction)
    const inForce = (await linesInForce(sequelize, id, transaction)).length > 0
    if (inForce && !may(actor, 'live')) throw notAllowed('Lines of this campaign are live; a trader must change it.')
    const campaign = await Campaign.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    if (campaign.version !== version) throw stale('campaign', campaignView(campaign))
    await requireOwnOffer(draft, campaign.advertiserId)
    const lines = await Line.findAll({ where: { campaignId: id }, transaction })
    const outside = lines.find((line) => line.state !== 'ended' && checkInsideCampaign(line.draft, draft.flight).length > 0)
    if (outside) throw invalidField('flight.endDate', `The line "${outside.draft.name}" runs outside this flight; change the line first.`)
    const was = campaignView(campaign)
    await campaign.update({ ...columns(draft), version: version + 1 }, { transaction })
    if (inForce) await publish(state, { madeBy: actor.id }, transaction)
    await audit(actor, 'save', { kind: 'campaign', id, advertiserId: campaign.advertiserId }, was, draft, transaction)
    return campaignView(campaign)
  })
}

const advertiserView = ({ id, name, domain, zone, linkTail, version }: Advertiser): AdvertiserView => ({
  id,
  name,
  domain,
  zone,
  linkTail,
  version
})

/** Saves what is added to every link of an advertiser. It is filled in when somebody clicks: no ad goes back to review for it. */
export async function saveTail(
  sequelize: Sequelize,
  actor: Actor,
  advertiserId: number,
  { version, linkTail }: { version: number; linkTail: string }
): Promise<AdvertiserView> {
  return sequelize.transaction(async (transaction) => {
    const advertiser = await Advertiser.findByPk(advertiserId, { transaction, lock: transaction.LOCK.UPDATE, rejectOnEmpty: true })
    if (advertiser.version !== version) throw stale('advertiser', advertiserView(advertiser))
    const was = advertiser.linkTail
    await advertiser.update({ linkTail, version: version + 1 }, { transaction })
    await audit(actor, 'save', { kind: 'advertiser', id: advertiserId, advertiserId }, { linkTail: was }, { linkTail }, transaction)
    return advertiserView(advertiser)
  })
}

export async function listAdvertisers(actor: Actor): Promise<AdvertiserView[]> {
  const advertisers = await Advertiser.findAll({ where: { organisationId: actor.organisationId }, order: [['id', 'ASC']] })
  return advertisers.filter(({ id }) => maySee(actor, id)).map(advertiserView)
}

/** Everything the manifest shows to this user. */
export async function manifest(
  { sequelize, possible }: Pick<Deps, 'sequelize' | 'possible'>,
  actor: Actor,
  hour: number
): Promise<ManifestView> {
  const advertisers = await listAdvertisers(actor)
  const campaigns = await Campaign.findAll({ where: { advertiserId: advertisers.map(({ id }) => id) }, order: [['id', 'ASC']] })
  const lines = await Line.findAll({ where: { campaignId: campaigns.map(({ id }) => id) }, order: [['id', 'ASC']] })
  const spent = await sumsBy(sequelize, 'line', ['spendMicros'], { lines: lines.map(({ id }) => id) })
  const staged = await stagedLines(sequelize, lines)
  const inForce = await hoursInForce(
    sequelize,
    lines.map(({ id }) => id),
    hour
  )
  const spentBy = new Map(spent.map(({ by: line, spendMicros }) => [line, spendMicros]))
  return {
    advertisers,
    campaigns: campaigns.map(campaignView),
    lines: lines.map((line) => {
      const { draft } = line
      const plan = planOf(draft.budget, draft.flight)
      return {
        id: line.id,
        code: `L-${line.id}`,
        campaignId: line.campaignId,
        name: draft.name,
        format: draft.format,
        state: line.state,
        waits: line.state === 'cleared' && !line.released,
        tags: line.tags ?? [],
        template: line.template,
        staged: staged.has(line.id),
        startDate: draft.flight.startDate,
        endDate: draft.flight.endDate,
        spentMicros: spentBy.get(line.id) ?? 0,
        plannedMicros: plan?.total ?? null,
        dueMicros: dueOf(draft, inForce.get(line.id) ?? [], hour),
        possible: possible.of(line.id)
      }
    }),
    possibleSince: possible.since
  }
}

/** Those of some lines whose draft or ads say something else than what is in force. */
async function stagedLines(sequelize: Sequelize, lines: readonly Line[]): Promise<Set<number>> {
  const differ = await maybeStaged(sequelize)
  return new Set(
    lines
      .filter(({ id, draft }) => {
        const found = differ.get(id)
        return found !== undefined && (found.byAds || changesBetween(found.draft, draft).length > 0)
      })
      .map(({ id }) => id)
  )
}

/** Even plan of a budget over a flight: a day, and in all. Null without a limit, or open without a daily one. */
export function planOf(
  budget: { totalMicros: number | null; dailyMicros: number | null },
  flight: CampaignDraft['flight']
): { total: number | null; aDay: number } | null {
  const days = flightDays(flight)
  const shares = [budget.dailyMicros, budget.totalMicros !== null && days !== null ? budget.totalMicros / days : null].filter(
    (share) => share !== null
  )
  if (shares.length === 0) return null
  const aDay = Math.min(...shares)
  return { aDay, total: days === null ? budget.totalMicros : Math.min(budget.totalMicros ?? Infinity, aDay * days) }
}

/** What of a plan is due by an hour, against the hours in which there was something to buy with; null without a plan. */
function dueOf(
  { budget, flight, zone, hours = null }: Pick<LineDraft, 'flight' | 'zone' | 'hours'> & { budget: Parameters<typeof planOf>[0] },
  inForce: readonly HourRange[],
  hour: number
): number | null {
  const plan = planOf(budget, flight)
  if (!plan) return null
  const days = daysDue(flightHours(flight, zone), { hours, zone: zoneIndex(zone) }, inForce, hour)
  return Math.min(budget.totalMicros ?? Infinity, plan.aDay * days)
}

export async function campaignPace(sequelize: Sequelize, campaign: Campaign, hour: number): Promise<Pace> {
  const advertiser = await Advertiser.findByPk(campaign.advertiserId, { rejectOnEmpty: true })
  const zone = zoneIndex(advertiser.zone)
  const rows = await sumsBy(sequelize, 'hour', ['spendMicros', 'wins', 'clicks'], { campaign: campaign.id })
  const view = campaignView(campaign)
  const first = dayOfDate(campaign.startDate)
  const last = Math.max(first, Math.min(localDayOf(zone, hour), campaign.endDate ? dayOfDate(campaign.endDate) : Infinity))
  const lines = await Line.findAll({ attributes: ['id', 'state', 'draft'], where: { campaignId: campaign.id } })
  // A campaign could buy while any of its lines could.
  const ids = lines.map(({ id }) => id)
  const inForce = joined([...(await hoursInForce(sequelize, ids, hour)).values()].flat())
  const planned = { budget: view.budget, flight: view.flight, zone: advertiser.zone }
  const days = Array.from({ length: last - first + 1 }, (_, n) => {
    // Days are told by what a whole one plans, those that are over by what was due of them.
    const due = (until: number) => dueOf(planned, [...inForce, { from: hour, to: Infinity }], until)
    const [from, to] = [due(startOfLocalDay(zone, first + n)), due(startOfLocalDay(zone, first + n + 1))]
    return {
      date: dateOfDay(first + n),
      spendMicros: 0,
      wins: 0,
      clicks: 0,
      plannedMicros: from === null || to === null ? null : to - from
    }
  })
  for (const row of rows) {
    const day = days[localDayOf(zone, row.by) - first]
    if (!day) continue
    day.spendMicros += row.spendMicros
    day.wins += row.wins
    day.clicks += row.clicks
  }
  const spentMicros = days.reduce((sum, day) => sum + day.spendMicros, 0)
  const dueMicros = dueOf(planned, inForce, hour)
  const charges = lines.flatMap(({ state, draft }) => (state === 'live' ? [chargeOf(draft.price)] : []))
  const stopped = charges.length > 0 ? stoppedWords(await leftFor(sequelize, advertiser, hour), Math.min(...charges)) : null
  const pace = paceWords(spentMicros, dueMicros, hour < flightHours(view.flight, advertiser.zone).startHour)
  return {
    days,
    spentMicros,
    dueMicros,
    plannedMicros: planOf(view.budget, view.flight)?.total ?? null,
    words: stopped ? `${pace}; ${stopped}` : pace
  }
}

function paceWords(spent: number, due: number | null, before: boolean): string {
  if (before) return 'has not started'
  if (due === null || due === 0) return 'has no plan to keep to'
  const share = spent / due
  if (share < 0.9) return `behind: ${Math.round(share * 100)} % of what was due`
  if (share > 1.05) return `ahead: ${Math.round(share * 100)} % of what was due`
  return 'on plan'
}

/** Refuses a line's draft that does not fit its campaign. */
export function requireInside(draft: Parameters<typeof checkInsideCampaign>[0], campaign: Campaign): void {
  const issues = checkInsideCampaign(draft, { startDate: campaign.startDate, endDate: campaign.endDate })
  if (issues.length > 0) throw invalid(issues)
}
