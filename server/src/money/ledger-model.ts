import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { EntryKind } from '@tin-harbor/core/money'
import { int, maybe, text, id, type Row, type New } from '../database/columns.js'
import { moneyColumn } from '../database/connection.js'

export class LedgerEntry extends Model<Row<LedgerEntry>, New<LedgerEntry>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare kind: EntryKind
  declare hour: number
  declare advertiserId: number | null
  /** Positive is money in. */
  declare amountMicros: number
  declare note: CreationOptional<string>
  declare madeBy: number | null
  /** The payment that it books; null for spend. */
  declare paymentId: CreationOptional<number | null>
}

/** Ties the model to a connection. */
export function defineLedger(sequelize: Sequelize): void {
  LedgerEntry.init(
    {
      id: id(),
      organisationId: int(),
      kind: text(),
      hour: int(),
      advertiserId: maybe(),
      amountMicros: moneyColumn('amountMicros', false),
      note: { ...text(), defaultValue: '' },
      madeBy: maybe(),
      paymentId: maybe()
    },
    { sequelize, tableName: 'ledger_entry' }
  )
}
