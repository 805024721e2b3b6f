import { Op, col, fn, type Sequelize, type Transaction, type WhereOptions } from 'sequelize'
import { ITEM_STATES, itemDigest, partProblem, unknownFields, type Feed as FeedDraft, type ItemState } from '@tin-harbor/core/creative'
import { FEED_SHOWS, type FeedItemView, type FeedItems, type FeedSummary, type FeedView } from '@tin-harbor/core/contract'
import { Ad } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { StoredFile } from '../files/file-model.js'
import { conflict, invalidField, stale, unknownObject } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { audit } from '../team/audit.js'
import { Feed, FeedItemRow } from './feed-model.js'

/** Items on one page of the table. */
const PAGE = 100
export type FeedShow = (typeof FEED_SHOWS)[number]

export async function findFeed(id: number, transaction?: Transaction): Promise<Feed> {
  const feed = await Feed.findByPk(id, transaction ? { transaction, lock: transaction.LOCK.UPDATE } : {})
  if (!feed) throw unknownObject('feed')
  return feed
}

/** Feeds of an advertiser, the newest first. */
export async function feedsOf(advertiserId: number): Promise<FeedSummary[]> {
  const feeds = await Feed.findAll({ where: { advertiserId }, order: [['id', 'DESC']] })
  return feeds.map(({ id, draft, found, problem }) => ({
    id,
    name: draft.name,
    words: problem !== null ? 'could not be read' : found ? `${found.items.toLocaleString('en')} items` : 'not read yet'
  }))
}

/** Items of which an ad was made, each with whether it says something else by now: few of a feed's. */
async function madeItems(feedId: number): Promise<{ id: number; madeCreativeId: number; hasChanged: boolean }[]> {
  const rows = await FeedItemRow.findAll({ where: { feedId, madeCreativeId: { [Op.not]: null } } })
  return rows.map((row) => ({
    id: row.id,
    madeCreativeId: row.madeCreativeId as number,
    hasChanged: row.madeAs !== itemDigest(row.item)
  }))
}

export async function feedView(id: number): Promise<FeedView> {
  const feed = await findFeed(id)
  const made = await madeItems(id)
  const tallies = (await FeedItemRow.findAll({
    attributes: ['state', [fn('COUNT', col('id')), 'items'], [fn('SUM', col('wanted')), 'wantedItems']],
    where: { feedId: id },
    group: ['state'],
    raw: true
  })) as unknown as { state: ItemState; items: number; wantedItems: string }[]
  const inState = (state: ItemState) => Number(tallies.find((one) => one.state === state)?.items ?? 0)
  return {
    id,
    advertiserId: feed.advertiserId,
    version: feed.version,
    feed: feed.draft,
    found: feed.found,
    readHour: feed.readHour,
    problem: feed.problem,
    unknown: feed.found ? unknownFields(feed.draft, feed.found.names) : [],
    counts: {
      ...(Object.fromEntries(ITEM_STATES.map((state) => [state, inState(state)])) as Record<ItemState, number>),
      wanted: tallies.reduce((sum, { wantedItems }) => sum + Number(wantedItems), 0),
      ads: made.length,
      changed: made.filter(({ hasChanged }) => hasChanged).length,
      stopped: await Ad.count({
        where: { madeCreativeId: made.map(({ madeCreativeId }) => madeCreativeId), removed: false, stopped: { [Op.not]: null } }
      })
    }
  }
}

/** What rows are asked for, by what is shown. */
async function askedFor(feedId: number, show: FeedShow): Promise<WhereOptions<FeedItemRow>> {
  switch (show) {
    case 'all':
      return { feedId }
    case 'wanted':
      return { feedId, wanted: true }
    case 'ads':
      return { feedId, madeCreativeId: { [Op.not]: null } }
    case 'changed':
      return { id: (await madeItems(feedId)).filter(({ hasChanged }) => hasChanged).map(({ id }) => id) }
    default:
      return { feedId, state: show }
  }
}

