import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Formats, Role } from '@tin-harbor/core/buying'
import { int, maybe, maybeText, text, flag, id, key, version, type Row, type New } from '../database/columns.js'
import { documentColumn, moneyColumn } from '../database/connection.js'

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
  /** Whether they are here: one who left may nothing. */
  declare active: CreationOptional<boolean>
  /** How they like figures and days to be written; null where it is left to the browser. */
  declare formats: CreationOptional<Formats | null>
  declare version: CreationOptional<number>
}

export class UserAdvertiser extends Model<Row<UserAdvertiser>, New<UserAdvertiser>> {
  declare userId: number
  declare advertiserId: number
}

export class Session extends Model<Row<Session>, New<Session>> {
  declare id: CreationOptional<number>
  declare tokenHash: string
  declare userId: number
  /** When it was opened and last used, and by what; all times are seconds since 1970. */
  declare madeAt: number
  declare seenAt: number
  declare agent: CreationOptional<string>
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
    {
      id: id(),
      organisationId: int(),
      name: text(),
      email: text(),
      role: text(),
      passwordHash: text(),
      allAdvertisers: flag(false),
      active: flag(true),
      formats: documentColumn('formats', true),
      version: version()
    },
    { sequelize, tableName: 'user' }
  )
  UserAdvertiser.init({ userId: key(), advertiserId: key() }, { sequelize, tableName: 'user_advertiser' })
  Session.init(
    {
      id: { ...int(), autoIncrement: true, unique: true },
      tokenHash: { ...text(), primaryKey: true },
      userId: int(),
      madeAt: int(),
      seenAt: int(),
      agent: { ...text(), defaultValue: '' },
      expiresAt: int(),
      passwordMark: { ...text(), defaultValue: '' }
    },
    { sequelize, tableName: 'session' }
  )
}
