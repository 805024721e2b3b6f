import { dayOfDate, startOfLocalDay, zoneIndex, dayOfHour } from '@tin-harbor/core/time'
import { shopHoursFrom } from '@tin-harbor/core/results'
import type { ShopVisitsView } from '@tin-harbor/core/contract'
import { Shop } from './shop-model.js'
import { Line } from '../lines/line-model.js'
import { Organisation } from '../team/user-model.js'
import type { Actor } from '../security/sessions.js'
import type { Campaign } from '../campaigns/campaign-model.js'
import type { Deps } from '../deps.js'
import { readStoredLogs } from '../delivery/log.js'
import { readMarket } from '../going-live/publications.js'

/** Visits to the shops of a campaign's advertiser, of those who saw its ads and of those who did not; null where it has no shop. */
export async function shopVisitsOf(
  { sequelize, records }: Pick<Deps, 'sequelize' | 'records'>,
  actor: Actor,
  campaign: Campaign,
  asked: { from: string; to: string; line: number | null }
): Promise<ShopVisitsView | null> {
  const shops = await Shop.findAll({ where: { advertiserId: campaign.advertiserId }, order: [['id', 'ASC']] })
  if (shops.length === 0) return null
  const { zone } = await Organisation.findByPk(actor.organisationId, { rejectOnEmpty: true })
  const hourOf = (date: string, more = 0) => startOfLocalDay(zoneIndex(zone), dayOfDate(date) + more)
  const { hour } = await readMarket()
  const lines = (await Line.findAll({ attributes: ['id'], where: { campaignId: campaign.id } }))
    .map((line) => line.id)
    .filter((id) => asked.line === null || id === asked.line)
  // Visits are told by whole market days, of days that are over.
  const [fromDay, toDay] = [dayOfHour(hourOf(asked.from)), Math.min(dayOfHour(hourOf(asked.to, 1)), dayOfHour(hour))]
  const logs = fromDay < toDay ? await readStoredLogs(sequelize, Math.max(0, shopHoursFrom(fromDay)), toDay * 24) : []
  const visits = await records.ask('shops', {
    logs,
    question: { advertiser: campaign.advertiserId, places: shops.map((shop) => shop.place), lines, fromDay, toDay }
  })
  return { shops: shops.map((shop) => shop.name), ...visits }
}
