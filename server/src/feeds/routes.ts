import * as told from '@tin-harbor/core/contract'
import { idField, yup } from '@tin-harbor/core/input'
import { MOST_FEED_ADS, feedSchema } from '@tin-harbor/core/creative'
import { advertiserScope } from '../campaigns/routes.js'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { versionField } from '../http/fields.js'
import { route, type Params, type Route } from '../http/registry.js'
import { createFeed, deleteFeed, feedItemsOf, feedView, feedsOf, findFeed, saveFeed } from './feeds.js'
import { makeFeedAds } from './making.js'

const feedScope = async ({ params: { feedId } }: { params: Params }) => (await findFeed(feedId)).advertiserId
const feedField = feedSchema.required('What is the feed?')
const WHICH = 'Which items?'

/** Product feeds, and the ads that are made of their items. */
export function feedRoutes(deps: Deps): Route[] {
  const { sequelize, feeds } = deps
  return [
    route({
      method: 'get',
      path: '/advertisers/:advertiserId/feeds',
      right: 'read',
      scope: advertiserScope,
      answers: told.list(told.feedSummary),
      handle: ({ params }) => feedsOf(params.advertiserId)
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/feeds',
      right: 'draft',
      scope: advertiserScope,
      body: yup.object({ feed: feedField }).noUnknown(),
      answers: told.feedView,
      handle: async ({ actor, params, body }) => {
        const id = await createFeed(sequelize, actor, params.advertiserId, body.feed)
        return feeds.read(id)
      }
    }),
    route({
      method: 'get',
      path: '/feeds/:feedId',
      right: 'read',
      scope: feedScope,
      answers: told.feedView,
      handle: ({ params }) => feedView(params.feedId)
    }),
    route({
      method: 'put',
      path: '/feeds/:feedId',
      right: 'draft',
      scope: feedScope,
      body: yup.object({ version: versionField, feed: feedField }).noUnknown(),
      answers: told.feedView,
      handle: async ({ actor, params, body }) => {
        await retrying(() => saveFeed(sequelize, actor, params.feedId, body.version, body.feed))
        return feeds.read(params.feedId)
      }
    }),
    route({
      method: 'delete',
      path: '/feeds/:feedId',
      right: 'draft',
      scope: feedScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => retrying(() => deleteFeed(sequelize, actor, params.feedId))
    }),
    route({
      method: 'post',
      path: '/feeds/:feedId/read',
      right: 'draft',
      scope: feedScope,
      answers: told.feedView,
      handle: ({ params }) => feeds.read(params.feedId)
    }),
    route({
      method: 'get',
      path: '/feeds/:feedId/items',
      right: 'read',
      scope: feedScope,
      query: yup
        .object({
          show: yup.string().oneOf(told.FEED_SHOWS, WHICH).required(WHICH),
          from: yup.number().integer().min(0).max(1_000_000).default(0)
        })
        .noUnknown(),
      answers: told.feedItems,
      handle: ({ params, query }) => feedItemsOf(params.feedId, query)
    }),
    route({
      method: 'post',
      path: '/feeds/:feedId/ads',
      right: 'draft',
      scope: feedScope,
      body: yup
        .object({
          items: yup.array().of(idField(WHICH)).min(1, WHICH).max(MOST_FEED_ADS, `At most ${MOST_FEED_ADS} at once.`).required(WHICH),
          line: idField('Which line?').nullable()
        })
        .noUnknown(),
      answers: told.feedMade,
      handle: ({ actor, params, body }) => retrying(() => makeFeedAds(deps, actor, params.feedId, body))
    })
  ]
}
