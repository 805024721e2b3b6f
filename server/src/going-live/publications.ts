import { Op, QueryTypes, type Sequelize, type Transaction } from 'sequelize'
import { contentOf, fileContent } from '@tin-harbor/core/creative'
import type { AdMade, CampaignRules, LineRules, PublicationRules, TrackerRules } from '@tin-harbor/core/exchange'
import { BRANCHES } from '@tin-harbor/core/taxonomy'
import { flightHours, type LineDraft } from '@tin-harbor/core/buying'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { Shop } from '../advertisers/shop-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import { Ad, Creative } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { StoredFile } from '../files/file-model.js'
import { MarketState } from '../exchange/market-model.js'
import { Publication, PublicationLine } from './publication-model.js'
import { Line, LineRevision, type StoredRules } from '../lines/line-model.js'
import { heldOf } from '../review/held.js'
import { now } from '../security/sessions.js'
import { limitsOf } from '../campaigns/limits.js'

/** The market's row, locked: putting live and the end of an hour take turns here. */
export async function lockMarket(transaction: Transaction): Promise<MarketState> {
  const state = await MarketState.findByPk(1, { transaction, lock: transaction.LOCK.UPDATE })
  if (!state) throw new Error('The market has no state row; the demo was not set up.')
  return state
}

export async function readMarket(): Promise<MarketState> {
  const state = await MarketState.findByPk(1)
  if (!state) throw new Error('The market has no state row; the demo was not set up.')
  return state
}

/** All that the exchange reads of a publication. */
export async function publicationRules(publicationId: number): Promise<PublicationRules> {
  return { ...(await rulesInForce(publicationId)), ...(await conversionRules()) }
}

/** Lines and campaigns of a publication, without what conversions of all lines need. */
export async function rulesInForce(publicationId: number): Promise<PublicationRules> {
  const publication = await Publication.findByPk(publicationId, { rejectOnEmpty: true })
  const members = await PublicationLine.findAll({ where: { publicationId }, order: [['lineRevisionId', 'ASC']] })
  const revisions = await LineRevision.findAll({ where: { id: members.map((member) => member.lineRevisionId) } })
  const byId = new Map(revisions.map((revision) => [revision.id, revision]))
  const stopped = new Set(publication.stoppedAds)
  const without = new Set((publication.stoppedDeals ?? []).map(([line, deal]) => `${line} ${deal}`))
  const lines = members.map(({ lineRevisionId, liveFromHour }) => {
    const revision = byId.get(lineRevisionId)
    if (!revision) throw new Error(`Revision ${lineRevisionId} of publication ${publicationId} is missing.`)
    const { rules } = revision
    const buys = rules.buys && { ...rules.buys, deals: rules.buys.deals.filter(({ deal }) => !without.has(`${rules.line} ${deal}`)) }
    return { ...rules, ...(buys ? { buys } : {}), ads: withoutStopped(adsIn(rules), stopped), revision: revision.id, liveFromHour }
  })
  return { publication: publicationId, lines: lines.sort((a, b) => a.line - b.line), campaigns: publication.campaigns }
}

/** Ads of a line's rules, and those that serve until others in their places are cleared. */
const adsIn = ({ ads, earlier = [] }: StoredRules): LineRules['ads'] => (earlier.length === 0 ? ads : [...ads, ...earlier])

const withoutStopped = (ads: LineRules['ads'], stopped: ReadonlySet<number>): LineRules['ads'] =>
  stopped.size === 0 ? ads : ads.map((ad) => (stopped.has(ad.ad) ? { ...ad, off: true } : ad))

