import { Op, type Sequelize } from 'sequelize'
import { openEvents } from '@tin-harbor/core/exchange'
import { namesApart } from '@tin-harbor/core/buying'
import { hoursEarning, type LineDeals, type LineOffer, type Within } from '@tin-harbor/core/results'
import type { ReportRowView, ReportView } from '@tin-harbor/core/contract'
import { costRange, wilson, measured } from '@tin-harbor/core/report'
import { dayOfDate, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import type { ReportRow } from '@tin-harbor/core/results'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Offer } from '../advertisers/offer-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { Ad } from '../creatives/creative-model.js'
import { GrantedDeal } from '../deals/deal-model.js'
import { Line } from '../lines/line-model.js'
import { marginsOfLines } from '../money/terms.js'
import { Organisation } from '../team/user-model.js'
import type { StoredLog } from '../delivery/stored.js'
import type { CancelWord } from '../threads/cancel-word.js'
import type { Actor } from '../security/sessions.js'
import { listAdvertisers } from '../campaigns/campaigns.js'
import type { Deps } from '../deps.js'
import { adsOf } from '../lines/ads-shown.js'
import { readStoredLogs, spansOf } from '../delivery/log.js'
import type { ReportDimensionName } from '@tin-harbor/core/dimensions'
import { readMarket, rulesInForce } from '../going-live/publications.js'

/** Days are of the organisation's calendar, ends included. */
export type ReportAsked = Pick<ReportView, 'by' | 'from' | 'to' | 'windowHours' | 'campaign' | 'line'>

/** Lines that a report may read: those the user may see, of one campaign or one line. */
export async function linesFor(actor: Actor, { campaign, line }: Pick<ReportAsked, 'campaign' | 'line'>): Promise<Line[]> {
  const advertisers = await listAdvertisers(actor)
  const campaigns = await Campaign.findAll({
    attributes: ['id'],
    where: { advertiserId: advertisers.map((one) => one.id), ...(campaign === null ? {} : { id: campaign }) }
  })
  return Line.findAll({
    where: { campaignId: campaigns.map((one) => one.id), ...(line === null ? {} : { id: line }) },
    order: [['id', 'ASC']]
  })
}

/** Results by one dimension, of what a sentence asks for alone where there is one, read from the delivery log in a thread of its own. */
export async function reportOf(
  { sequelize, records }: Deps,
  actor: Actor,
  asked: ReportAsked,
  { within, word }: { within?: Within; word?: CancelWord } = {}
): Promise<ReportView> {
  const began = performance.now()
  const organisation = await Organisation.findByPk(actor.organisationId, { rejectOnEmpty: true })
  const zone = zoneIndex(organisation.zone)
  const from = startOfLocalDay(zone, dayOfDate(asked.from))
  const to = Math.min(startOfLocalDay(zone, dayOfDate(asked.to) + 1), (await readMarket()).hour)
  const lines = await linesFor(actor, asked)
  const { logs, earning } = await logsFor(sequelize, from, to)
  const question = {
    by: asked.by,
    lines: lines.map((line) => line.id),
    from,
    to,
    windowHours: asked.windowHours,
    offers: await offersOf(lines),
    margins: await marginsOfLines(lines),
    ...(within ? { within } : {}),
    ...(asked.by === 'deal' ? { deals: await dealsInForce(sequelize, Math.min(from, ...earning), to) } : {})
  }
  const { rows, total } = await records.ask('report', { zone, logs, question }, word)
  const names = await namesOf(asked.by, lines, actor.organisationId)
  return {
    ...asked,
    rows: rows.map((row) => viewOf(row, names.get(row.key) ?? row.label ?? String(row.key))),
    total: viewOf(total, 'in all'),
    milliseconds: Math.round(performance.now() - began)
  }
}

