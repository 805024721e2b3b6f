import { Op, type Sequelize, type Transaction } from 'sequelize'
import {
  ITEM_STATES,
  isWanted,
  itemDigest,
  partProblem,
  unknownFields,
  type Feed as FeedDraft,
  type ItemState
} from '@tin-harbor/core/creative'
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
    words: problem !== null ? 'could not be read' : found ? `${found.items} items` : 'not read yet'
  }))
}

/** Items with what was made of each, and where that is shown. */
async function itemsOf({ id, draft }: Feed) {
  const rows = await FeedItemRow.findAll({ where: { feedId: id }, order: [['nth', 'ASC']] })
  const made = rows.flatMap(({ madeCreativeId }) => madeCreativeId ?? [])
  const ads = await Ad.findAll({ where: { madeCreativeId: made, removed: false } })
  const adsOf = new Map<number, Ad[]>()
  for (const ad of ads) adsOf.set(ad.madeCreativeId ?? 0, [...(adsOf.get(ad.madeCreativeId ?? 0) ?? []), ad])
  return rows.map((row) => ({
    row,
    ads: adsOf.get(row.madeCreativeId ?? -1) ?? [],
    hasChanged: row.madeCreativeId !== null && row.madeAs !== itemDigest(row.item),
    isWanted: row.state === 'there' && isWanted(row.item, draft.which)
  }))
}
type Item = Awaited<ReturnType<typeof itemsOf>>[number]

export async function feedView(id: number): Promise<FeedView> {
  const feed = await findFeed(id)
  const all = await itemsOf(feed)
  const count = (holds: (item: Item) => boolean) => all.filter(holds).length
  const states = Object.fromEntries(ITEM_STATES.map((state) => [state, count(({ row }) => row.state === state)])) as Record<
    ItemState,
    number
  >
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
      ...states,
      wanted: count(({ isWanted: wanted }) => wanted),
      ads: count(({ row }) => row.madeCreativeId !== null),
      changed: count(({ hasChanged }) => hasChanged),
      stopped: all.reduce((sum, { ads }) => sum + ads.filter(({ stopped }) => stopped != null).length, 0)
    }
  }
}

const SHOWN: Readonly<Record<FeedShow, (item: Item) => boolean>> = {
  wanted: (item) => item.isWanted,
  all: () => true,
  ads: ({ row }) => row.madeCreativeId !== null,
  changed: ({ hasChanged }) => hasChanged,
  out: ({ row }) => row.state === 'out',
  gone: ({ row }) => row.state === 'gone',
  broken: ({ row }) => row.state === 'broken'
}

/** A page of a feed's items. @param from place of its first among those that are shown */
export async function feedItemsOf(id: number, { show, from }: { show: FeedShow; from: number }): Promise<FeedItems> {
  const shown = (await itemsOf(await findFeed(id))).filter(SHOWN[show])
  const items = shown.slice(from, from + PAGE).map(({ row, ads, hasChanged }): FeedItemView => {
    const { key, title, price, link, picture, texts } = row.item
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
      changed: hasChanged,
      lines: [...new Set(ads.map(({ lineId }) => lineId))]
    }
  })
  return { count: shown.length, items }
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
