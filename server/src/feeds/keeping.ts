import type { Sequelize } from 'sequelize'
import type { FeedFound } from '@tin-harbor/core/contract'
import { isUntold, isWanted, type ItemState } from '@tin-harbor/core/creative'
import { insertBatch } from '../database/connection.js'
import { readMarket } from '../going-live/publications.js'
import { Feed, FeedItemRow } from './feed-model.js'
import type { FeedRead } from './messages.js'

/** Broken items that are told one by one. */
const MOST_TOLD = 100
const MOST_LETTERS = 1000

/** Notes why a feed was not read; what is known of its items stays as it is. */
export async function keepProblem(sequelize: Sequelize, feedId: number, problem: string, readAt: number): Promise<void> {
  const { hour } = await readMarket()
  await sequelize.transaction(async (transaction) => {
    await Feed.update({ problem: problem.slice(0, MOST_LETTERS), readHour: hour, readAt }, { where: { id: feedId }, transaction })
  })
}

/** A row as it is read for comparing: what it holds stays text. */
interface Known {
  id: number
  itemKey: string
  nth: number
  item: string
  state: ItemState
  wanted: number
  madeCreativeId: number | null
}

// Assignments are made from left to right: the hour is told before the state that it is compared by.
const PUT = `INSERT INTO feed_item (feed_id, item_key, nth, item, state, wanted, since_hour) VALUES (?, ?, ?, ?, ?, ?, ?)
  ON DUPLICATE KEY UPDATE since_hour = IF(state = VALUES(state), since_hour, VALUES(since_hour)), state = VALUES(state),
  wanted = VALUES(wanted), nth = VALUES(nth), item = VALUES(item)`

/**
 * Keeps what a feed was read as, all of it or nothing: items that are new, that changed, ran out, came back, or are gone. Its ads are
 * unsettled then, until they were held against it.
 * @returns false where the feed was changed meanwhile: it is to be read by its new terms
 */
export async function keepReading(sequelize: Sequelize, was: Feed, read: FeedRead, readAt: number): Promise<boolean> {
  const { hour } = await readMarket()
  return sequelize.transaction(async (transaction) => {
    const feed = await Feed.findByPk(was.id, { transaction, lock: transaction.LOCK.UPDATE })
    if (feed?.version !== was.version) return feed === null
    const known = (await FeedItemRow.findAll({
      attributes: ['id', 'itemKey', 'nth', 'item', 'state', 'wanted', 'madeCreativeId'],
      where: { feedId: feed.id },
      raw: true,
      transaction
    })) as unknown as Known[]
    const left = new Map(known.map((row) => [row.itemKey, row]))
    const puts: unknown[][] = []
    for (const { nth, item } of read.items) {
      const row = left.get(item.key)
      left.delete(item.key)
      const [text, state] = [JSON.stringify(item), item.isOut ? 'out' : 'there']
      const wanted = !item.isOut && isWanted(item, feed.draft.which)
      if (row?.item !== text || row.state !== state || row.nth !== nth || Boolean(row.wanted) !== wanted)
        puts.push([feed.id, item.key, nth, text, state, wanted, hour])
    }
    const broken = new Map(read.broken.map(({ key, nth }) => [key, nth]))
    const gone: number[] = []
    for (const { id, itemKey, nth, item, state, madeCreativeId } of left.values()) {
      const place = broken.get(itemKey)
      const becomes: ItemState = place === undefined ? 'gone' : 'broken'
      // Of what no ad was made nothing is left to be told.
      if (becomes === 'gone' && madeCreativeId === null) gone.push(id)
      else if (state !== becomes) puts.push([feed.id, itemKey, place ?? nth, item, becomes, false, hour])
    }
    await insertBatch(transaction, PUT, puts)
    if (gone.length > 0) await FeedItemRow.destroy({ where: { id: gone }, transaction })
    const { draft, version } = feed
    // A feed that was not read before is read by what its names say.
    const guessed = isUntold(draft) ? { draft: { ...draft, fields: read.guessed }, version: version + 1 } : {}
    await feed.update({ ...guessed, found: foundIn(read), problem: null, readHour: hour, readAt, unsettled: true }, { transaction })
    return true
  })
}

const foundIn = ({ form, names, guessed, items, broken }: FeedRead): FeedFound => ({
  form,
  names,
  guessed,
  items: items.length + broken.length,
  broken: broken.length,
  told: broken.slice(0, MOST_TOLD)
})
