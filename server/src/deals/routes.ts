import * as told from '@tin-harbor/core/contract'
import { askSchema, takeOfferSchema } from '@tin-harbor/core/buying'
import type { Deps } from '../deps.js'
import { askForDeal, dealsOf, organisationOfAsk, takeCounter } from './deal-asks.js'
import { offeredTo, takeOffer } from './offers.js'
import { route, type Route } from '../http/registry.js'

/** Deals are the organisation's: any of its lines may buy by them. */
export function dealRoutes(deps: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/deals',
      right: 'read',
      scope: 'seen',
      answers: told.dealsView,
      handle: ({ actor }) => dealsOf(deps, actor)
    }),
    route({
      method: 'get',
      path: '/deals/offers',
      right: 'read',
      scope: 'seen',
      answers: told.offeredDealsView,
      handle: async ({ actor }) => ({ offers: await offeredTo(deps, actor) })
    }),
    route({
      method: 'post',
      path: '/deals/offers/take',
      right: 'draft',
      scope: ({ actor }) => Promise.resolve({ organisation: actor.organisationId }),
      body: takeOfferSchema,
      answers: told.dealView,
      handle: ({ actor, body }) => takeOffer(deps, actor, body.offer)
    }),
    route({
      method: 'post',
      path: '/deals/asks',
      right: 'draft',
      scope: ({ actor }) => Promise.resolve({ organisation: actor.organisationId }),
      body: askSchema,
      answers: told.dealAskView,
      handle: ({ actor, body }) => askForDeal(deps, actor, body)
    }),
    route({
      method: 'post',
      path: '/deals/asks/:askId/take',
      right: 'draft',
      scope: async ({ params }) => ({ organisation: await organisationOfAsk(params.askId) }),
      answers: told.dealAskView,
      handle: ({ actor, params }) => takeCounter(deps, actor, params.askId)
    })
  ]
}
