import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Right, Role } from '@tin-harbor/core/buying'
import { flag, id, int, maybe, text, type New, type Row } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** Somebody who is asked in. All times are seconds since 1970. */
export class Invitation extends Model<Row<Invitation>, New<Invitation>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare email: string
  declare role: Role
  declare allAdvertisers: boolean
  declare advertisers: number[]
  declare tokenHash: string
  declare madeBy: number
  declare madeAt: number
  declare expiresAt: number
  declare usedAt: CreationOptional<number | null>
  declare revokedAt: CreationOptional<number | null>
}

/** A password that may be set anew by whoever got the letter. */
export class PasswordReset extends Model<Row<PasswordReset>, New<PasswordReset>> {
  declare tokenHash: string
  declare userId: number
  declare expiresAt: number
  declare usedAt: CreationOptional<number | null>
}

/** A token for scripts; null advertisers are all that its owner sees. */
export class AccessToken extends Model<Row<AccessToken>, New<AccessToken>> {
  declare id: CreationOptional<number>
  declare userId: number
  declare name: string
  declare tokenHash: string
  declare rights: Right[]
  declare advertisers: number[] | null
  declare madeAt: number
  declare expiresAt: number
  declare usedAt: CreationOptional<number | null>
  declare revokedAt: CreationOptional<number | null>
}

/** Ties the models to a connection. */
export function defineTeam(sequelize: Sequelize): void {
  const spent = () => ({ usedAt: maybe(), revokedAt: maybe() })
  Invitation.init(
    {
      id: id(),
      organisationId: int(),
      email: text(),
      role: text(),
      allAdvertisers: flag(false),
      advertisers: documentColumn('advertisers'),
      tokenHash: text(),
      madeBy: int(),
      madeAt: int(),
      expiresAt: int(),
      ...spent()
    },
    { sequelize, tableName: 'invitation' }
  )
  PasswordReset.init(
    { tokenHash: { ...text(), primaryKey: true }, userId: int(), expiresAt: int(), usedAt: maybe() },
    { sequelize, tableName: 'password_reset' }
  )
  AccessToken.init(
    {
      id: id(),
      userId: int(),
      name: text(),
      tokenHash: text(),
      rights: documentColumn('rights'),
      advertisers: documentColumn('advertisers', true),
      madeAt: int(),
      expiresAt: int(),
      ...spent()
    },
    { sequelize, tableName: 'access_token' }
  )
}
