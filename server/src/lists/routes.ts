import { idField as idOf, pastedText, textList, yup } from '@tin-harbor/core/input'
import { LIST_KINDS, listSchema, readPaste, type ListKind } from '@tin-harbor/core/buying'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { createSavedList, deleteList, listLists, saveList } from './lists.js'
import { versionField } from '../campaigns/routes.js'
import { route, type Route } from '../http/registry.js'

/** A list of 10,000 values, or as much text, beside what it has. */
const LIST_BYTES = 1024 * 1024
const idField = idOf('Which list?')
const valuesField = (what: string) => textList(10_000, `At most 10,000 values are ${what} at once.`).required()

/** Lists belong to an advertiser or to the organisation: whether a user sees one is asked where it is read. */
export function listRoutes(deps: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/lists',
      right: 'read',
      scope: 'none',
      handle: async ({ actor }) => ({ lists: await listLists(actor, deps.catalogue) })
    }),
    route({
      method: 'post',
      path: '/lists',
      right: 'draft',
      scope: 'none',
      body: yup
        .object({ advertiserId: idOf('Of which advertiser?').nullable(), list: listSchema.required('What is the list?') })
        .noUnknown(),
      limit: LIST_BYTES,
      handle: ({ actor, body }) => createSavedList(deps, actor, body.advertiserId, body.list)
    }),
    route({
      method: 'put',
      path: '/lists',
      right: 'draft',
      scope: 'none',
      body: yup
        .object({
          id: idField,
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
      handle: ({ actor, body }) => retrying(() => saveList(deps, actor, body))
    }),
    route({
      method: 'post',
      path: '/lists/delete',
      right: 'draft',
      scope: 'none',
      body: yup.object({ id: idField }).noUnknown(),
      handle: ({ actor, body }) => retrying(() => deleteList(deps, actor, body.id))
    }),
    route({
      method: 'post',
      path: '/lists/read',
      right: 'draft',
      scope: 'none',
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
      handle: ({ body }) => Promise.resolve(readPaste(body.kind, body.text, deps.catalogue.inventory, body.has))
    })
  ]
}