/** The log of hours [from, to), after the hours before it that earned its conversions. */
export async function logsFor(sequelize: Sequelize, from: number, to: number): Promise<{ logs: StoredLog[]; earning: number[] }> {
  const logs = from < to ? await readStoredLogs(sequelize, from, to) : []
  const earning = hoursEarning(logs.map((log) => openEvents(log.events, log.eventCount, log.eventCrc))).filter((hour) => hour < from)
  const earlier: StoredLog[] = []
  for (const [first, last] of spans(earning)) earlier.push(...(await readStoredLogs(sequelize, first, last + 1)))
  return { logs: [...earlier, ...logs], earning }
}

/** What the offers of lines pay for, and how much; lines of campaigns without one are left out. */
export async function offersOf(lines: readonly Pick<Line, 'id' | 'campaignId'>[]): Promise<LineOffer[]> {
  const campaigns = await Campaign.findAll({
    where: { id: [...new Set(lines.map(({ campaignId }) => campaignId))], offerId: { [Op.not]: null } }
  })
  const offers = new Map(
    (await Offer.findAll({ where: { id: campaigns.flatMap(({ offerId }) => offerId ?? []) } })).map((offer) => [offer.id, offer])
  )
  const advertiserId = [...new Set([...offers.values()].map((offer) => offer.advertiserId))]
  const zones = new Map((await Advertiser.findAll({ where: { id: advertiserId } })).map(({ id, zone }) => [id, zone]))
  const trackers = await Tracker.findAll({ where: { advertiserId } })
  const offerOf = new Map(campaigns.map(({ id, offerId }) => [id, offers.get(offerId ?? 0)]))
  return lines.flatMap(({ id: line, campaignId }) => {
    const offer = offerOf.get(campaignId)
    if (!offer) return []
    const pays = trackers
      .filter((tracker) => tracker.advertiserId === offer.advertiserId)
      .map((tracker) => [tracker.id, offer.terms.payouts.find(({ event }) => event === tracker.name)?.micros ?? 0] as const)
    return [{ line, terms: offer.terms.terms, zone: zones.get(offer.advertiserId) ?? 'UTC', pays }]
  })
}

/** What deals the lines of each publication had, in the hours [from, to) in which it was in force. */
async function dealsInForce(sequelize: Sequelize, from: number, to: number): Promise<LineDeals[]> {
  const spans = await spansOf(sequelize, from, to)
  const found = await Promise.all(
    spans.map(async ({ publication, first, last }) =>
      (await rulesInForce(publication)).lines.flatMap(({ line, buys }): LineDeals[] =>
        buys && buys.deals.length > 0 ? [{ line, from: first, to: last + 1, deals: buys.deals.map(({ deal }) => deal) }] : []
      )
    )
  )
  return found.flat()
}

/** Runs of whole hours that lie next to each other. */
function spans(hours: readonly number[]): [number, number][] {
  const found: [number, number][] = []
  for (const hour of hours) {
    const last = found[found.length - 1]
    if (last && hour - last[1] <= 6) last[1] = hour
    else found.push([hour, hour])
  }
  return found
}

async function namesOf(by: ReportDimensionName, lines: readonly Line[], organisationId: number): Promise<ReadonlyMap<number, string>> {
  if (by === 'line') return namesApart(lines.map(({ id, draft }) => ({ id, name: draft.name })))
  if (by === 'deal')
    return new Map(
      (await GrantedDeal.findAll({ attributes: ['id', 'name'], where: { organisationId } })).map((deal) => [deal.id, deal.name])
    )
  if (by !== 'ad') return new Map()
  const lineIds = lines.map((line) => line.id)
  const taken = await Ad.findAll({ attributes: ['id'], where: { lineId: lineIds, removed: true } })
  return new Map([
    ...(await adsOf(lineIds)).map((ad) => [ad.id, ad.name] as const),
    ...taken.map((ad) => [ad.id, `ad ${ad.id}, taken off`] as const)
  ])
}

/** A row with its measures and the 90 % ranges of some. */
function viewOf(row: ReportRow, label: string): ReportRowView {
  const { key, wins, clicks, conversions, spendMicros, reached } = row
  return {
    key,
    label,
    ...measured(row),
    reached,
    clickRange: wilson(clicks, wins),
    costMicros: conversions > 0 ? spendMicros / conversions : null,
    costRange: costRange(spendMicros, conversions)
  }
}
