import type { Left } from '../money/index.js'
import type { CampaignDraft, Landing, LineDraft, Offer } from '../buying/index.js'
import type { ReviewFinding } from '../review/index.js'
import type { Reach } from './reach.js'

/** An ad of a line: what it is called, and the slots that it fits. */
export interface AdFacts {
  id: number
  name: string
  shapes: readonly string[]
  /** Why it is not shown, whatever the line says. */
  stopped?: string | null
}

/** A deal that a line would buy by. */
export interface DealFacts {
  id: number
  name: string
  priceMicros: number
  leastSpendMicros: number | null
  isExpired: boolean
}

export interface PreflightContext {
  campaign: Pick<CampaignDraft, 'budget' | 'linkTail'> & { goal?: CampaignDraft['goal'] }
  /** The line's ads, with the slots that they fit, such as `300x250`. */
  ads: readonly AdFacts[]
  /** What the specification finds in its ads, by the ad's name. */
  adFindings?: readonly { ad: string; says: string; severity: 'stops' | 'warns' }[]
  /** Links of the offer that its campaign sells, and of the campaign. */
  landings?: { offer: readonly Landing[]; campaign: readonly Landing[] }
  nowHour: number
  /** Trackers of the advertiser. */
  trackers?: number
  deals?: readonly DealFacts[]
  /** What the advertiser's offers pay for. */
  terms?: readonly Offer['terms'][]
  /** Lines of the same campaign that are in force. */
  mates?: readonly { name: string; draft: LineDraft }[]
  /** The line that this one was copied from. */
  original?: { name: string; draft: LineDraft } | null
  /** What was spent by the line already, micros, by the periods of its budget. */
  spent?: { day: number; week: number; month: number; total: number }
  left?: Left
  /** What would be refused of its ads that nobody looked at yet, by whom. */
  refusals?: readonly ({ ad: number; name: string; desk: string } & ReviewFinding)[]
  /** By when all who look at its ads have answered, market hour; null where nobody has to. */
  answeredBy?: number | null
  reach?: Reach | null
  isLive?: boolean
}