/** Whose lines are whose, and what counts as a conversion of theirs: of all lines that ever bought. */
async function conversionRules(): Promise<Pick<PublicationRules, 'owners' | 'trackers' | 'shops' | 'made'>> {
  const lines = await Line.findAll({
    attributes: ['id', 'campaignId', 'revisionId'],
    where: { revisionId: { [Op.not]: null } },
    order: [['id', 'ASC']]
  })
  const campaigns = new Map(
    (await Campaign.findAll({ attributes: ['id', 'advertiserId'] })).map((campaign) => [campaign.id, campaign.advertiserId])
  )
  const zones = new Map(
    (await LineRevision.findAll({ attributes: ['id', 'draft'], where: { id: lines.map((line) => line.revisionId as number) } })).map(
      (revision) => [revision.id, revision.draft.zone]
    )
  )
  return {
    owners: lines.map(({ id, campaignId, revisionId }) => ({
      line: id,
      campaign: campaignId,
      advertiser: campaigns.get(campaignId) as number,
      zone: zones.get(revisionId as number) as string
    })),
    trackers: await trackersOf(),
    shops: (await Shop.findAll({ order: [['id', 'ASC']] })).map(({ advertiserId, place }) => ({ advertiser: advertiserId, place })),
    made: await adsMade(lines.map((line) => line.id))
  }
}

/** What counts as a conversion, by advertiser. @param advertiserId of one alone */
export async function trackersOf(advertiserId?: number): Promise<TrackerRules[]> {
  const trackers = await Tracker.findAll({ where: advertiserId === undefined ? {} : { advertiserId }, order: [['id', 'ASC']] })
  return trackers.map(({ id, advertiserId: advertiser, kind, subject, clickHours, viewHours, valueMicros }) => ({
    tracker: id,
    advertiser,
    kind,
    subject: subject === null ? null : BRANCHES.findIndex((branch) => branch.name === subject),
    clickHours,
    viewHours,
    valueMicros
  }))
}

/** What each ad of some lines is made of: a picture that was built, of what it was built of. */
async function adsMade(lineId: number[]): Promise<AdMade[]> {
  const ads = await Ad.findAll({ attributes: ['id', 'creativeId', 'madeCreativeId'], where: { lineId }, order: [['id', 'ASC']] })
  const pictures = await Creative.findAll({ attributes: ['id', 'sha256'], where: { id: ads.flatMap((ad) => ad.creativeId ?? []) } })
  const made = await MadeCreative.findAll({ where: { id: ads.flatMap((ad) => ad.madeCreativeId ?? []) } })
  const sha256 = [...pictures.map((one) => one.sha256), ...made.map((one) => soleFileOf(one.parts))].filter(Boolean)
  const files = await StoredFile.findAll({ attributes: ['sha256', 'built'], where: { sha256, built: { [Op.not]: null } } })
  const builtOf = new Map(files.flatMap(({ sha256, built }) => (built ? [[sha256, contentOf(built)]] : [])))
  const contents = new Map(pictures.map(({ id, sha256 }) => [id, builtOf.get(sha256) ?? fileContent(sha256)]))
  const parts = new Map(made.map((one) => [one.id, builtOf.get(soleFileOf(one.parts)) ?? contentOf(one)]))
  return ads.flatMap(({ id, creativeId, madeCreativeId }) => {
    const content = contents.get(creativeId ?? -1) ?? parts.get(madeCreativeId ?? -1)
    return content ? [{ ad: id, content }] : []
  })
}
/** The hash of the file that an ad of one file shows. */
const soleFileOf = (parts: object): string => ('file' in parts && typeof parts.file === 'string' ? parts.file.replace(/^sha256:/, '') : '')

/** A campaign as the exchange reads it; its days are of its advertiser's zone. */
async function campaignRules(campaignIds: readonly number[], transaction: Transaction): Promise<CampaignRules[]> {
  const campaigns = await Campaign.findAll({ where: { id: [...campaignIds] }, order: [['id', 'ASC']], transaction })
  const advertisers = await Advertiser.findAll({ where: { id: campaigns.map((campaign) => campaign.advertiserId) }, transaction })
  const zoneOf = new Map(advertisers.map((advertiser) => [advertiser.id, advertiser.zone]))
  return campaigns.map((campaign) => {
    const zone = zoneOf.get(campaign.advertiserId) ?? 'UTC'
    return {
      campaign: campaign.id,
      zone,
      ...flightHours(campaign, zone),
      goal: campaign.goal,
      limits: limitsOf(campaign),
      caps: campaign.caps ?? []
    }
  })
}

