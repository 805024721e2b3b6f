import type { GoalMeasure, Judged, MainFigures, Overlap, SplitPoint } from '../forecast/index.js'
import type { Interval } from '../report/index.js'
import type { Became, Bought, Verdict } from '../exchange/index.js'
import type { LossCount, OutcomeCounts, ReportDimensionName, ShopVisits, StairStep } from '../results/index.js'
import type { CampaignDraft } from './campaign.js'
import type { LineDraft } from './line.js'
import type { FieldChange, FixableFinding } from './fields.js'
import type { Role } from './roles.js'
import type { LineState } from './states.js'

/** What the server tells pages: the shapes of its answers, shared so that neither side can drift. */

/** The signed-in user. */
export interface UserView {
  name: string
  email: string
  role: Role
}

export interface CampaignView extends CampaignDraft {
  id: number
  code: string
  advertiserId: number
  version: number
}

export interface AdvertiserView {
  id: number
  name: string
  domain: string
  zone: string
}

/** What was forecast of a revision beside what came. */
export interface ForecastRecordRow {
  line: number
  name: string
  revision: number
  /** Hours in which it was in force, the end exclusive. */
  from: number
  to: number
  /** What of the forecast is judged: its day over a week, or a shorter flight; null where it was changed too soon. */
  by: 'day' | 'flight' | null
  figures: Judged[]
}

/** Ranges that were said, and how many of them held what came. */
export interface ForecastRecordView {
  rows: ForecastRecordRow[]
  ranges: number
  held: number
}

/** A strip of the manifest: a line with what it has spent and should have by now. */
export interface ManifestLine {
  id: number
  code: string
  campaignId: number
  name: string
  state: string
  waits: boolean
  tags: string[]
  template: boolean
  /** Whether it has edits that are not in force. */
  staged: boolean
  startDate: string
  endDate: string | null
  spentMicros: number
  /** Whole plan of the flight, and its part due by the clock; null without a budget of its own or its campaign's. */
  plannedMicros: number | null
  dueMicros: number | null
  /** What it gets of the best that its money could buy, 0 to 1, as it is in force; null where that is not known. */
  possible: number | null
}

/** Spend against plan, by day of the advertiser's calendar. */
export interface Pace {
  days: { date: string; spendMicros: number; plannedMicros: number | null; wins: number; clicks: number }[]
  spentMicros: number
  dueMicros: number | null
  plannedMicros: number | null
  /** The day before in which the clock stands is whole; the last one is not. */
  words: string
}

export interface AdView {
  id: number
  /** The picture; null for an ad made of parts. */
  creativeId: number | null
  madeCreativeId: number | null
  name: string
  /** Shapes of slot that it fits, in words. */
  size: string
  shapes: readonly string[]
  weight: number
  width: number
  height: number
  bytes: number
  type: string
  /** Of a film or a spot. */
  seconds?: number
  review: string
}

/** A creative made of parts that a line could show. */
export interface MadeChoice {
  id: number
  name: string
  kind: string
  shapes: readonly string[]
}

export interface LineView {
  id: number
  code: string
  campaignId: number
  advertiserId: number
  draft: LineDraft
  state: LineState
  /** Cleared, but not to start before somebody releases it. */
  waits: boolean
  version: number
  ads: AdView[]
  /** The revision in force, and what the draft would change of it; null before the line first goes live. */
  inForce: { draft: LineDraft; forecast: MainFigures; marketHour: number; changes: FieldChange[] } | null
  /** Whether a live line serves, in words. */
  serving: string
  /** What it has gathered to learn from, in words; empty where nothing is learned. */
  learning: string
  tags: string[]
  /** A draft that others start from. */
  template: boolean
  /** The line that it was copied from, and what differs from it. */
  copiedFrom: { id: number; name: string; differs: FieldChange[] } | null
}

/** What the one confirmation counts before anything goes live. */
export interface LivePlan {
  findings: FixableFinding[]
  campaigns: number
  lines: number
  ads: number
  /** The most this line may spend in a day and in all, micros; null without a limit of that kind. */
  mostADayMicros: number | null
  mostInAllMicros: number | null
  /** What changes of a line that is live already. */
  changes: FieldChange[]
  isLive: boolean
  waits: boolean
}

export interface LiveAnswer {
  line: number
  state: string
  fromHour: number
}

export interface PlacementResult {
  placement: number
  property: string
  position: string
  size: string
  impressions: number
  viewable: number
  clicks: number
  /** Clicks of impressions and its 90 % range. */
  clickRate: number
  clickRange: Interval
  spendMicros: number
  cpmMicros: number
  leftOut: boolean
}

