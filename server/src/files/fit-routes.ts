import { LRUCache } from 'lru-cache'
import { yup } from '@tin-harbor/core/input'
import { filmFitSchema, pictureFitSchema, spokenSchema } from '@tin-harbor/core/creative'
import * as told from '@tin-harbor/core/contract'
import type { Deps } from '../deps.js'
import { invalidField } from '../http/errors.js'
import { advertiserScope } from '../campaigns/routes.js'
import { SENT, route, type Params, type Route } from '../http/registry.js'
import { stripOf } from './film-looks.js'
import { findFile } from './library.js'
import { fileScope } from './routes.js'

const frameSchema = yup.object({ second: yup.number().min(0, 'The film begins at 0.').required('Which second?') }).noUnknown()
/** Strips of films that are looked at, by content: made once while somebody works on them. */
const strips = new LRUCache<string, Buffer>({ max: 200 })

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
      method: 'post',
      path: '/files/:fileId/frame',
      right: 'draft',
      scope: fileScope,
      body: frameSchema,
      answers: told.fitView,
      handle: async ({ actor, params, body }) => fits.frame(deps, actor, await findFile(params.fileId), body.second)
    }),
    route({
      method: 'post',
      path: '/files/:fileId/playable',
      right: 'draft',
      scope: fileScope,
      answers: told.fitView,
      handle: async ({ params }) => fits.playable(deps, await findFile(params.fileId))
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/spoken',
      right: 'draft',
      scope: advertiserScope,
      body: spokenSchema,
      answers: told.fitView,
      handle: ({ actor, params, body }) => Promise.resolve(fits.spoken(deps, actor, params.advertiserId, body))
    }),
    route({
      method: 'get',
      path: '/files/:fileId/strip',
      right: 'read',
      scope: fileScope,
      answers: 'file',
      handle: async ({ params, res }) => {
        const { facts, sha256 } = await findFile(params.fileId)
        if (facts.medium !== 'film') throw invalidField('file', 'Only a film has frames.')
        const strip = strips.get(sha256) ?? (await stripOf(deps.store.pathOf(sha256), facts))
        strips.set(sha256, strip)
        res.set({ 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=86400' }).send(strip)
        return SENT
      }
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
