import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Role } from '@tin-harbor/core/buying'
import { int, maybe, maybeText, text, flag, id, key, type Row, type New } from '../database/columns.js'
import { moneyColumn } from '../database/connection.js'

export class Organisation extends Model<Row<Organisation>, New<Organisation>> {
  declare id: CreationOptional<number>
  declare name: string
  declare currency: string
  declare zone: string
  /** It is warned when its money lasts for fewer days. */
  declare lowDays: CreationOptional<number>
  /** The payment service's name for the card that the spend of each day is charged to; null where none was agreed on. */
  declare chargeCard: CreationOptional<string | null>
  declare chargeLast4: CreationOptional<string | null>
  declare chargeMostMicros: CreationOptional<number | null>
  /** First day whose spend is charged. */
  declare chargeFromDay: CreationOptional<number | null>
}

export class User extends Model<Row<User>, New<User>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare name: string
  declare email: string
  declare role: Role
  declare passwordHash: string
  declare allAdvertisers: boolean
}

export class UserAdvertiser extends Model<Row<UserAdvertiser>, New<UserAdvertiser>> {
  declare userId: number
  declare advertiserId: number
}

export class Session extends Model<Row<Session>, New<Session>> {
  declare tokenHash: string
  declare userId: number
  /** Seconds since 1970. */
  declare expiresAt: number
  /** Of the password that it was opened with: another password ends it. */
  declare passwordMark: string
}

/** Ties the models to a connection. */
export function defineUsers(sequelize: Sequelize): void {
  Organisation.init(
    {
      id: id(),
      name: text(),
      currency: text(),
      zone: text(),
      lowDays: { ...int(), defaultValue: 3 },
      chargeCard: maybeText(),
      chargeLast4: maybeText(),
      chargeMostMicros: moneyColumn('chargeMostMicros', true),
      chargeFromDay: maybe()
    },
    { sequelize, tableName: 'organisation' }
  )
  User.init(
    { id: id(), organisationId: int(), name: text(), email: text(), role: text(), passwordHash: text(), allAdvertisers: flag(false) },
    { sequelize, tableName: 'user' }
  )
  UserAdvertiser.init({ userId: key(), advertiserId: key() }, { sequelize, tableName: 'user_advertiser' })
  Session.init(
    { tokenHash: { ...text(), primaryKey: true }, userId: int(), expiresAt: int(), passwordMark: { ...text(), defaultValue: '' } },
    { sequelize, tableName: 'session' }
  )
}
