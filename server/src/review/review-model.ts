import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { LandingStep } from '@tin-harbor/core/buying'
import type { ReviewFinding, Reviewed } from '@tin-harbor/core/review'
import { id, int, maybe, text, type New, type Row } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** An ad as it was sent to the reviewer, or to the publisher of a deal, and what was answered. */
export class AdReview extends Model<Row<AdReview>, New<AdReview>> {
  declare id: CreationOptional<number>
  declare adId: number
  declare lineId: number
  declare advertiserId: number
  /** Who looks at it: a publisher by its number; null for the reviewer. */
  declare publisher: number | null
  /** What whoever looks at it is called. */
  declare desk: string
  declare reviewed: Reviewed
  /** The links with which it is cleared. */
  declare landings: LandingStep[]
  /** `withdrawn`: sent again otherwise before it was answered. */
  declare state: 'waits' | 'cleared' | 'refused' | 'withdrawn'
  declare findings: ReviewFinding[]
  /** Market hours: when it was sent, by when it is answered, and when it was. */
  declare sentHour: number
  declare byHour: number
  declare answeredHour: CreationOptional<number | null>
  declare sentBy: number | null
}

/** Ties the model to a connection. */
export function defineReviews(sequelize: Sequelize): void {
  AdReview.init(
    {
      id: id(),
      adId: int(),
      lineId: int(),
      advertiserId: int(),
      publisher: maybe(),
      desk: text(),
      reviewed: documentColumn('reviewed'),
      landings: documentColumn('landings'),
      state: text(),
      findings: documentColumn('findings'),
      sentHour: int(),
      byHour: int(),
      answeredHour: maybe(),
      sentBy: maybe()
    },
    { sequelize, tableName: 'ad_review' }
  )
}
