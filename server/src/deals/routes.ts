import { idField, yup } from '@tin-harbor/core/input'
import { askSchema } from '@tin-harbor/core/buying'
import type { Deps } from '../deps.js'
import { askForDeal, dealsOf, takeCounter } from './deal-asks.js'
import { route, type Route } from '../http/registry.js'

/** Deals are the organisation's: any of its lines may buy by them. */
export function dealRoutes(deps: Deps): Route[] {
  return [
    route({ method: 'get', path: '/deals', right: 'read', scope: 'none', handle: ({ actor }) => dealsOf(deps, actor) }),
    route({
      method: 'post',
      path: '/deals/ask',
      right: 'draft',
      scope: 'none',
      body: askSchema,
      handle: ({ actor, body }) => askForDeal(deps, actor, body)
    }),
    route({
      method: 'post',
      path: '/deals/take',
      right: 'draft',
      scope: 'none',
      body: yup.object({ id: idField('Which one?') }).noUnknown(),
      handle: ({ actor, body }) => takeCounter(deps, actor, body.id)
    })
  ]
}
