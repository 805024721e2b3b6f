import type { OfferCame } from '@tin-harbor/core/contract'
import { HOURS_PER_DAY, zoneIndex } from '@tin-harbor/core/time'
import type { Offer } from '../advertisers/offer-model.js'
import { Tracker } from '../advertisers/tracker-model.js'
import { Campaign } from '../campaigns/campaign-model.js'
import type { Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'
import { Line } from '../lines/line-model.js'
import { logsFor, offersOf } from './reports.js'

/** As far back as what came of an offer is counted. */
const MOST_DAYS = 90
const LONGEST_WINDOW_HOURS = 30 * HOURS_PER_DAY

/** What campaigns that sell an offer brought of its events, by its terms as they are now. */
export async function cameOf({ sequelize, records }: Deps, offer: Offer): Promise<OfferCame> {
  const { hour } = await readMarket()
  const from = hour - MOST_DAYS * HOURS_PER_DAY
  const campaigns = await Campaign.findAll({ attributes: ['id'], where: { offerId: offer.id } })
  const lines = await Line.findAll({ attributes: ['id', 'campaignId'], where: { campaignId: campaigns.map(({ id }) => id) } })
  const { logs } = lines.length === 0 ? { logs: [] } : await logsFor(sequelize, from, hour)
  const question = {
    by: 'line' as const,
    lines: lines.map(({ id }) => id),
    from,
    to: hour,
    windowHours: LONGEST_WINDOW_HOURS,
    offers: await offersOf(lines)
  }
  const { total, tracked } = await records.ask('report', { zone: zoneIndex('UTC'), logs, question })
  const trackers = await Tracker.findAll({ where: { advertiserId: offer.advertiserId } })
  const events = offer.terms.payouts.map(({ event, micros }) => {
    const own = tracked.find(({ tracker }) => trackers.some(({ id, name }) => id === tracker && name === event))
    const { accepted = 0, unpaid = 0 } = own ?? {}
    return { event, accepted, unpaid, payMicros: accepted * (micros ?? 0) }
  })
  // What is asked for on the way to a sale takes nothing of the stock.
  const sells = (event: string) => trackers.some(({ name, kind }) => name === event && kind !== 'request')
  const sold = events.filter(({ event }) => sells(event)).reduce((sum, { accepted }) => sum + accepted, 0)
  const { stock } = offer.terms
  return { days: MOST_DAYS, events, spendMicros: total.spendMicros, left: stock === null ? null : Math.max(0, stock - sold) }
}
