import { idField as idOf, yup } from '@tin-harbor/core/input'
import { slipItemsSchema, slipNameField } from '@tin-harbor/core/buying'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { createSlip, dropSlip, slipLive, slipsFor, stagedForecasts, takeBack } from './slips.js'
import { route, type Route } from '../http/registry.js'

/** Room for 500 lines with their edits. */
const SLIP_BYTES = 256 * 1024
const idField = idOf('Which slip?')
const tokenField = yup
  .string()
  .matches(/^[\w-]{8,80}$/, 'The confirmation needs a token of 8 to 80 letters.')
  .required('The confirmation needs a token.')

/** Slips name lines of any advertisers: whether a user sees them all is asked where they are read. */
export function slipRoutes(deps: Deps): Route[] {
  return [
    route({ method: 'get', path: '/slips', right: 'draft', scope: 'none', handle: ({ actor }) => slipsFor(deps, actor) }),
    route({
      method: 'get',
      path: '/slips/expected',
      right: 'draft',
      scope: 'none',
      handle: async ({ actor }) => ({ expected: await stagedForecasts(deps, actor) })
    }),
    route({
      method: 'post',
      path: '/slips',
      right: 'draft',
      scope: 'none',
      body: yup.object({ name: slipNameField, items: slipItemsSchema }).noUnknown(),
      limit: SLIP_BYTES,
      handle: ({ actor, body }) => createSlip(deps, actor, body.name, body.items)
    }),
    route({
      method: 'post',
      path: '/slips/live',
      right: 'live',
      scope: 'none',
      body: yup
        .object({
          id: idField.optional() as yup.NumberSchema<number | undefined>,
          name: slipNameField.optional(),
          items: slipItemsSchema.optional() as typeof slipItemsSchema,
          token: tokenField
        })
        .test('one', 'Name a slip, or the edits that go live.', function ({ id, items }) {
          return (
            (id === undefined) !== (items === undefined) ||
            this.createError({ path: 'items', message: 'Name a slip, or the edits that go live.' })
          )
        })
        .noUnknown(),
      limit: SLIP_BYTES,
      handle: ({ actor, body }) =>
        slipLive(
          deps,
          actor,
          body.id !== undefined ? { id: body.id } : { name: body.name ?? 'Edits put live at once', items: body.items },
          body.token
        )
    }),
    route({
      method: 'post',
      path: '/slips/take-back',
      right: 'live',
      scope: 'none',
      body: yup.object({ id: idField }).noUnknown(),
      handle: ({ actor, body }) => retrying(() => takeBack(deps, actor, body.id))
    }),
    route({
      method: 'post',
      path: '/slips/delete',
      right: 'draft',
      scope: 'none',
      body: yup.object({ id: idField }).noUnknown(),
      handle: ({ actor, body }) => dropSlip(deps, actor, body.id)
    })
  ]
}
