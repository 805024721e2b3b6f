import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { ReviewState } from '@tin-harbor/core/buying'
import { int, maybe, maybeText, text, flag, id, type Row, type New } from '../database/columns.js'

export class Creative extends Model<Row<Creative>, New<Creative>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare type: string
  declare width: number
  declare height: number
  declare bytes: number
  declare slotSize: string
  /** Of its content, which the store has. */
  declare sha256: string
}

export class Ad extends Model<Row<Ad>, New<Ad>> {
  declare id: CreationOptional<number>
  declare lineId: number
  /** One of the two: a picture, or an ad made of parts. */
  declare creativeId: CreationOptional<number | null>
  declare madeCreativeId: CreationOptional<number | null>
  declare review: ReviewState
  declare removed: CreationOptional<boolean>
  /** Why it is not shown, whatever its line says; null where nothing keeps it. */
  declare stopped: CreationOptional<string | null>
}

/** Ties the models to a connection. */
export function defineCreatives(sequelize: Sequelize): void {
  Creative.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      type: text(),
      width: int(),
      height: int(),
      bytes: int(),
      slotSize: text(),
      sha256: text()
    },
    { sequelize, tableName: 'creative' }
  )
  Ad.init(
    {
      id: id(),
      lineId: int(),
      creativeId: maybe(),
      madeCreativeId: maybe(),
      review: text(),
      removed: flag(false),
      stopped: maybeText()
    },
    { sequelize, tableName: 'ad' }
  )
}
