import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Plate as PlateDraft } from '@tin-harbor/core/creative'
import { id, int, version, type New, type Row } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** What pictures of every size are built of. */
export class Plate extends Model<Row<Plate>, New<Plate>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare draft: PlateDraft
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function definePlates(sequelize: Sequelize): void {
  Plate.init({ id: id(), advertiserId: int(), draft: documentColumn('draft'), version: version() }, { sequelize, tableName: 'plate' })
}
