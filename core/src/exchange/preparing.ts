import { FIRST_PRICE, SOURCES, type Inventory } from '../market/index.js'
import { baseUnits, bidAt, dealsByPlacement, hourPerMille } from '../pricing/index.js'
import { HOURS_PER_DAY, MINUTES_PER_DAY, ZONES, dayOfHour, localDayOf, localHourOf, offsetMinutes, weekdayOf } from '../time/index.js'
import { followBids, learn, rotationWeights, type Sold } from './learning.js'
import { GOAL_EVENT } from './rules.js'
import { learnedEvent, paidEvent, type RunningLine } from './running.js'

/**
 * Wins that bids which follow the market look for, over those that the plan wants: a plan that is met early is held by the pacer, one
 * that is missed is lost (`npm run truth -- follow`).
 */
const FOLLOW_MARGIN = 1.03

/** Bid of an hour that is off. */
export const OFF = -1

/**
 * What a line bids in an hour, as far as no opportunity is needed to know it.
 * @param sold what is known of conversions of its advertiser before there are any
 */
export function setBids(line: RunningLine, hour: number, inventory: Inventory, sold: Sold): void {
  const { rules, programme, account } = line
  const daysLive = Math.max(0, line.localDay - localDayOf(line.calendar.zone, rules.startHour))
  line.base = baseUnits(
    rules.price.model,
    bidAt(rules.price, { day: line.localDay, daysLive, impressions: account.purse.spent.total.impressions })
  )
  line.localHour = localHourOf(line.calendar.zone, hour)
  const event = learnedEvent(rules)
  line.learned = event ? learn(line.facts, event, line.localDay, sold) : null
  const paid = paidEvent(rules.price)
  line.paid = paid === null || paid === event ? line.learned : learn(line.facts, paid, line.localDay, sold)
  line.followed = rules.follow ? follow(line, inventory) : null
  line.isPlain =
    line.adjusting === null &&
    line.zoneHours === null &&
    line.event === 'none' &&
    !rules.aim &&
    line.followed === null &&
    line.deals === null &&
    line.ads.every((ad) => ad.base < 0 && ad.targeting === null)
  if (rules.buys?.deals.some((deal) => deal.untilHour != null && deal.untilHour <= hour))
    line.deals = dealsByPlacement(
      {
        open: rules.buys.open,
        deals: rules.buys.deals.map((deal) => (deal.untilHour != null && deal.untilHour <= hour ? { ...deal, placements: [] } : deal))
      },
      inventory.placements.length
    )
  line.bid = programme.bid(line.base, 0, 1000, 0, 1_000_000, false)
  if (line.zoneHours && rules.hours) setHours(line.zoneHours, rules.hours, line.calendar.zone, hour)
}

/** Bids by path that win what is left of today's plan in what is left of today. */
function follow({ rules, account, localDay, localHour, base, programme }: RunningLine, inventory: Inventory): Int32Array {
  const landscape = rules.follow
  const bids = new Int32Array(inventory.floors.length)
  if (!landscape) return bids
  const { plan, purse } = account
  const weekday = weekdayOf(localDay)
  const day = Array.from({ length: HOURS_PER_DAY }, (_, hourOfDay) => landscape.hours[weekday * HOURS_PER_DAY + hourOfDay])
  const left = day.slice(localHour).reduce((sum, share) => sum + share, 0) * 7
  const most = Math.min(programme.max, programme.max === Infinity ? base : Infinity)
  // Money is turned into wins at what wins cost so far, or at the middle of what they could.
  const { micros, impressions } = purse.spent.day
  const perWin = impressions > 20 ? micros / impressions : most / 2
  const wanted = Math.min((plan.limitShown ?? Infinity) - impressions, (plan.limitMicros - micros) / Math.max(1, perWin))
  followBids(
    landscape,
    left,
    wanted === Infinity ? Infinity : Math.max(0, wanted) * FOLLOW_MARGIN,
    most,
    (path) => FIRST_PRICE[path % SOURCES.length] === 1,
    bids
  )
  return bids
}

/** What the line's ads weigh in an hour, by shape. */
export function setAds(line: RunningLine, seed: number): void {
  const { rules, ads, byShape, campaign } = line
  const measure = GOAL_EVENT[campaign?.rules.goal ?? 'visits']
  // Value is counted in conversions of the mean value, so that what is known of it has the weight of events.
  const { conversions, valueMicros } = line.facts.total
  const unit = measure === 'valueMicros' && conversions > 0 ? Math.max(1, valueMicros / conversions) : 1
  byShape.forEach((own, shape) => {
    if (own.length > 0) {
      const weights = rotationWeights(
        rules.rotation ?? 'weight',
        own.map((ad) => ad.rules),
        line.facts,
        measure,
        unit,
        seed ^ rules.line
      )
      own.forEach((ad, n) => (ad.weight = weights[n]))
    }
    line.weightByShape[shape] = own.reduce((sum, ad) => sum + ad.weight, 0)
  })
  if (ads.length === 0) line.weightByShape.fill(0)
}

/** Multipliers of each half of an hour by the viewer's zone, since some zones lie by half hours; all alike by the line's own clock. */
function setHours(into: Int32Array, hours: NonNullable<RunningLine['rules']['hours']>, zone: number, hour: number): void {
  const minuteOfWeek = weekdayOf(dayOfHour(hour)) * MINUTES_PER_DAY + (hour % HOURS_PER_DAY) * 60
  for (let viewer = 0; viewer < ZONES.length; viewer++) {
    const offset = offsetMinutes(hours.clock === 'viewer' ? viewer : zone, hour)
    for (const half of [0, 1]) {
      const perMille = hourPerMille(hours, minuteOfWeek + 30 * half, offset)
      into[2 * viewer + half] = perMille === 0 ? OFF : perMille
    }
  }
}
