import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { CampaignRules } from '@tin-harbor/core/exchange'
import { int, maybe, id, key, keepAsMade, type Row, type New } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

export class Publication extends Model<Row<Publication>, New<Publication>> {
  declare id: CreationOptional<number>
  declare fromHour: number
  declare campaigns: CampaignRules[]
  /** Ads that are not shown, whatever their lines say: what they are of cannot be had. */
  declare stoppedAds: CreationOptional<number[] | null>
  /** Lines and deals that are not bought by: their publishers have not cleared what the lines show. */
  declare stoppedDeals: CreationOptional<[line: number, deal: number][] | null>
  declare madeBy: number | null
  declare madeAt: number
}

export class PublicationLine extends Model<Row<PublicationLine>, New<PublicationLine>> {
  declare publicationId: number
  declare lineRevisionId: number
  declare liveFromHour: number
}

/** Ties the models to a connection. */
export function definePublications(sequelize: Sequelize): void {
  Publication.init(
    {
      id: id(),
      fromHour: int(),
      campaigns: documentColumn('campaigns'),
      stoppedAds: documentColumn('stoppedAds', true),
      stoppedDeals: documentColumn('stoppedDeals', true),
      madeBy: maybe(),
      madeAt: int()
    },
    { sequelize, tableName: 'publication' }
  )
  PublicationLine.init({ publicationId: key(), lineRevisionId: key(), liveFromHour: int() }, { sequelize, tableName: 'publication_line' })
  keepAsMade(Publication)
}
