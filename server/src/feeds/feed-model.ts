import { Model, type CreationOptional, type Sequelize } from 'sequelize'
import type { Feed as FeedDraft, FeedItem as Item, ItemState } from '@tin-harbor/core/creative'
import type { FeedFound } from '@tin-harbor/core/contract'
import { flag, id, int, maybe, maybeText, text, version, type New, type Row } from '../database/columns.js'
import { documentColumn } from '../database/connection.js'

/** A list of products that lies elsewhere, and how ads are made of it. */
export class Feed extends Model<Row<Feed>, New<Feed>> {
  declare id: CreationOptional<number>
  declare advertiserId: number
  declare draft: FeedDraft
  declare version: CreationOptional<number>
  /** What was found when it was read last; null before. */
  declare found: CreationOptional<FeedFound | null>
  declare readHour: CreationOptional<number | null>
  /** When it was tried last, seconds since 1970. */
  declare readAt: CreationOptional<number | null>
  /** Why it could not be read the last time. */
  declare problem: CreationOptional<string | null>
  /** Whether its ads may differ yet from what its items say. */
  declare unsettled: CreationOptional<boolean>
}

/** An item of a feed as it was read last. */
export class FeedItemRow extends Model<Row<FeedItemRow>, New<FeedItemRow>> {
  declare id: CreationOptional<number>
  declare feedId: number
  declare itemKey: string
  /** Its place in the feed, from 1. */
  declare nth: number
  declare item: Item
  declare state: ItemState
  /** Whether it can be had and is one of those that ads are wanted of. */
  declare wanted: CreationOptional<boolean>
  /** Market hour since which it is in that state. */
  declare sinceHour: number
  declare madeCreativeId: CreationOptional<number | null>
  /** What it said when its ad was made. */
  declare madeAs: CreationOptional<string | null>
}

/** Ties the models to a connection. */
export function defineFeeds(sequelize: Sequelize): void {
  Feed.init(
    {
      id: id(),
      advertiserId: int(),
      draft: documentColumn('draft'),
      version: version(),
      found: documentColumn('found', true),
      readHour: maybe(),
      readAt: maybe(),
      problem: maybeText(),
      unsettled: flag(true)
    },
    { sequelize, tableName: 'feed' }
  )
  FeedItemRow.init(
    {
      id: id(),
      feedId: int(),
      itemKey: text(),
      nth: int(),
      item: documentColumn('item'),
      state: text(),
      wanted: flag(false),
      sinceHour: int(),
      madeCreativeId: maybe(),
      madeAs: maybeText()
    },
    { sequelize, tableName: 'feed_item' }
  )
}
