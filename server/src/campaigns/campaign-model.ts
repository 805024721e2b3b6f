import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Budget, CampaignTarget, Goal, Landing } from '@tin-harbor/core/buying'
import type { Cap } from '@tin-harbor/core/exchange'
import { int, maybe, text, maybeText, version, id, type Row, type New } from '../database/columns.js'
import { documentColumn, moneyColumn } from '../database/connection.js'

export class Campaign extends Model<Row<Campaign>, New<Campaign>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare name: string
  declare goal: Goal
  declare startDate: string
  declare endDate: string | null
  declare totalMicros: number | null
  declare dailyMicros: number | null
  declare longerLimits: CreationOptional<Omit<Budget, 'dailyMicros' | 'totalMicros'> | null>
  declare caps: CreationOptional<Cap[] | null>
  declare target: CreationOptional<CampaignTarget | null>
  declare linkTail: CreationOptional<string>
  declare note: CreationOptional<string>
  declare offerId: CreationOptional<number | null>
  declare landings: CreationOptional<Landing[] | null>
  declare version: CreationOptional<number>
}

/** Ties the model to a connection. */
export function defineCampaigns(sequelize: Sequelize): void {
  Campaign.init(
    {
      id: id(),
      advertiserId: int(),
      name: text(),
      goal: text(),
      startDate: text(),
      endDate: maybeText(),
      totalMicros: moneyColumn('totalMicros', true),
      dailyMicros: moneyColumn('dailyMicros', true),
      longerLimits: documentColumn('longerLimits', true),
      caps: documentColumn('caps', true),
      target: documentColumn('target', true),
      linkTail: { ...text(), defaultValue: '' },
      note: { ...text(), defaultValue: '' },
      offerId: maybe(),
      landings: documentColumn('landings', true),
      version: version()
    },
    { sequelize, tableName: 'campaign' }
  )
}
