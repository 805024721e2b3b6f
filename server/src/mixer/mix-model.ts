import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Mix as MixDraft } from '@tin-harbor/core/creative'
import { int, version, id, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** A matrix of parts, of which ads are made. */
export class Mix extends Model<Row<Mix>, New<Mix>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare draft: MixDraft
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function defineMixes(sequelize: Sequelize): void {
  Mix.init({ id: id(), advertiserId: int(), draft: documentColumn('draft'), version: version() }, { sequelize, tableName: 'mix' })
}