export interface Results {
  from: string | null
  to: string | null
  rows: PlacementResult[]
  total: Pick<PlacementResult, 'impressions' | 'viewable' | 'clicks' | 'clickRate' | 'clickRange' | 'spendMicros' | 'cpmMicros'>
  /** Market hours of the period in which the line ran. */
  hours: number
  days: { date: string; impressions: number; spendMicros: number }[]
}

/** A stair of what became of opportunities, for a line and market hours [from, to). */
export interface TraceView {
  line: number
  from: number
  to: number
  /** Opportunities of the whole market in the hours in which the line was in force, and how many hours those were. */
  offered: number
  hours: number
  tapeFirstDay: number
  /** What each restriction leaves, counted on the tape and scaled to what was offered, with its 80 % range. */
  sieve: { name: string; left: number; low: number; high: number }[]
  matched: number
  /** With what was forecast to be left at a step, where a forecast tells that. */
  stair: (StairStep & { forecast: number | null })[]
  counts: OutcomeCounts
  /** Lost bids by bin of how far they fell short. */
  short: number[]
  /** What took most opportunities, the largest first. */
  losses: LossCount[]
  /** What binds now, and the better uses of its money, as the line's own page says: wins and spend a day. */
  binds: string
  advice: { words: string; wins: number; spendMicros: number; takesMore: boolean }[]
  /** What was forecast when it went live, for as many hours. */
  forecast: { wins: number; low: number; high: number }
}

/** One opportunity, and what every line made of it. */
export interface OpportunityTrace {
  hour: number
  nth: number
  /** Opportunities of that hour. */
  count: number
  key: number
  minute: number
  placement: number
  property: string
  position: string
  size: string
  source: string
  device: string
  browser: string
  country: string
  category: string
  connection: string
  robot: boolean
  floorMicros: number
  rivalMicros: number
  secondMicros: number
  isFirstPrice: boolean
  verdicts: (Omit<Verdict, 'failing'> & { name: string; failing: string[]; became: Became | null })[]
  /** The line of ours that bought it; without a name where the user does not see its advertiser. */
  /** By a line that the user does not see: nothing but that. */
  bought: (Omit<Bought, 'line'> & { name: string }) | { name: null } | null
}

/** A row of a report with its rates. */
export interface ReportRowView {
  key: number
  label: string
  wins: number
  people: number
  frequency: number
  viewable: number
  viewableShare: number
  views: number
  /** How many reached each quarter point. */
  reached: [number, number, number, number]
  overlayClicks: number
  unmutes: number
  shares: number
  clicks: number
  clickRate: number
  clickRange: Interval
  visits: number
  stays: number
  pages: number
  conversions: number
  viewConversions: number
  assists: number
  valueMicros: number
  spendMicros: number
  dataMicros: number
  feeMicros: number
  cpmMicros: number
  costMicros: number | null
  costRange: { low: number; high: number | null } | null
}

export interface ReportView {
  by: ReportDimensionName
  from: string
  to: string
  windowHours: number
  campaign: number | null
  line: number | null
  rows: ReportRowView[]
  total: ReportRowView
  milliseconds: number
}

/** Visits to an advertiser's shops beside what was shown; null where it has none or no campaign is asked about. */
export interface ShopVisitsView extends ShopVisits {
  shops: string[]
}

/** A day by hour against its plan, with the day before behind it. */
export interface TodayView {
  date: string
  /** Hour of the local day in which the clock stands. */
  hour: number
  hours: TodayHour[]
  yesterday: TodayHour[]
  /** Spend planned by the start of each hour, 25 of them; null without a limit of money. */
  plannedMicros: number[] | null
}

/** What an hour of a local day brought. */
export interface TodayHour {
  spendMicros: number
  matched: number
  wins: number
  viewable: number
  clicks: number
}

/** A campaign's lines beside each other: what shares of its money buy each, and whom they share. */
export interface CompanyView {
  /** A day of the campaign's money. */
  totalMicros: number
  measure: GoalMeasure
  overlaps: Overlap[]
  lines: {
    line: number
    version: number
    name: string
    /** Its own daily budget; null without one. */
    ownMicros: number | null
    /** In the goal's measure, with its budget as it is, and as advised. */
    buysNow: number
    advisedMicros: number
    buysAdvised: number
    points: SplitPoint[]
  }[]
}

/** What somebody did to a line. */
export interface HistoryEntry {
  id: number
  /** Seconds since 1970. */
  at: number
  who: string
  action: string
  changes: FieldChange[]
}
