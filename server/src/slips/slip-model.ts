import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { SlipItem } from '@tin-harbor/core/buying'
import { int, maybe, text, id, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** Edits of lines that go live together, and can be taken back together. */
export class Slip extends Model<Row<Slip>, New<Slip>> {
  declare id: CreationOptional<number>
  declare name: string
  declare items: SlipItem[]
  declare state: 'open' | 'live' | 'taken back'
  declare revisions: CreationOptional<{ line: number; before: number; after: number }[] | null>
  declare liveHour: CreationOptional<number | null>
  declare madeBy: number | null
  declare madeAt: number
}

/** Ties the model to a connection. */
export function defineSlips(sequelize: Sequelize): void {
  Slip.init(
    {
      id: id(),
      name: text(),
      items: documentColumn('items'),
      state: text(),
      revisions: documentColumn('revisions', true),
      liveHour: maybe(),
      madeBy: maybe(),
      madeAt: int()
    },
    { sequelize, tableName: 'slip' }
  )
}
