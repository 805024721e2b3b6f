import { HOURS_PER_DAY, localDayOf, localHourOf, startOfLocalDay, weekdayOf } from '../time/index.js'
import type { Amounts } from './limits.js'
import { allowance, type Planned } from './planned.js'
import type { CampaignRules, LineRules } from './rules.js'

/**
 * How the lines of a campaign share its day. The whole day is shared anew at each hour from what was spent so far, so that nothing of it
 * is left while a line could use it.
 */

/** A line as far as its share depends on it, in one unit: micros or impressions. */
export interface Sharer {
  /** What it could spend on the day: shares rise in proportion to it. */
  weight: number
  /** Spent on the day so far. */
  spent: number
  /** What it could still use of the day; Infinity for anything. */
  room: number
}

/** Weight of a line that is not known to be able to spend anything. */
const LEAST_WEIGHT = 1

/**
 * Fills a day into lines: lambda x weight, at least what each spent, at most what it spent and could still use; lambda is such that the
 * day is used, or every line has all that it could use.
 * @returns shares in whole units, in the order of the lines; Infinity only of a day without limit
 */
export function fillShares(total: number, lines: readonly Sharer[]): number[] {
  if (total === Infinity) return lines.map(({ spent, room }) => spent + room)
  const weights = lines.map(({ weight }) => Math.max(LEAST_WEIGHT, weight))
  const shareAt = (lambda: number, n: number) => Math.max(lines[n].spent, Math.min(lines[n].spent + lines[n].room, lambda * weights[n]))
  const sum = (lambda: number) => lines.reduce((all, _, n) => all + shareAt(lambda, n), 0)
  // The sum bends only where a line leaves what it spent or reaches what it could use: between two bends it is a line.
  const bends = lines
    .flatMap(({ spent, room }, n) => [spent / weights[n], (spent + room) / weights[n]])
    .filter((bend) => bend > 0 && bend !== Infinity)
    .sort((a, b) => a - b)
  let low = 0
  let high = Infinity
  for (const bend of bends) {
    if (sum(bend) > total) {
      high = bend
      break
    }
    low = bend
  }
  const rising = lines.reduce((all, { spent, room }, n) => {
    const middle = high === Infinity ? low * 2 + 1 : (low + high) / 2
    return shareAt(middle, n) > spent && shareAt(middle, n) < spent + room ? all + weights[n] : all
  }, 0)
  const lambda = rising > 0 ? low + Math.max(0, total - sum(low)) / rising : low
  const shares = lines.map((_, n) => Math.floor(shareAt(lambda, n)))
  // What rounding left goes to the first that can use it.
  let left =
    Math.floor(
      Math.min(
        total,
        lines.reduce((all, { spent, room }) => all + spent + room, 0)
      )
    ) - shares.reduce((all, one) => all + one, 0)
  for (let n = 0; n < lines.length && left > 0; n++) {
    const more = Math.min(left, lines[n].spent + lines[n].room - shares[n])
    if (more <= 0) continue
    shares[n] += Math.floor(more)
    left -= Math.floor(more)
  }
  return shares
}

/** What a line could buy in an hour of its day by what it was forecast when it went live, micros. */
function demandOf({ traffic, demandMicros }: Pick<LineRules, 'traffic' | 'demandMicros'>, zone: number, hour: number): number {
  return traffic ? traffic[weekdayOf(localDayOf(zone, hour)) * HOURS_PER_DAY + localHourOf(zone, hour)] : demandMicros / HOURS_PER_DAY
}

/** Hours [from, to) of a market day in which a line may buy. */
function openHours(
  { calendar: { zone, weights }, rules }: Pick<Planned<LineRules>, 'calendar' | 'rules'>,
  from: number,
  to: number
): number[] {
  const first = Math.max(from, rules.startHour, rules.liveFromHour)
  const last = Math.min(to, rules.endHour ?? Infinity)
  return Array.from({ length: Math.max(0, last - first) }, (_, n) => first + n).filter(
    (hour) => weights[weekdayOf(localDayOf(zone, hour)) * HOURS_PER_DAY + localHourOf(zone, hour)] > 0
  )
}

/** What of the campaign's day a line has had: what was spent on it, what it could have bought, and what was due and did not come. */
export interface DaySoFar {
  /** The campaign's local day. */
  day: number
  spent: Amounts
  seen: Amounts
  due: Amounts
}
export const nothingSoFar = (day: number): DaySoFar => ({
  day,
  spent: { micros: 0, impressions: 0 },
  seen: { micros: 0, impressions: 0 },
  due: { micros: 0, impressions: 0 }
})

export const copyOf = ({ day, spent, seen, due }: DaySoFar): DaySoFar => ({ day, spent: { ...spent }, seen: { ...seen }, due: { ...due } })

