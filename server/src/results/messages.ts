import type { Became, Bought, LineRules, Offered, Sought, Verdict } from '@tin-harbor/core/exchange'
import type { Pivot, ReportQuestion, ShopQuestion, ShopVisits } from '@tin-harbor/core/results'
import type { StoredLog, StoredKnowledge } from '../delivery/stored.js'

/** What reads the past: reports, and one opportunity with every line's verdict. */
export interface RecordsWork {
  requests: {
    report: {
      asks: { zone: number; logs: StoredLog[]; question: ReportQuestion }
      tells: never
      answers: Pivot
    }
    shops: { asks: { logs: StoredLog[]; question: ShopQuestion }; tells: never; answers: ShopVisits }
    opportunity: { asks: OpportunityAsked; tells: never; answers: { count: number; found: OpportunityFound | null } }
  }
  notices: Record<never, never>
}

/** `seek` looks for the next after `nth` that became so for a line; verdicts are of the lines in `seen`; `logs` holds the hour's own. */
export interface OpportunityAsked {
  hour: number
  nth: number
  seek: { line: number; sought: Sought } | null
  logs: [StoredLog]
  lines: LineRules[]
  seen: number[]
  known: StoredKnowledge[]
}

/** An opportunity of the past, as it was offered and as it went. */
export interface OpportunityFound {
  nth: number
  offered: Offered
  device: number
  page: number
  state: number
  /** The person's. */
  words: number[]
  verdicts: (Verdict & { became: Became | null })[]
  bought: Bought | null
}
