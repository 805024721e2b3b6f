import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { PaymentKind, PaymentState } from '@tin-harbor/core/money'
import { int, maybe, maybeText, text, id, type Row, type New } from '../database/columns.js'
import { moneyColumn } from '../database/connection.js'

/** Money that was asked to move, and what the payment service said of it. Of a card it keeps the last four digits. */
export class Payment extends Model<Row<Payment>, New<Payment>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  /** What the payment service knows it by; the same however often it is asked. */
  declare reference: string
  declare kind: PaymentKind
  declare amountMicros: number
  declare state: PaymentState
  /** What the service said of it. */
  declare says: CreationOptional<string>
  /** The organisation's day that a charge is of: one a day. */
  declare ofDay: CreationOptional<number | null>
  declare refundOf: CreationOptional<number | null>
  declare last4: CreationOptional<string | null>
  /** The service's name for a card that was agreed on, for charges. */
  declare card: CreationOptional<string | null>
  declare askedHour: number
  /** Seconds since 1970. */
  declare askedAt: number
  declare settledHour: CreationOptional<number | null>
  declare askedBy: number | null
}

/** An advertiser's margin from a market hour on. */
export class AdvertiserMargin extends Model<Row<AdvertiserMargin>, New<AdvertiserMargin>> {
  declare advertiserId: number
  declare fromHour: number
  declare ppm: number
}

/** Ties the models to a connection. */
export function definePayments(sequelize: Sequelize): void {
  Payment.init(
    {
      id: id(),
      organisationId: int(),
      reference: text(),
      kind: text(),
      amountMicros: moneyColumn('amountMicros', false),
      state: text(),
      says: { ...text(), defaultValue: '' },
      ofDay: maybe(),
      refundOf: maybe(),
      last4: maybeText(),
      card: maybeText(),
      askedHour: int(),
      askedAt: int(),
      settledHour: maybe(),
      askedBy: maybe()
    },
    { sequelize, tableName: 'payment' }
  )
  AdvertiserMargin.init(
    { advertiserId: { ...int(), primaryKey: true }, fromHour: { ...int(), primaryKey: true }, ppm: int() },
    { sequelize, tableName: 'advertiser_margin' }
  )
}
