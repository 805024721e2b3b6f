import { shapesOf } from '../taxonomy/index.js'
import { valuesOf } from '../targeting/index.js'
import type { FieldIssue } from './fields.js'
import { flightHours, type LineDraft } from './line.js'
import type { CampaignDraft } from './campaign.js'

/** One thing preflight has to say. A line with a finding that stops cannot be put live. */
export interface Finding extends FieldIssue {
  severity: 'stops' | 'warns'
}

export interface PreflightContext {
  campaign: Pick<CampaignDraft, 'budget'>
  /** Sizes of the line's ads, such as `300x250`. */
  adSizes: readonly string[]
  nowHour: number
  /** Trackers of the advertiser. */
  trackers?: number
  /** Names of deals that it would buy by and that are over. */
  expiredDeals?: readonly string[]
}

/** Limits of which one at least must bound what is spent. */
const BOUNDS_MONEY = ['dailyMicros', 'weeklyMicros', 'monthlyMicros', 'totalMicros'] as const

/** The checks a line must pass before it goes live. */
export function preflight(line: LineDraft, { campaign, adSizes, nowHour, trackers = 0, expiredDeals = [] }: PreflightContext): Finding[] {
  const findings: Finding[] = []
  const stops = (field: string, message: string) => findings.push({ severity: 'stops', field, message })
  const warns = (field: string, message: string) => findings.push({ severity: 'warns', field, message })
  const places = valuesOf(line.targeting, 'where')
  const sizes = valuesOf(line.targeting, 'size')
  if (places.length === 0) stops('targeting.where', 'Choose at least one country or region.')
  if (line.price.bidMicros === null && !line.price.aim) stops('price.bidMicros', 'A bid is needed.')
  if (!BOUNDS_MONEY.some((name) => line.budget[name] != null || campaign.budget[name] != null)) {
    stops('budget.dailyMicros', 'Neither the line nor its campaign has a budget.')
  }
  const { endHour } = flightHours(line.flight, line.zone)
  if (endHour !== null && endHour <= nowHour) stops('flight.endDate', 'The flight is over by the market clock.')
  if (line.flight.endDate === null && line.budget.totalMicros !== null && line.budget.dailyMicros === null) {
    warns('budget.dailyMicros', 'An open flight has no days to spread the total over: it may all be spent at once.')
  }
  if (line.price.aim && (line.price.aim.event === 'conversion' || line.price.aim.event === 'value') && trackers === 0) stops('price.aim', 'An aim at conversions needs a tracker of the advertiser.')
  for (const name of expiredDeals) stops('buys', `The deal "${name}" has ended.`)
  if (line.landing === '') stops('landing', 'A landing link is needed.')
  if (adSizes.length === 0) stops('creatives', 'The line has no creative.')
  const wanted = sizes.length > 0 ? sizes : shapesOf(line.format)
  if (adSizes.length > 0 && !adSizes.some((size) => (wanted as readonly string[]).includes(size))) {
    stops('creatives', `No creative fits a chosen size: ${wanted.join(', ')}.`)
  }
  const bare = sizes.filter((size) => !adSizes.includes(size))
  if (adSizes.length > 0 && bare.length > 0) warns('targeting.size', `No creative for ${bare.join(', ')}: nothing will be bought there.`)
  if (new Set(places.map((place) => place.slice(0, 2))).size > 1) warns('targeting.where', 'Several countries on one line cannot be told apart by bid or budget.')
  if (valuesOf(line.targeting, 'device').length !== 1) warns('targeting.device', 'Several device classes on one line cannot be told apart by bid or budget.')
  if (line.caps.length === 0) warns('caps', 'Without a cap one person may see it any number of times.')
  return findings
}

/** Largest picture we take, in bytes: browsers and publishers refuse heavier ones. */
export const MOST_PICTURE_BYTES = 200 * 1024
/** Largest upload read at all. */
export const MOST_UPLOAD_BYTES = 8 * 1024 * 1024
