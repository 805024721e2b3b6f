import { Op, type Sequelize, type Transaction } from 'sequelize'
import { Ad } from '../creatives/creative-model.js'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { isSomeInForce, lockMarket, publish } from '../going-live/publications.js'
import { audit } from '../team/audit.js'
import { Feed, FeedItemRow } from './feed-model.js'
import { stopsOf } from './stops.js'

/**
 * Stops ads whose items cannot be had, and lets those go on whose items are back: on drafts, and of lines in force from the hour that the
 * clock shows. It compares what is with what should be, and a feed stays unsettled until it did: one that was cut off is made good by the
 * next.
 */
export async function settleAds(sequelize: Sequelize, feedId: number): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    // Before all else, as whoever puts live does.
    const market = await lockMarket(transaction)
    const feed = await Feed.findByPk(feedId, { transaction, lock: transaction.LOCK.UPDATE })
    if (!feed?.unsettled) return
    await feed.update({ unsettled: false }, { transaction })
    const changes = await pending(feedId, transaction)
    if (changes.length === 0) return
    for (const { ad, reason } of changes) await ad.update({ stopped: reason }, { transaction })
    const lines = changes.map(({ ad }) => ad.lineId)
    if (await isSomeInForce(market, lines, transaction)) await publish(market, { madeBy: null }, transaction)
    const stopped = changes.filter(({ reason }) => reason !== null)
    await audit(
      { id: null },
      'settle',
      { kind: 'feed', id: feedId, advertiserId: feed.advertiserId },
      null,
      {
        stopped: stopped.map(({ ad, reason }) => ({ ad: ad.id, reason })),
        goOn: changes.filter(({ reason }) => reason === null).map(({ ad }) => ad.id)
      },
      transaction
    )
  })
}

/** Ads of a feed that are not as its items say, each with why it is to be stopped; null where it goes on. */
async function pending(feedId: number, transaction: Transaction): Promise<{ ad: Ad; reason: string | null }[]> {
  const rows = await FeedItemRow.findAll({ attributes: ['id'], where: { feedId, madeCreativeId: { [Op.not]: null } }, transaction })
  const made = await MadeCreative.findAll({ attributes: ['id'], where: { feedItemId: rows.map(({ id }) => id) }, transaction })
  const creatives = made.map(({ id }) => id)
  const stops = await stopsOf(creatives, transaction)
  // Those that were taken off their lines may still be in force.
  const ads = await Ad.findAll({ where: { madeCreativeId: creatives }, order: [['id', 'ASC']], transaction })
  return ads.flatMap((ad) => {
    const reason = stops.get(ad.madeCreativeId ?? 0) ?? null
    return reason === (ad.stopped ?? null) ? [] : [{ ad, reason }]
  })
}
