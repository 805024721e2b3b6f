import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import { int, maybe, text, id, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

export class AuditEntry extends Model<Row<AuditEntry>, New<AuditEntry>> {
  declare id: CreationOptional<number>
  declare userId: number | null
  declare at: number
  /** The market's hour; null of what was done before it was noted. */
  declare hour: CreationOptional<number | null>
  declare action: string
  declare object: string
  declare objectId: number
  declare advertiserId: number | null
  /** The slip by which it was done. */
  declare slipId: CreationOptional<number | null>
  declare was: unknown
  declare became: unknown
}

/** Ties the model to a connection. */
export function defineAudit(sequelize: Sequelize): void {
  AuditEntry.init(
    {
      id: id(),
      userId: maybe(),
      at: int(),
      hour: maybe(),
      action: text(),
      object: text(),
      objectId: int(),
      advertiserId: maybe(),
      slipId: maybe(),
      was: documentColumn('was', true),
      became: documentColumn('became', true)
    },
    { sequelize, tableName: 'audit_entry' }
  )
}