/** Of what a line was forecast, how much it may be taken to be able to buy. */
const LEAST_KNOWN = 0.05
const MOST_KNOWN = 4
/** Opportunities from which a price is known. */
const LEAST_SEEN = 20
/** Hours of the forecast that what was seen is weighed against. */
const PRIOR_HOURS = 2

/** What a line could still buy in the hours that are left, by its forecast and by what it saw of them today. */
function room(seen: number, expected: number, anHour: number, rest: number): number {
  const prior = PRIOR_HOURS * anHour
  const known = expected + prior > 0 ? (seen + prior) / (expected + prior) : 1
  return Math.max(seen, Math.min(MOST_KNOWN, Math.max(LEAST_KNOWN, known)) * rest)
}

/** A line among those that share a day, and what it has had of it. */
export interface Sharing extends Planned<LineRules> {
  soFar: DaySoFar
}

/** A line's part of the campaign's day from an hour on. */
export interface Share {
  /** Of the campaign's day, what was spent included. */
  total: Amounts
  /** Of what is left, how much comes before the line's own day ends, 0 to 1. */
  today: number
  /** Market hour at which the campaign's day ends. */
  endHour: number
}

/**
 * Shares the rest of a campaign's day among its lines.
 * @param hour market hour that begins
 */
export function shareDay(campaign: Planned<CampaignRules>, lines: readonly Sharing[], hour: number): Share[] {
  const { zone } = campaign.calendar
  const dayStart = startOfLocalDay(zone, campaign.localDay)
  const dayEnd = startOfLocalDay(zone, campaign.localDay + 1)
  const all = allowance(
    campaign,
    lines.every(({ rules }) => rules.pacing === 'fast')
  )
  const known = lines.map((line) => {
    const { rules, calendar, localDay, soFar, purse } = line
    const ownEnd = startOfLocalDay(calendar.zone, localDay + 1)
    const sum = (hours: readonly number[]) => hours.reduce((total, one) => total + demandOf(rules, calendar.zone, one), 0)
    const past = openHours(line, dayStart, hour)
    const rest = openHours(line, hour, dayEnd)
    const [expected, left] = [sum(past), sum(rest)]
    const hours = past.length + rest.length
    const own = allowance(line, rules.pacing === 'fast')
    // Of a day of its own that begins before the campaign's ends it may use as much again.
    const more = rest.some((one) => one >= ownEnd)
      ? { micros: rules.limits.dailyMicros ?? Infinity, impressions: rules.limits.dailyImpressions ?? Infinity }
      : null
    // A line that is not paced does not see what it leaves.
    const seen = rules.pacing === 'fast' ? expected : soFar.seen.micros
    const couldBuy = room(seen, expected, hours > 0 ? (expected + left) / hours : 0, left)
    // Impressions at the price that was seen.
    const couldShow = soFar.seen.impressions >= LEAST_SEEN ? (couldBuy * soFar.seen.impressions) / soFar.seen.micros : Infinity
    const leftOf = (what: 'micros' | 'impressions') => Math.max(0, own[what] - purse.spent.day[what]) + (more?.[what] ?? 0)
    const untilOwnEnd = sum(rest.filter((one) => one < ownEnd))
    const may = rest.length === 0 ? { micros: 0, impressions: 0 } : { micros: leftOf('micros'), impressions: leftOf('impressions') }
    return {
      may,
      weight: expected + left,
      micros: rest.length === 0 ? 0 : Math.min(leftOf('micros'), couldBuy),
      impressions: rest.length === 0 ? 0 : Math.min(leftOf('impressions'), couldShow),
      today: rest.length === 0 ? 1 : left > 0 ? untilOwnEnd / left : rest.filter((one) => one < ownEnd).length / rest.length
    }
  })
  const shares = (what: 'micros' | 'impressions') => {
    // What lines spent that buy no more today is gone.
    const gone = Math.max(0, campaign.purse.spent.day[what] - lines.reduce((sum, { soFar }) => sum + soFar.spent[what], 0))
    const total = Math.max(0, all[what] - gone)
    const expected = lines.map(({ soFar }, n) => ({ weight: known[n].weight, spent: soFar.spent[what], room: known[n][what] }))
    const first = fillShares(total, expected)
    if (total === Infinity) return first
    // What nobody is expected to use is everybody's who may: forecasts are wrong.
    return fillShares(
      total,
      expected.map(({ weight, spent }, n) => ({ weight, spent: first[n], room: Math.max(0, known[n].may[what] - (first[n] - spent)) }))
    )
  }
  const [micros, impressions] = [shares('micros'), shares('impressions')]
  return lines.map((_, n) => ({ total: { micros: micros[n], impressions: impressions[n] }, today: known[n].today, endHour: dayEnd }))
}
