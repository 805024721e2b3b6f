import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { AskFacts, PlacedAsk, DealDecision } from '@tin-harbor/core/buying'
import { int, maybe, maybeText, text, version, id, type Row, type New } from '../database/columns.js'
import { documentColumn, moneyColumn } from '../database/connection.js'

export class GrantedDeal extends Model<Row<GrantedDeal>, New<GrantedDeal>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare name: string
  declare publisher: number
  declare kind: 'fixed' | 'floor'
  declare priceMicros: number
  declare placements: number[]
  declare volume: number | null
  declare leastSpendMicros: number | null
  /** Market hour at which it ends; null for one that stands. */
  declare untilHour: CreationOptional<number | null>
  /** What the offer is called that it was taken from; null for one that was asked for. */
  declare offer: CreationOptional<string | null>
  declare version: CreationOptional<number>
}

/** Whether it has ended by an hour of the market. */
export const isExpired = ({ untilHour }: Pick<GrantedDeal, 'untilHour'>, hour: number): boolean => untilHour !== null && untilHour <= hour

/** A deal that was asked for, and what became of it. */
export class DealRequest extends Model<Row<DealRequest>, New<DealRequest>> {
  declare id: CreationOptional<number>
  declare organisationId: number
  declare asked: PlacedAsk
  declare facts: AskFacts
  declare askedHour: number
  declare state: 'asked' | 'granted' | 'countered' | 'refused'
  declare decision: DealDecision | null
  declare answeredHour: number | null
  declare dealId: number | null
  declare madeBy: number | null
}

/** Ties the models to a connection. */
export function defineDeals(sequelize: Sequelize): void {
  GrantedDeal.init(
    {
      id: id(),
      organisationId: int(),
      name: text(),
      publisher: int(),
      kind: text(),
      priceMicros: moneyColumn('priceMicros', false),
      placements: documentColumn('placements'),
      volume: moneyColumn('volume', true),
      leastSpendMicros: moneyColumn('leastSpendMicros', true),
      untilHour: maybe(),
      offer: maybeText(),
      version: version()
    },
    { sequelize, tableName: 'granted_deal' }
  )
  DealRequest.init(
    {
      id: id(),
      organisationId: int(),
      asked: documentColumn('asked'),
      facts: documentColumn('facts'),
      askedHour: int(),
      state: text(),
      decision: documentColumn('decision', true),
      answeredHour: maybe(),
      dealId: maybe(),
      madeBy: maybe()
    },
    { sequelize, tableName: 'deal_request' }
  )
}
