import { DataTypes, Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { ToldOutcomeName } from '@tin-harbor/core/contract'
import type { TrackerReports } from '@tin-harbor/core/buying'
import { id, int, maybe, maybeText, text, type New, type Row } from '../database/columns.js'
import { moneyColumn } from '../database/connection.js'

/** A conversion that a page or a server told, whatever became of it: nothing that was told is lost. */
export class ToldConversionRow extends Model<Row<ToldConversionRow>, New<ToldConversionRow>> {
  declare id: CreationOptional<number>
  /** Of the telling: one that is read from a journal again is the same. */
  declare told: string
  declare trackerId: number
  declare how: TrackerReports
  declare outcome: ToldOutcomeName
  /** Why, in words. */
  declare says: string
  /** The term of the offer that it is outside of; null where it is paid for. */
  declare term: string | null
  declare earnedBy: 'click' | 'view' | null
  declare click: string
  declare subject: string | null
  /** The impression: hour of its log and place in it. */
  declare hour: number | null
  declare place: number | null
  declare lineId: number | null
  declare adId: number | null
  declare person: number | null
  declare transactionId: string
  /** What counts once: the transaction, or the click without one; null for what does not count. */
  declare once: string | null
  declare valueMicros: number
  declare page: string
  /** Seconds since 1970. */
  declare toldAt: number
  declare enteredHour: number | null
}

/** Ties the model to a connection. */
export function defineToldConversions(sequelize: Sequelize): void {
  ToldConversionRow.init(
    {
      id: id(),
      told: text(),
      trackerId: int(),
      how: text(),
      outcome: text(),
      says: text(),
      term: maybeText(),
      earnedBy: maybeText(),
      click: text(),
      subject: maybeText(),
      hour: maybe(),
      place: maybe(),
      lineId: maybe(),
      adId: maybe(),
      person: maybe(),
      transactionId: text(),
      once: maybeText(),
      valueMicros: moneyColumn('valueMicros', false),
      page: { type: DataTypes.STRING(1000), allowNull: false },
      toldAt: int(),
      enteredHour: maybe()
    },
    { sequelize, tableName: 'told_conversion' }
  )
}
