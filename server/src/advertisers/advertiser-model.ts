import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import { int, text, version, id, type Row, type New } from '../database/columns.js'
import { moneyColumn } from '../database/connection.js'

export class Advertiser extends Model<Row<Advertiser>, New<Advertiser>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare name: string
  declare domain: string
  declare zone: string
  /** Parameters that are added to every link of its campaigns. */
  declare linkTail: CreationOptional<string>
  /** What it may spend in a calendar month of the organisation, micros; null for no limit. */
  declare limitMicros: CreationOptional<number | null>
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function defineAdvertisers(sequelize: Sequelize): void {
  Advertiser.init(
    {
      id: id(),
      organisationId: int(),
      name: text(),
      domain: text(),
      zone: text(),
      linkTail: { ...text(), defaultValue: '' },
      limitMicros: moneyColumn('limitMicros', true),
      version: version()
    },
    { sequelize, tableName: 'advertiser' }
  )
}
