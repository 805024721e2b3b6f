import type { Format, Grade } from '../taxonomy/index.js'
import type { HourPlan } from '../pricing/index.js'
import type { CountedEvent } from '../response/index.js'
import { COUNTED_BY, type CountedBy, type Dimension } from '../dimensions/index.js'
import type { Targeting } from '../targeting/index.js'

/** What the market is asked about: the traffic that a sentence names. It is what a line is restricted by, over any formats. */
export interface Sentence {
  /** All of them when empty. */
  formats: Format[]
  targeting: Targeting
  hours: HourPlan | null
}

/** What traffic is told apart by: everything reports know, and the deals that were granted. */
export type SurveyBy = CountedBy | 'deal'

export const SURVEY_BY: readonly SurveyBy[] = [...COUNTED_BY, 'deal']

export interface SurveyQuestion {
  sentence: Sentence
  by: readonly SurveyBy[]
  /** A phrase that is left out, so that its own values are counted beside those chosen. */
  without: Dimension | 'format' | 'hours' | null
  /** Bid whose win rate is told, micros a thousand. */
  bidMicros: number
  /** Up to eight groups of the first grouping whose people are compared. */
  compare?: readonly number[]
  /** What counts as a conversion; without any, a purchase by click. */
  counted?: readonly CountedEvent[]
  /** Placements of each deal, by its number. */
  deals: readonly { deal: number; placements: readonly number[] }[]
}

/** What is left of a sentence when a phrase is lifted: what its own values are counted for. */
export function lifted({ formats, targeting, hours }: Sentence, without: SurveyQuestion['without']): Sentence {
  return {
    formats: without === 'format' ? [] : formats,
    hours: without === 'hours' ? null : hours,
    targeting: {
      restrictions: targeting.restrictions.filter((restriction) => restriction.dimension !== without || restriction.mode === 'exclude')
    }
  }
}

/** Some traffic: a day, of the market; prices in micros a thousand. */
export interface Traffic {
  opportunitiesADay: number
  /** Different people in the days of the tape. */
  people: number
  /** Lowest floor, and the one that covers 95 in 100. */
  floorMicros: number
  /** Of a whole survey alone. */
  mostFloorsMicros: number | null
  /** What the best rival or the floor asks: mean and highest. */
  meanMicros: number
  highestMicros: number
  /** Of the two best rivals how many there are, in the mean. */
  rivals: number
  /** Bids that win one in ten, half, and nine in ten. */
  entersMicros: number
  halfMicros: number
  nineInTenMicros: number
  /** Share that the bid of the question wins. */
  winRate: number
  /** Published by measurers, shares 0 to 1, weighted by opportunities. */
  viewability: number
  bots: number
  blocked: number
  stays: number
  grade: Grade
  /** Share that the publisher sells itself, the rest through resellers. */
  direct: number
  /** What the trade's means expect of an impression: conversions, 0 to 1. */
  conversionRate: number
}

export interface SurveyRow extends Traffic {
  key: number
  label: string
  /** What restrictions call it: of properties, placements and publishers. */
  code?: string
}

export interface Survey {
  total: Traffic
  groups: { by: SurveyBy; rows: SurveyRow[] }[]
  /** By hour of the viewer's week, Monday 00:00 first: opportunities in that hour, median price to win, rivals. */
  week: { opportunities: number[]; halfMicros: number[]; rivals: number[] }
  /** Share won by bid: cumulative, at the bids where it changes by about a twentieth. */
  curve: { bidMicros: number; share: number }[]
  /** People that two of the compared groups share; on the diagonal those of each. */
  overlap: number[][]
  /** One person in so many of the tape was looked at. */
  every: number
  /** First phrase after which nothing is left, in the order of the sentence; null when something is. */
  emptiedBy: Dimension | 'format' | 'hours' | null
}
