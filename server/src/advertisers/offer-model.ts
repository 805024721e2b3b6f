import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Offer as OfferDraft } from '@tin-harbor/core/buying'
import { int, text, version, id, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** What is sold, in the terms of `offerSchema`. */
export class Offer extends Model<Row<Offer>, New<Offer>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare terms: Omit<OfferDraft, 'name'>
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function defineOffers(sequelize: Sequelize): void {
  Offer.init(
    { id: id(), advertiserId: int(), name: text(), terms: documentColumn('terms'), version: version() },
    { sequelize, tableName: 'offer' }
  )
}
