import { Op } from 'sequelize'
import type { LinesPage } from '@tin-harbor/core/contract'
import type { LineState } from '@tin-harbor/core/buying'
import type { Sequelize } from 'sequelize'
import { Campaign } from '../campaigns/campaign-model.js'
import { sumsBy } from '../delivery/roll-ups.js'
import { cursorOf, readCursor } from '../http/cursor.js'
import type { Actor } from '../security/sessions.js'
import { Line } from './line-model.js'

const PAGE = 100

export interface LinesAsked {
  campaign?: number
  tag?: string
  state?: LineState
  after?: string
  limit?: number
}

/** Lines that a user sees, in the order of their numbers, a page at a time. */
export async function linesPage(sequelize: Sequelize, actor: Actor, asked: LinesAsked): Promise<LinesPage> {
  const { campaign, tag, state, limit = PAGE } = asked
  const campaigns = await Campaign.findAll({
    where: { advertiserId: [...actor.advertisers], ...(campaign === undefined ? {} : { id: campaign }) }
  })
  const byId = new Map(campaigns.map((one) => [one.id, one]))
  const after = readCursor(asked.after)
  const rows: Line[] = []
  // Tags are in a document: pages are read until one is full.
  for (let from = after ?? 0, more = true; more && rows.length <= limit;) {
    const found = await Line.findAll({
      where: { id: { [Op.gt]: from }, campaignId: [...byId.keys()], ...(state === undefined ? {} : { state }) },
      order: [['id', 'ASC']],
      limit: limit + 1
    })
    more = found.length > limit
    from = found.at(-1)?.id ?? from
    rows.push(...found.filter((line) => tag === undefined || (line.tags ?? []).includes(tag)))
  }
  const lines = rows.slice(0, limit)
  const spent = new Map(
    (await sumsBy(sequelize, 'line', ['spendMicros'], { lines: lines.map(({ id }) => id) })).map(({ by, spendMicros }) => [by, spendMicros])
  )
  return {
    lines: lines.map(({ id, version, campaignId, state: is, tags, template, draft: { name, format, price, budget, flight } }) => {
      const own = byId.get(campaignId) as Campaign
      return {
        id,
        code: `L-${id}`,
        version,
        name,
        campaignId,
        campaign: own.name,
        advertiserId: own.advertiserId,
        format,
        state: is,
        tags: tags ?? [],
        template,
        model: price.model,
        bidMicros: price.bidMicros,
        maxMicros: price.maxMicros,
        dailyMicros: budget.dailyMicros,
        totalMicros: budget.totalMicros,
        startDate: flight.startDate,
        endDate: flight.endDate,
        spentMicros: spent.get(id) ?? 0
      }
    }),
    next: rows.length > limit ? cursorOf(lines[lines.length - 1].id) : null
  }
}
