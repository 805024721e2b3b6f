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
import type { SharedTape } from '../threads/shared-world.js'

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
