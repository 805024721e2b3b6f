import type { DealChoice, HourPlan, LinePrice } from '../pricing/index.js'
import type { Targeting } from '../targeting/index.js'
import type { AdContent, Windows } from '../response/index.js'
import type { EventKind } from '../taxonomy/index.js'
import type { Cap } from './caps.js'
import type { Limits } from './limits.js'
import type { Pacing } from './pacing.js'

/** What an aim can be for. A person is one whom the line did not reach in the 30 days before; pages are those opened in a visit. */
export const AIM_KINDS = ['conversion', 'click', 'view', 'stay', 'page', 'person', 'value'] as const

/** What is gathered of each, in words. */
export const AIM_PLURALS: Readonly<Record<(typeof AIM_KINDS)[number], string>> = {
  conversion: 'conversions',
  click: 'clicks',
  view: 'views',
  stay: 'stays',
  page: 'pages',
  person: 'new people',
  value: 'conversions'
}

/** What a line's bids aim at, in place of a bid: so many micros an event, or so much value for each micro spent. */
export interface Aim {
  event: (typeof AIM_KINDS)[number]
  /** Micros an event; for `value` thousandths of value for one of spend. */
  micros: number
}

/** What each placement's rivals asked for, from the tape when the line went live: for bids that follow the market. */
export interface Landscape {
  /** Placement and source, as in `Opportunities.path`. */
  path: number[]
  /** Opportunities of the line a day in the whole market. */
  perDay: number[]
  /** What 1/16, 2/16 ... 16/16 of them took to win, micros an impression. */
  needs: number[][]
  /** Share of the week's opportunities by local hour of the week. */
  hours: number[]
}

export const ROTATIONS = ['weight', 'even', 'learning'] as const
export type Rotation = (typeof ROTATIONS)[number]

/** Goals that learning can work towards, and the measure that counts for each. */
export const GOAL_EVENT = {
  reach: 'viewable',
  views: 'views',
  visits: 'visits',
  pages: 'pages',
  conversions: 'conversions',
  revenue: 'valueMicros'
} as const
export type GoalName = keyof typeof GOAL_EVENT

/** A cleared ad on a line; shape is an index into `SHAPES`, weight a whole number. */
export interface AdRules {
  ad: number
  shape: number
  weight: number
  /** It is not shown. */
  off?: boolean
  /** Base bid of its own, in the unit of the line's price. */
  bidMicros?: number | null
  caps?: Cap[]
  /** Share of its length at which it counts as viewed, in thousandths; left out for its end. */
  viewPoint?: number
  /** Narrower than the line's. */
  targeting?: Targeting
}

/** An immutable revision of a line, as the exchange reads it. Hours are market hours (UTC), ends exclusive. */
export interface LineRules {
  line: number
  revision: number
  campaign: number
  targeting: Targeting
  /** Shapes of slot that it may buy, by position in `SHAPES`; left out for all. */
  shapes?: readonly number[]
  price: LinePrice
  /** Bids are made towards this, up to the price's maximum. */
  aim?: Aim | null
  /** Correction of an aim's first bids, in thousandths, as forecast when it went live: what its plan and its costs came to then. */
  firstCorrection?: number
  /** The least that wins the share the plan needs, placement by placement, never above the price's maximum or bid. */
  follow?: Landscape | null
  /** When it is open; left out for always. */
  hours?: HourPlan | null
  /** IANA zone of its days. */
  zone: string
  startHour: number
  endHour: number | null
  /** The hour from which this line has been in force without a new start; its first day's plan opens here. */
  liveFromHour: number
  limits: Limits
  pacing: Pacing
  caps: Cap[]
  gapMinutes?: number
  ads: AdRules[]
  rotation?: Rotation
  buys?: DealChoice
  /** Cost of data, micros an impression. */
  dataMicros?: number
  /** View point of its ads in the mean, in thousandths of their length: what views are expected by. Left out for their end. */
  viewPoint?: number
  /** Spend it could have by hour of its local week, forecast when it went live: pacing by traffic follows it. */
  traffic?: readonly number[]
  /** Spend a day without budgets, forecast when it went live: lines share their campaign's day by it where `traffic` is not known. */
  demandMicros: number
}

export interface CampaignRules {
  campaign: number
  zone: string
  startHour: number
  endHour: number | null
  limits: Limits
  caps?: Cap[]
  goal?: GoalName
}

/** A conversion event that counts for an advertiser. */
export interface TrackerRules extends Windows {
  advertiser: number
  tracker: number
  kind: EventKind
  /** Subject of what is sold, its place in `BRANCHES`. */
  subject?: number | null
  valueMicros: number | null
}

/** A shop of an advertiser: its place's code. */
export interface ShopRules {
  advertiser: number
  place: string
}

/** What an ad is made of: how it is responded to follows from it. */
export interface AdMade {
  ad: number
  content: AdContent
}

/** Whose lines are whose, for all that ever bought: a line that stopped still earns what it brought. */
export interface Owner {
  line: number
  campaign: number
  advertiser: number
  /** IANA zone of the line's days. */
  zone: string
}

/** All revisions in force from an hour on. */
export interface PublicationRules {
  publication: number
  lines: LineRules[]
  campaigns: CampaignRules[]
  owners?: Owner[]
  trackers?: TrackerRules[]
  shops?: ShopRules[]
  /** Of all ads that were ever shown. */
  made?: AdMade[]
  /** Each line is an organisation of its own: none keeps another from buying the same impression. For trials only. */
  apart?: boolean
}
