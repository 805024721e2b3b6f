import { Op, type Transaction } from 'sequelize'
import { itemDigest, stopReason } from '@tin-harbor/core/creative'
import { MadeCreative } from '../creatives/made-creative-model.js'
import { Feed, FeedItemRow } from './feed-model.js'

/**
 * Why ads of some creatives are not to be shown, by the creative: what feeds say of the items that they were made of. Those that may be
 * shown, and all that are of no feed, are left out.
 */
export async function stopsOf(creatives: readonly (number | null)[], transaction?: Transaction): Promise<Map<number, string>> {
  const id = creatives.filter((one) => one !== null)
  const made = await MadeCreative.findAll({ attributes: ['id', 'feedItemId'], where: { id, feedItemId: { [Op.not]: null } }, transaction })
  if (made.length === 0) return new Map()
  const rows = await FeedItemRow.findAll({ where: { id: made.map(({ feedItemId }) => feedItemId as number) }, transaction })
  const byId = new Map(rows.map((row) => [row.id, row]))
  const feeds = await Feed.findAll({ where: { id: [...new Set(rows.map(({ feedId }) => feedId))] }, transaction })
  const drafts = new Map(feeds.map((feed) => [feed.id, feed.draft]))
  return new Map(
    made.flatMap(({ id: creative, feedItemId }): [number, string][] => {
      const row = byId.get(feedItemId ?? 0)
      const draft = row && drafts.get(row.feedId)
      if (!draft) return []
      // One that was made anew since says something else, whatever the item says.
      const hasChanged = row.madeCreativeId !== creative || row.madeAs !== itemDigest(row.item)
      const reason = stopReason(draft.name, row.state, hasChanged, draft.changed)
      return reason === null ? [] : [[creative, reason]]
    })
  )
}
