import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import { MOST_SLIP_LINES, slipItemsSchema, slipNameField } from '@tin-harbor/core/buying'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { advertisersOfLines } from '../lines/lines.js'
import { advertisersOfSlip, createSlip, dropSlip, slipLive, slipsFor, stagedForecasts, takeBack } from './slips.js'
import { tokenField } from '../http/fields.js'
import { route, type Owner, type Params, type Route } from '../http/registry.js'

/** Room for 500 lines with their edits. */
const SLIP_BYTES = 256 * 1024

/** A slip is of all advertisers whose lines it names. */
const slipScope = async ({ params: { slipId } }: { params: Params }) => ({ advertisers: await advertisersOfSlip(slipId) })

/** As many lines as a slip holds; what is no line is refused when the body is checked. */
async function itemsScope({ body }: { body: unknown }): Promise<Owner> {
  const { items } = (body ?? {}) as { items?: unknown }
  const named = Array.isArray(items) ? items.slice(0, MOST_SLIP_LINES) : []
  const lines = named.map((item) => (item as { line?: unknown } | null)?.line).filter((line) => Number.isInteger(line))
  return { advertisers: await advertisersOfLines(lines as number[]) }
}

export function slipRoutes(deps: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/slips',
      right: 'draft',
      scope: 'seen',
      answers: told.slipsView,
      handle: ({ actor }) => slipsFor(deps, actor)
    }),
    route({
      method: 'get',
      path: '/slips/expected',
      right: 'draft',
      scope: 'seen',
      answers: told.shape({ expected: told.list(told.stagedForecast) }),
      handle: async ({ actor }) => ({ expected: await stagedForecasts(deps, actor) })
    }),
    route({
      method: 'post',
      path: '/slips',
      right: 'draft',
      scope: itemsScope,
      body: yup.object({ name: slipNameField, items: slipItemsSchema }).noUnknown(),
      limit: SLIP_BYTES,
      answers: told.shape({ id: told.number() }),
      handle: ({ actor, body }) => createSlip(deps, actor, body.name, body.items)
    }),
    route({
      // Edits that are on no slip yet: they go live as one of their own.
      method: 'post',
      path: '/slips/live',
      right: 'live',
      scope: itemsScope,
      body: yup.object({ name: slipNameField.optional(), items: slipItemsSchema, token: tokenField }).noUnknown(),
      limit: SLIP_BYTES,
      answers: told.slipLiveAnswer,
      handle: ({ actor, body: { name = 'Edits put live at once', items, token } }) => slipLive(deps, actor, { name, items }, token)
    }),
    route({
      method: 'post',
      path: '/slips/:slipId/live',
      right: 'live',
      scope: slipScope,
      body: yup.object({ token: tokenField }).noUnknown(),
      answers: told.slipLiveAnswer,
      handle: ({ actor, params, body }) => slipLive(deps, actor, { id: params.slipId }, body.token)
    }),
    route({
      method: 'post',
      path: '/slips/:slipId/take-back',
      right: 'live',
      scope: slipScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => retrying(() => takeBack(deps, actor, params.slipId))
    }),
    route({
      method: 'delete',
      path: '/slips/:slipId',
      right: 'draft',
      scope: slipScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => dropSlip(deps, actor, params.slipId)
    })
  ]
}
