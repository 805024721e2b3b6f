import { DataTypes, Model, type CreationOptional, type Sequelize } from 'sequelize'
import { flag, id, int, maybe, text, type New, type Row } from '../database/columns.js'

/** A secret that ids of hits are signed with, 32 bytes as hexadecimal digits. */
export class HitKeyRow extends Model<Row<HitKeyRow>, New<HitKeyRow>> {
  declare id: CreationOptional<number>
  declare secret: string
  /** Seconds since 1970. */
  declare madeAt: number
}

/** What was told of an impression or a preview, once. */
export class Hit extends Model<Row<Hit>, New<Hit>> {
  declare id: CreationOptional<number>
  declare subject: string
  declare event: string
  declare adId: number | null
  declare hour: number | null
  /** Place of the impression in its hour's log. */
  declare place: number | null
  /** Seconds since 1970. */
  declare toldAt: number
  /** Whether its id names an impression that was bought. */
  declare counts: boolean
  /** The market hour of which it was input; null until then. */
  declare enteredHour: CreationOptional<number | null>
}

/** Ties the models to a connection. */
export function defineHits(sequelize: Sequelize): void {
  HitKeyRow.init({ id: id(), secret: text(), madeAt: int() }, { sequelize, tableName: 'hit_key' })
  Hit.init(
    {
      id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      subject: text(),
      event: text(),
      adId: maybe(),
      hour: maybe(),
      place: maybe(),
      toldAt: int(),
      counts: flag(false),
      enteredHour: maybe()
    },
    { sequelize, tableName: 'hit' }
  )
}
