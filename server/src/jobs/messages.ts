import type { WorldSize } from '@tin-harbor/core/market'
import type { TapeHead } from '@tin-harbor/core/tape'
import type {
  Company,
  ForLive,
  ForecastPart,
  ForecastQuestion,
  GoalMeasure,
  Sieve,
  Survey,
  SurveyQuestion
} from '@tin-harbor/core/forecast'
import type {
  Became,
  Bought,
  HourFacts,
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

/** What fills in a part of a world's people. */
export interface PeopleShare extends SharedWorld {
  from: number
  to: number
}

/** What the tape thread is started with. */
export interface TapeThread extends SharedWorld {
  folder: string | null
}

/** `people`: they are filled in now; until then only a tape from its file can be had. */
export type ToTape = { kind: 'build'; lastDay: number } | { kind: 'people' }
export type FromTape =
  | { kind: 'progress'; done: number; of: number }
  | { kind: 'tape'; tape: SharedTape; milliseconds: number; how: 'built' | 'a day added' | 'opened' }
  /** A file that was refused, and why; the tape is built anew. */
  | { kind: 'refused'; reason: string }

export type ToForecast =
  | { kind: 'tape'; tape: SharedTape }
  /** `whole`: all parts; otherwise the main figures alone. */
  | { kind: 'ask'; job: number; cancel: SharedArrayBuffer; question: ForecastQuestion; measure: GoalMeasure; whole: boolean }
  /** What is kept with a line that goes live. */
  | { kind: 'live'; job: number; cancel: SharedArrayBuffer; question: ForecastQuestion; follow: boolean }
  | { kind: 'sieve'; job: number; cancel: SharedArrayBuffer; question: ForecastQuestion }
  | { kind: 'survey'; job: number; cancel: SharedArrayBuffer; question: SurveyQuestion; zone: string }
  /** What shares of a campaign's money buy its lines, and whom they share. */
  | {
      kind: 'company'
      job: number
      cancel: SharedArrayBuffer
      lines: { line: number; question: ForecastQuestion }[]
      totalMicros: number
      measure: GoalMeasure
    }
export type FromForecast =
  | { kind: 'part'; job: number; part: ForecastPart; milliseconds: number }
  /** `whole`: all parts were sent. */
  | { kind: 'done'; job: number; whole: boolean }
  | { kind: 'live'; job: number; live: ForLive }
  | { kind: 'sieve'; job: number; sieve: Sieve }
  | { kind: 'survey'; job: number; survey: Survey }
  | { kind: 'company'; job: number; company: Company }
  | { kind: 'cancelled'; job: number }
  | { kind: 'failed'; job: number; message: string }

/** A day that is to be made, in the memory of one that is done with when there is some. */
export interface DayWanted {
  day: number
  memory: SharedArrayBuffer | null
}

/** A market day in shared memory. */
export interface SharedDay {
  day: number
  count: number
  buffer: SharedArrayBuffer
  hourStart: Uint32Array
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

/** The state at an hour's start, in a form that crosses threads. */
export interface StoredOpening {
  hour: number
  balanceMicros: number
  lines: [number, Omit<OpeningLine, 'facts'> & { facts: StoredFacts | null }][]
  campaigns: [number, SpentSoFar][]
  logs: StoredLog[]
}

export type ToMarket =
  | { kind: 'open'; publication: PublicationRules; opening: StoredOpening }
  /** `target` is the hour the run goes to: days before it are made ahead. */
  | { kind: 'hour'; cancel: SharedArrayBuffer; target: number }
export type FromMarket =
  { kind: 'opened' } | { kind: 'facts'; facts: HourFacts } | { kind: 'stopped' } | { kind: 'failed'; message: string }

/** What reads the past: reports, and one opportunity with every line's verdict. */
export type ToRecords =
  | { kind: 'report'; job: number; zone: number; logs: StoredLog[]; question: ReportQuestion }
  | { kind: 'shops'; job: number; logs: StoredLog[]; question: ShopQuestion }
  /** `seek` looks for the next after `nth` that became so for a line; verdicts are of the lines in `seen`; `logs` holds the hour's own. */
  | {
      kind: 'opportunity'
      job: number
      hour: number
      nth: number
      seek: { line: number; sought: Sought } | null
      logs: [StoredLog]
      lines: LineRules[]
      seen: number[]
      known: [number, { facts: StoredFacts; correction: number }][]
    }
export type FromRecords =
  | { kind: 'report'; job: number; rows: ReportRow[]; total: ReportRow }
  | { kind: 'shops'; job: number; visits: ShopVisits }
  | { kind: 'opportunity'; job: number; count: number; found: OpportunityFound | null }
  /** `told` is for whoever asked; the message for the log. */
  | { kind: 'failed'; job: number; message: string; told: string | null }

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
