import type { Sequelize } from 'sequelize'
import { lineSchema, parseInput, plainAds, termsOfAd, type AdTerms, type LineDraft } from '@tin-harbor/core/buying'
import { conflict, invalidField, notAllowed } from '../http/errors.js'
import { type Campaign } from '../campaigns/campaign-model.js'
import { Ad } from '../creatives/creative-model.js'
import { Line } from './line-model.js'
import { maySee, type Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { advertiserOfLine, findLine } from './lines.js'
import { findCampaign, requireInside } from '../campaigns/campaigns.js'
import { withListValues } from '../lists/lists.js'

/** A flight that lies in a campaign: as it is, or moved to the campaign's. */
function insideFlight(draft: LineDraft, { startDate, endDate }: Campaign): LineDraft['flight'] {
  const { flight } = draft
  const start = flight.startDate < startDate || (endDate !== null && flight.startDate > endDate) ? startDate : flight.startDate
  const end = endDate === null ? flight.endDate : flight.endDate === null || flight.endDate > endDate ? endDate : flight.endDate
  return { startDate: start, endDate: end !== null && end < start ? endDate : end }
}

/**
 * Copies a line with its ads, deep, into its own campaign or another of the same advertiser.
 * @param name of the copy
 * @returns number of the copy
 */
export async function copyLine(sequelize: Sequelize, actor: Actor, id: number, name: string, campaignId: number | null): Promise<number> {
  const line = await findLine(id)
  const from = await findCampaign(line.campaignId)
  const to = campaignId === null ? from : await findCampaign(campaignId)
  if (!maySee(actor, to.advertiserId)) throw notAllowed('You do not see this advertiser.')
  if (to.advertiserId !== from.advertiserId)
    throw invalidField('campaignId', 'Creatives belong to their advertiser: a line is copied within it.')
  const typed = parseInput(lineSchema, { ...line.draft, name, flight: insideFlight(line.draft, to), ads: [] })
  requireInside(typed, to)
  return sequelize.transaction(async (transaction) => {
    const draft = await withListValues(actor, typed, transaction)
    const copy = await Line.create({ campaignId: to.id, draft, state: 'draft', copiedFrom: id, tags: line.tags ?? null }, { transaction })
    const ads = await Ad.findAll({ where: { lineId: id, removed: false }, order: [['id', 'ASC']], transaction })
    const terms: AdTerms[] = []
    for (const { id: from, creativeId, madeCreativeId, stopped } of ads) {
      const ad = await Ad.create({ lineId: copy.id, creativeId, madeCreativeId, review: 'draft', stopped }, { transaction })
      terms.push({ ...termsOfAd(line.draft, from), ad: ad.id })
    }
    await copy.update({ draft: { ...draft, ads: plainAds(terms) } }, { transaction })
    await audit(actor, 'copy', { kind: 'line', id: copy.id, advertiserId: to.advertiserId }, { from: id }, draft, transaction)
    return copy.id
  })
}

/** Moves a draft that was never live to another campaign of its advertiser; its results would stay behind otherwise. */
export async function moveToCampaign(sequelize: Sequelize, actor: Actor, id: number, campaignId: number): Promise<void> {
  const to = await findCampaign(campaignId)
  const advertiserId = await advertiserOfLine(id)
  if (!maySee(actor, to.advertiserId)) throw notAllowed('You do not see this advertiser.')
  if (to.advertiserId !== advertiserId) throw invalidField('campaignId', 'A line moves between campaigns of its own advertiser.')
  await sequelize.transaction(async (transaction) => {
    const line = await findLine(id, transaction)
    if (line.revisionId !== null) throw conflict('A line that was live keeps its campaign, whose money it spent: copy it instead.')
    const was = line.campaignId
    await line.update(
      { campaignId, draft: { ...line.draft, flight: insideFlight(line.draft, to) }, version: line.version + 1 },
      { transaction }
    )
    await audit(actor, 'move', { kind: 'line', id, advertiserId }, was, campaignId, transaction)
  })
}

/** Sets a line's tags, or marks a draft as a template. Neither touches what is live. */
export async function labelLine(
  sequelize: Sequelize,
  actor: Actor,
  id: number,
  { tags, template }: { tags?: readonly string[]; template?: boolean }
): Promise<void> {
  const advertiserId = await advertiserOfLine(id)
  await sequelize.transaction(async (transaction) => {
    const line = await findLine(id, transaction)
    if (template && line.revisionId !== null) throw conflict('Only a draft that was never live can be a template: copy it first.')
    const was = { tags: line.tags, template: line.template }
    const seen = new Set<string>()
    const kept = tags?.map((tag) => tag.trim()).filter((tag) => tag !== '' && !seen.has(tag.toLowerCase()) && seen.add(tag.toLowerCase()))
    await line.update(
      { ...(kept ? { tags: kept } : {}), ...(template === undefined ? {} : { template }), version: line.version + 1 },
      { transaction }
    )
    await audit(actor, 'label', { kind: 'line', id, advertiserId }, was, { tags: line.tags, template: line.template }, transaction)
  })
}
