import type { HourPlan, LinePrice } from '../pricing/index.js'
import type { Targeting } from '../targeting/index.js'
import type { Cap } from './exposures.js'
import type { Pacing } from './pacing.js'

/** An immutable revision of a line, as the exchange reads it. Hours are market hours (UTC), ends exclusive. */
export interface LineRules {
  line: number
  revision: number
  campaign: number
  targeting: Targeting
  price: LinePrice
  /** When it is open; left out for always. */
  hours?: HourPlan | null
  /** IANA zone of its days. */
  zone: string
  startHour: number
  endHour: number | null
  /** The hour from which this line has been in force without a new start; its first day's plan opens here. */
  liveFromHour: number
  dailyMicros: number | null
  totalMicros: number | null
  pacing: Pacing
  caps: Cap[]
  gapMinutes?: number
  /** Cleared ads; shape is an index into `SHAPES`, weight a whole number. */
  ads: { ad: number; shape: number; weight: number }[]
  /** Spend it could have by hour of its local week, forecast when it went live: pacing by traffic follows it. */
  traffic?: readonly number[]
  /** Spend a day without budgets, forecast when it went live: lines share their campaign's day in proportion to it. */
  demandMicros: number
}

export interface CampaignRules {
  campaign: number
  zone: string
  startHour: number
  endHour: number | null
  dailyMicros: number | null
  totalMicros: number | null
}

/** All revisions in force from an hour on. */
export interface PublicationRules {
  publication: number
  lines: LineRules[]
  campaigns: CampaignRules[]
}
