import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { EventKind } from '@tin-harbor/core/taxonomy'
import { int, maybe, text, maybeText, version, id, type Row, type New } from '../database/columns.js'
import { moneyColumn } from '../database/connection.js'

export class Tracker extends Model<Row<Tracker>, New<Tracker>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare kind: EventKind
  /** Name of a branch of subjects. */
  declare subject: string | null
  declare reports: string
  declare clickHours: number
  declare viewHours: number | null
  declare valueMicros: number | null
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function defineTrackers(sequelize: Sequelize): void {
  Tracker.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      kind: text(),
      subject: maybeText(),
      reports: text(),
      clickHours: int(),
      viewHours: maybe(),
      valueMicros: moneyColumn('valueMicros', true),
      version: version()
    },
    { sequelize, tableName: 'tracker' }
  )
}
