import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { CreativeKind } from '@tin-harbor/core/creative'
import { int, maybe, text, version, id, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** A creative of any kind, made of parts; pictures that were uploaded are `Creative`. */
export class MadeCreative extends Model<Row<MadeCreative>, New<MadeCreative>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare kind: CreativeKind
  declare parts: object
  /** Hosts that a tag was seen to reach for; null where it did not run. */
  declare calls: CreationOptional<string[] | null>
  /** The matrix that it was made of; null for one that was written. */
  declare mixId: CreationOptional<number | null>
  /** The item of a feed that it was made of; null for any other. */
  declare feedItemId: CreationOptional<number | null>
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function defineMadeCreatives(sequelize: Sequelize): void {
  MadeCreative.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      kind: text(),
      parts: documentColumn('parts'),
      calls: documentColumn('calls', true),
      mixId: maybe(),
      feedItemId: maybe(),
      version: version()
    },
    { sequelize, tableName: 'made_creative' }
  )
}
