import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { PageRule, TrackerReports } from '@tin-harbor/core/buying'
import type { EventKind } from '@tin-harbor/core/taxonomy'
import { int, maybe, text, maybeText, version, id, type Row, type New } from '../database/columns.js'
import { documentColumn, moneyColumn } from '../database/connection.js'

export class Tracker extends Model<Row<Tracker>, New<Tracker>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare kind: EventKind
  /** Name of a branch of subjects. */
  declare subject: string | null
  declare reports: TrackerReports
  declare clickHours: number
  declare viewHours: number | null
  declare valueMicros: number | null
  /** Which pages are the event; null for what they call by its name. */
  declare pages: CreationOptional<PageRule | null>
  /** By which it is told, in addresses. */
  declare pathKey: string
  /** What its postbacks are signed with, 32 bytes as hexadecimal digits. */
  declare secret: string
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
      pages: documentColumn('pages', true),
      pathKey: text(),
      secret: text(),
      version: version()
    },
    { sequelize, tableName: 'tracker' }
  )
}
