import * as told from '@tin-harbor/core/contract'
import { offerSchema, trackerSchema } from '@tin-harbor/core/buying'
import { yup } from '@tin-harbor/core/input'
import { advertiserScope } from '../campaigns/routes.js'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { versionField } from '../http/fields.js'
import { WHOLE_LINE_BYTES, route, type Params, type Route } from '../http/registry.js'
import { cameOf } from '../results/offer-results.js'
import { originOf } from '../http/origin.js'
import { createOffer, deleteOffer, findOffer, offersFor, saveOffer } from './offers.js'
import { toldLast, trackersFor } from './tracker-log.js'
import { sendTest, setUpOf } from './tracker-test.js'
import { createTracker, findTracker, saveTracker } from './trackers.js'

const offerScope = async ({ params: { offerId } }: { params: Params }) => (await findOffer(offerId)).advertiserId
const trackerScope = async ({ params: { trackerId } }: { params: Params }) => (await findTracker(trackerId)).advertiserId

/** What is sold: offers, and the trackers that count what comes of them. */
export function advertiserRoutes(deps: Deps): Route[] {
  return [...offerRoutes(deps), ...trackerRoutes(deps)]
}

function offerRoutes(deps: Deps): Route[] {
  const { sequelize } = deps
  return [
    route({
      method: 'get',
      path: '/advertisers/:advertiserId/offers',
      right: 'read',
      scope: advertiserScope,
      answers: told.list(told.offerPage),
      handle: ({ params }) => offersFor(params.advertiserId)
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/offers',
      right: 'live',
      scope: advertiserScope,
      body: offerSchema,
      limit: WHOLE_LINE_BYTES,
      answers: told.list(told.offerPage),
      handle: async ({ actor, params, body }) => {
        await createOffer(sequelize, actor, params.advertiserId, body)
        return offersFor(params.advertiserId)
      }
    }),
    route({
      method: 'put',
      path: '/offers/:offerId',
      right: 'live',
      scope: offerScope,
      body: yup.object({ version: versionField, offer: offerSchema.required('What is offered?') }).noUnknown(),
      limit: WHOLE_LINE_BYTES,
      answers: told.list(told.offerPage),
      handle: async ({ actor, params, body }) => {
        await saveOffer(sequelize, actor, params.offerId, body.version, body.offer)
        return offersFor((await findOffer(params.offerId)).advertiserId)
      }
    }),
    route({
      method: 'delete',
      path: '/offers/:offerId',
      right: 'live',
      scope: offerScope,
      answers: told.list(told.offerPage),
      handle: async ({ actor, params }) => {
        const { advertiserId } = await findOffer(params.offerId)
        await deleteOffer(sequelize, actor, params.offerId)
        return offersFor(advertiserId)
      }
    }),
    route({
      method: 'get',
      path: '/offers/:offerId/came',
      right: 'read',
      scope: offerScope,
      answers: told.offerCame,
      handle: async ({ params }) => cameOf(deps, await findOffer(params.offerId))
    })
  ]
}

function trackerRoutes({ sequelize, hits }: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/advertisers/:advertiserId/trackers',
      right: 'read',
      scope: advertiserScope,
      answers: told.list(told.trackerView),
      handle: async ({ params }) => {
        await hits.take()
        return trackersFor(sequelize, params.advertiserId)
      }
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/trackers',
      right: 'live',
      scope: advertiserScope,
      body: trackerSchema,
      answers: told.list(told.trackerView),
      handle: async ({ actor, params, body }) => {
        await retrying(() => createTracker(sequelize, actor, params.advertiserId, body))
        return trackersFor(sequelize, params.advertiserId)
      }
    }),
    route({
      method: 'put',
      path: '/trackers/:trackerId',
      right: 'live',
      scope: trackerScope,
      body: yup.object({ version: versionField, tracker: trackerSchema.required('What is counted?') }).noUnknown(),
      answers: told.list(told.trackerView),
      handle: async ({ actor, params, body }) => {
        const { advertiserId } = await retrying(() => saveTracker(sequelize, actor, params.trackerId, body.version, body.tracker))
        return trackersFor(sequelize, advertiserId)
      }
    }),
    route({
      method: 'get',
      path: '/trackers/:trackerId/set-up',
      right: 'live',
      scope: trackerScope,
      answers: told.trackerSetUp,
      handle: async ({ params, req }) => setUpOf(await findTracker(params.trackerId), originOf(req))
    }),
    route({
      method: 'get',
      path: '/trackers/:trackerId/told',
      right: 'read',
      scope: trackerScope,
      answers: told.list(told.toldView),
      handle: async ({ params }) => {
        await hits.take()
        return toldLast({ tracker: params.trackerId })
      }
    }),
    route({
      method: 'post',
      path: '/trackers/:trackerId/test',
      right: 'draft',
      scope: trackerScope,
      answers: told.testSent,
      handle: async ({ params, req }) => {
        // It is sent to this very server, whatever address it is known by.
        const home = `http://127.0.0.1:${req.socket.localPort ?? 0}`
        return sendTest(hits, await findTracker(params.trackerId), home)
      }
    })
  ]
}