/** A page of a feed's items. @param from place of its first among those that are shown */
export async function feedItemsOf(id: number, { show, from }: { show: FeedShow; from: number }): Promise<FeedItems> {
  const where = await askedFor(id, show)
  const { count, rows } = await FeedItemRow.findAndCountAll({ where, order: [['nth', 'ASC']], offset: from, limit: PAGE })
  const ads = await Ad.findAll({ where: { madeCreativeId: rows.flatMap(({ madeCreativeId }) => madeCreativeId ?? []), removed: false } })
  const items = rows.map((row): FeedItemView => {
    const { key, title, price, link, picture, texts } = row.item
    const own = ads.filter(({ madeCreativeId }) => madeCreativeId !== null && madeCreativeId === row.madeCreativeId)
    return {
      id: row.id,
      nth: row.nth,
      key,
      title,
      price,
      link,
      picture,
      state: row.state,
      sinceHour: row.sinceHour,
      said: Object.entries(texts).map(([part, value]) => ({ part, value })),
      creative: row.madeCreativeId,
      changed: row.madeCreativeId !== null && row.madeAs !== itemDigest(row.item),
      lines: [...new Set(own.map(({ lineId }) => lineId))]
    }
  })
  return { count, items }
}

/** The icon of all ads of a feed is the advertiser's, and such as slots take. */
async function requireIcon(advertiserId: number, { template: { icon } }: FeedDraft): Promise<void> {
  if (icon === '') return
  const file = await StoredFile.findOne({ where: { advertiserId, sha256: icon.replace(/^sha256:/, '') } })
  if (!file) throw invalidField('feed.template.icon', 'Not a file of this advertiser.')
  const problem = partProblem({ kind: 'native', parts: {} }, 'icon', file.facts)
  if (problem !== null) throw invalidField('feed.template.icon', `“${file.name}”: ${problem}`)
}

export async function createFeed(sequelize: Sequelize, actor: Actor, advertiserId: number, draft: FeedDraft): Promise<number> {
  await requireIcon(advertiserId, draft)
  return sequelize.transaction(async (transaction) => {
    const { id } = await Feed.create({ advertiserId, draft }, { transaction })
    await audit(actor, 'add', { kind: 'feed', id, advertiserId }, null, { name: draft.name, address: draft.address }, transaction)
    return id
  })
}

/** Saves how ads are made of a feed. Its items are read by it when it is read next. */
export async function saveFeed(sequelize: Sequelize, actor: Actor, id: number, version: number, draft: FeedDraft): Promise<void> {
  const { advertiserId } = await findFeed(id)
  await requireIcon(advertiserId, draft)
  await sequelize.transaction(async (transaction) => {
    const feed = await findFeed(id, transaction)
    if (feed.version !== version) throw stale('feed', { version: feed.version, feed: feed.draft })
    const was = feed.draft
    await feed.update({ draft, version: version + 1 }, { transaction })
    await audit(actor, 'save', { kind: 'feed', id, advertiserId }, was, draft, transaction)
  })
}

/** Deletes a feed that no ad on a line is of: nobody would say any more whether what they show can be had. */
export async function deleteFeed(sequelize: Sequelize, actor: Actor, id: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const feed = await findFeed(id, transaction)
    const items = await FeedItemRow.findAll({ attributes: ['id'], where: { feedId: id, madeCreativeId: { [Op.not]: null } }, transaction })
    const made = await MadeCreative.findAll({ attributes: ['id'], where: { feedItemId: items.map((item) => item.id) }, transaction })
    const on = await Ad.count({ where: { madeCreativeId: made.map((one) => one.id), removed: false }, transaction })
    if (on > 0)
      throw conflict(
        `${on} ${on === 1 ? 'ad' : 'ads'} of it ${on === 1 ? 'is' : 'are'} on lines; take ${on === 1 ? 'it' : 'them'} off first.`
      )
    await audit(actor, 'delete', { kind: 'feed', id, advertiserId: feed.advertiserId }, { name: feed.draft.name }, null, transaction)
    await feed.destroy({ transaction })
  })
}
