import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import { int, maybe, key, type Row, type New } from '../database/columns.js'

export class MarketState extends Model<Row<MarketState>, New<MarketState>> {
  declare id: number
  /** The market clock: hours since 2026-01-01T00:00Z. */
  declare hour: number
  declare publicationId: number
  /** Hour that a run is under way to; null when the market stands. */
  declare targetHour: number | null
  /** Whom the market buys for; null before anybody went live. */
  declare organisationId: CreationOptional<number | null>
  /** Milliseconds that each hour of the run takes at least. */
  declare pauseMs: CreationOptional<number>
  declare seed: number
  declare people: number
  declare sample: number
}

/** Ties the model to a connection. */
export function defineMarket(sequelize: Sequelize): void {
  MarketState.init(
    {
      id: key(),
      organisationId: maybe(),
      hour: int(),
      publicationId: int(),
      targetHour: maybe(),
      pauseMs: { ...int(), defaultValue: 0 },
      seed: int(),
      people: int(),
      sample: int()
    },
    { sequelize, tableName: 'market_state' }
  )
}
