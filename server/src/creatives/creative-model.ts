import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { LandingStep, ReviewState } from '@tin-harbor/core/buying'
import { int, maybe, maybeText, text, flag, id, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

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
  /** Where people land by the version that was cleared last; null where none was: it serves with these, whatever was sent since. */
  declare clearedLandings: CreationOptional<LandingStep[] | null>
  /** The ad whose place it takes, which serves until this one is cleared. */
  declare replaces: CreationOptional<number | null>
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
      stopped: maybeText(),
      clearedLandings: documentColumn('clearedLandings', true),
      replaces: maybe()
    },
    { sequelize, tableName: 'ad' }
  )
}