/** A line's revision, and the hour from which the line is in force. */
export interface Put {
  revisionId: number
  liveFromHour: number
}

/** What a new publication puts into force or takes out of it. */
export interface PublicationChange {
  /** Line number to the revision that comes into force. */
  puts?: ReadonlyMap<number, Put>
  /** Lines taken out. */
  takes?: readonly number[]
  madeBy: number | null
}

/**
 * Makes a new publication from the one in force and a change, and puts it into force from the hour the clock shows.
 * An hour under way was begun under the old one; its commit fails by the publication's number and it is run again.
 */
export async function publish(state: MarketState, change: PublicationChange, transaction: Transaction): Promise<Publication> {
  const members = await PublicationLine.findAll({ where: { publicationId: state.publicationId }, transaction })
  const revisions = await LineRevision.findAll({
    where: { id: members.map((member) => member.lineRevisionId) },
    attributes: ['id', 'lineId'],
    transaction
  })
  const lineOf = new Map(revisions.map((revision) => [revision.id, revision.lineId]))
  const force = new Map(
    members.map((member) => [
      lineOf.get(member.lineRevisionId) as number,
      { revisionId: member.lineRevisionId, liveFromHour: member.liveFromHour }
    ])
  )
  for (const [line, member] of change.puts ?? []) force.set(line, member)
  for (const line of change.takes ?? []) force.delete(line)
  const lines = await Line.findAll({ where: { id: [...force.keys()] }, attributes: ['campaignId'], transaction })
  const campaigns = await campaignRules([...new Set(lines.map((line) => line.campaignId))], transaction)
  const held = await heldOf(
    [...force.values()].map(({ revisionId }) => revisionId),
    transaction
  )
  const publication = await Publication.create(
    { fromHour: state.hour, campaigns, ...held, madeBy: change.madeBy, madeAt: now() },
    { transaction }
  )
  await PublicationLine.bulkCreate(
    [...force.values()].map(({ revisionId, liveFromHour }) => ({
      publicationId: publication.id,
      lineRevisionId: revisionId,
      liveFromHour
    })),
    { transaction }
  )
  state.publicationId = publication.id
  await state.save({ transaction })
  return publication
}

/** Whether one of some lines is in force. */
export async function isSomeInForce({ publicationId }: MarketState, lineId: readonly number[], transaction: Transaction): Promise<boolean> {
  const members = await PublicationLine.findAll({ where: { publicationId }, transaction })
  const where = { id: members.map(({ lineRevisionId }) => lineRevisionId), lineId: [...lineId] }
  return (await LineRevision.count({ where, transaction })) > 0
}

/** A line in force, with the draft that it went live with. */
export interface LiveLine {
  line: number
  demandMicros: number
  draft: LineDraft
}

/** Lines of a campaign that are in force now. */
export async function linesInForce(sequelize: Sequelize, campaignId: number, transaction?: Transaction): Promise<LiveLine[]> {
  const rows = await sequelize.query<{ line: number; demand: string; draft: string }>(
    `SELECT r.line_id AS line, JSON_VALUE(r.rules, '$.demandMicros') AS demand, r.draft FROM market_state m JOIN publication_line p ON p.publication_id = m.publication_id
     JOIN line_revision r ON r.id = p.line_revision_id JOIN line l ON l.id = r.line_id WHERE l.campaign_id = ? ORDER BY l.id`,
    { type: QueryTypes.SELECT, replacements: [campaignId], transaction }
  )
  return rows.map(({ line, demand, draft }) => ({ line, demandMicros: Number(demand), draft: JSON.parse(draft) as LineDraft }))
}
