import * as told from '@tin-harbor/core/contract'
import { idField as idOf, pastedText, textList, yup } from '@tin-harbor/core/input'
import { LIST_KINDS, listSchema, readPaste, type ListKind } from '@tin-harbor/core/buying'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { createSavedList, deleteList, listLists, ownerOfList, saveList } from './lists.js'
import { versionField } from '../http/fields.js'
import { route, type Params, type Route } from '../http/registry.js'

/** A list of 10,000 values, or as much text, beside what it has. */
const LIST_BYTES = 1024 * 1024
const valuesField = (what: string) => textList(10_000, `At most 10,000 values are ${what} at once.`).required()

/** The advertiser that a body names; what is no number is refused when the body is checked. */
function advertiserNamed(body: unknown): number | null {
  const { advertiserId } = (body ?? {}) as { advertiserId?: unknown }
  return typeof advertiserId === 'number' ? advertiserId : null
}

/** Lists belong to an advertiser, or to the organisation as a whole. */
const listScope = ({ params: { listId } }: { params: Params }) => ownerOfList(listId)

export function listRoutes(deps: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/lists',
      right: 'read',
      scope: 'seen',
      answers: told.shape({ lists: told.list(told.listView) }),
      handle: async ({ actor }) => ({ lists: await listLists(actor, deps.catalogue) })
    }),
    route({
      method: 'post',
      path: '/lists',
      right: 'draft',
      scope: ({ actor, body }) => Promise.resolve(advertiserNamed(body) ?? { organisation: actor.organisationId }),
      body: yup
        .object({ advertiserId: idOf('Of which advertiser?').nullable(), list: listSchema.required('What is the list?') })
        .noUnknown(),
      limit: LIST_BYTES,
      answers: told.listView,
      handle: ({ actor, body }) => createSavedList(deps, actor, body.advertiserId, body.list)
    }),
    route({
      method: 'put',
      path: '/lists/:listId',
      right: 'draft',
      scope: listScope,
      body: yup
        .object({
          version: versionField,
          rename: yup
            .object({ from: yup.string().required('From which name?'), to: yup.string().required('A name is needed.') })
            .noUnknown()
            .nullable()
            .defined(),
          add: valuesField('added'),
          remove: valuesField('taken away')
        })
        .noUnknown(),
      limit: LIST_BYTES,
      answers: told.savedList,
      handle: ({ actor, params, body }) => retrying(() => saveList(deps, actor, { id: params.listId, ...body }))
    }),
    route({
      method: 'delete',
      path: '/lists/:listId',
      right: 'draft',
      scope: listScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => retrying(() => deleteList(deps, actor, params.listId))
    }),
    route({
      method: 'post',
      path: '/lists/read',
      right: 'draft',
      scope: 'market',
      body: yup
        .object({
          kind: yup
            .string()
            .oneOf(Object.keys(LIST_KINDS) as ListKind[], 'Not a kind of list we know.')
            .required(),
          text: pastedText(400_000, 'That is more text than a list takes.').defined(),
          has: valuesField('compared')
        })
        .noUnknown(),
      limit: LIST_BYTES,
      answers: told.pasteRead,
      handle: ({ body }) => Promise.resolve(readPaste(body.kind, body.text, deps.catalogue.inventory, body.has))
    })
  ]
}
