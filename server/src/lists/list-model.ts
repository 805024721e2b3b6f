import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { SavedList as ListDraft } from '@tin-harbor/core/buying'
import { int, maybe, text, version, id, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

export class SavedList extends Model<Row<SavedList>, New<SavedList>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  /** Null for a list of the whole organisation. */
  declare advertiserId: number | null
  declare name: string
  declare kind: string
  declare contents: Pick<ListDraft, 'values' | 'group'>
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function defineLists(sequelize: Sequelize): void {
  SavedList.init(
    {
      id: id(),
      organisationId: int(),
      advertiserId: maybe(),
      name: text(),
      kind: text(),
      contents: documentColumn('contents'),
      version: version()
    },
    { sequelize, tableName: 'saved_list' }
  )
}
