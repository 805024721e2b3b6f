import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import { int, text, id, type Row, type New } from '../database/columns.js'

export class Shop extends Model<Row<Shop>, New<Shop>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare place: string
}

/** Ties the model to a connection. */
export function defineShops(sequelize: Sequelize): void {
  Shop.init({ id: id(), advertiserId: int(), name: text(), place: text() }, { sequelize, tableName: 'shop' })
}
