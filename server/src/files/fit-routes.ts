import { filmFitSchema, pictureFitSchema } from '@tin-harbor/core/creative'
import * as told from '@tin-harbor/core/contract'
import type { Deps } from '../deps.js'
import { route, type Params, type Route } from '../http/registry.js'
import { findFile } from './library.js'
import { fileScope } from './routes.js'

/** Files that are made to fit. */
export function fitRoutes(deps: Deps): Route[] {
  const { fits } = deps
  const fitScope = ({ params: { fitId } }: { params: Params }) => Promise.resolve(fits.advertiserOf(fitId))
  return [
    route({
      method: 'post',
      path: '/files/:fileId/film-fit',
      right: 'draft',
      scope: fileScope,
      body: filmFitSchema,
      answers: told.fitView,
      handle: async ({ actor, params, body }) => fits.film(deps, actor, await findFile(params.fileId), body)
    }),
    route({
      method: 'post',
      path: '/files/:fileId/picture-fit',
      right: 'draft',
      scope: fileScope,
      body: pictureFitSchema,
      answers: told.fitView,
      handle: async ({ actor, params, body }) => fits.picture(deps, actor, await findFile(params.fileId), body)
    }),
    route({
      method: 'get',
      path: '/fits/:fitId',
      right: 'read',
      scope: fitScope,
      answers: told.fitView,
      handle: ({ params }) => Promise.resolve(fits.view(params.fitId))
    }),
    route({
      method: 'delete',
      path: '/fits/:fitId',
      right: 'draft',
      scope: fitScope,
      answers: told.fitView,
      handle: ({ params }) => Promise.resolve(fits.stop(params.fitId))
    })
  ]
}
