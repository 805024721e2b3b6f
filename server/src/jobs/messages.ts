import type { WorldSize } from '@tin-harbor/core/market'
import type { TapeHead } from '@tin-harbor/core/tape'
import type {
  Company,
  ForLive,
  ForecastPart,
  ForecastQuestion,
  GoalMeasure,
  LiveQuestion,
  OwnTaker,
  Survey,
  SurveyQuestion
} from '@tin-harbor/core/forecast'
import type {
  Became,
  Bought,
  HourFacts,
  Knowledge,
  LineRules,
  Offered,
  OpeningLine,
  PublicationRules,
  Sought,
  SpentSoFar,
  Tally,
  Verdict
} from '@tin-harbor/core/exchange'
import type { ReportQuestion, ReportRow, ShopQuestion, ShopVisits } from '@tin-harbor/core/results'

/** A world whose people lie in shared memory. */
export interface SharedWorld {
  size: WorldSize
  people: SharedArrayBuffer
}

/** A tape in shared memory. */
export interface SharedTape {
  head: TapeHead
  buffer: SharedArrayBuffer
}

/** What the tape thread is started with. */
export interface TapeThread extends SharedWorld {
  folder: string | null
}

/** Fills in a part of a world's people. */
export interface PeopleWork {
  requests: { fill: { asks: { from: number; to: number }; tells: never; answers: void } }
  notices: Record<never, never>
}

export interface TapeWork {
  requests: {
    build: {
      asks: { lastDay: number }
      tells:
        | { kind: 'progress'; done: number; of: number }
        | { kind: 'tape'; tape: SharedTape; milliseconds: number; how: 'built' | 'a day added' | 'opened' }
        /** A file that was refused, and why; the tape is built anew. */
        | { kind: 'refused'; reason: string }
      answers: void
    }
  }
  /** `people`: they are filled in now; until then only a tape from its file can be had. */
  notices: { people: null }
}

/** Lines of a campaign, and what each would be asked. */
export type CompanyQuestion = {
  lines: { line: number; question: ForecastQuestion }[]
  totalMicros: number
  measure: GoalMeasure
}

export interface ForecastWork {
  requests: {
    /** `whole`: all parts; otherwise the main figures alone. */
    ask: {
      asks: { question: ForecastQuestion; measure: GoalMeasure; whole: boolean }
      tells: { part: ForecastPart; milliseconds: number }
      answers: void
    }
    /** What is kept with a line that goes live. */
    live: { asks: ForecastQuestion; tells: never; answers: ForLive }
    survey: { asks: { question: SurveyQuestion; zone: string }; tells: never; answers: Survey }
    /** What a line in force takes of the tape. */
    taker: { asks: LiveQuestion; tells: never; answers: OwnTaker }
    /** What shares of a campaign's money buy its lines, and whom they share. */
    company: { asks: CompanyQuestion; tells: never; answers: Company }
  }
  /** `own`: what the lines in force take of the tape that was told last. */
  notices: { tape: SharedTape; own: readonly OwnTaker[] }
}

/** A market day in shared memory. */
export interface SharedDay {
  day: number
  count: number
  buffer: SharedArrayBuffer
  hourStart: Uint32Array
}

/** Makes a day, in the memory of one that is done with when there is some. */
export interface DayWork {
  requests: { day: { asks: { day: number; memory: SharedArrayBuffer | null }; tells: never; answers: SharedDay } }
  notices: Record<never, never>
}

/** An hour of the delivery log as it is stored. */
export interface StoredLog {
  hour: number
  n: number
  crc: number
  data: Uint8Array
  eventCount: number
  eventCrc: number
  events: Uint8Array
  /** In force in that hour. */
  publication: number
}

/** A line's results in a form that crosses threads; `factsFrom` makes maps of them again. */
export interface StoredFacts {
  total: Tally
  byAd: [number, Tally][]
  byPlacement: [number, Tally][]
  byDevice: [number, Tally][]
  byHour: [number, Tally][]
  byDay: [number, Tally][]
}

/** What is known of a line that learns, in a form that crosses threads. */
export type StoredKnowledge = [line: number, Omit<Knowledge, 'facts'> & { facts: StoredFacts }]

/** The state at an hour's start, in a form that crosses threads. */
export interface StoredOpening {
  hour: number
  balanceMicros: number
  lines: [number, Omit<OpeningLine, 'facts'> & { facts: StoredFacts | null }][]
  campaigns: [number, SpentSoFar][]
  logs: StoredLog[]
}

export interface MarketWork {
  requests: {
    open: { asks: { publication: PublicationRules; opening: StoredOpening }; tells: never; answers: void }
    /**
     * `target` is the hour the run goes to: days before it are made ahead. Null when this thread was not opened, as one is that
     * took the place of another.
     */
    hour: { asks: { target: number }; tells: never; answers: HourFacts | null }
  }
  notices: Record<never, never>
}

/** What reads the past: reports, and one opportunity with every line's verdict. */
export interface RecordsWork {
  requests: {
    report: {
      asks: { zone: number; logs: StoredLog[]; question: ReportQuestion }
      tells: never
      answers: { rows: ReportRow[]; total: ReportRow }
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
