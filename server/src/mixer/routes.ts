import * as told from '@tin-harbor/core/contract'
import { idField, yup } from '@tin-harbor/core/input'
import { mixSchema } from '@tin-harbor/core/creative'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { versionField } from '../http/fields.js'
import { route, type Params, type Route } from '../http/registry.js'
import { createMix, deleteMix, findMix, makeMix, mixView, mixesOf, saveMix } from './mixes.js'

const MIX_BYTES = 256 * 1024
const mixScope = async ({ params: { mixId } }: { params: Params }) => (await findMix(mixId)).advertiserId
const advertiserScope = ({ params: { advertiserId } }: { params: Params }) => Promise.resolve(advertiserId)
const mixField = mixSchema.required('What is the matrix?')

/** Matrices of parts, and the ads that are made of them. */
export function mixRoutes({ sequelize }: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/advertisers/:advertiserId/mixes',
      right: 'read',
      scope: advertiserScope,
      answers: told.list(told.mixSummary),
      handle: ({ params }) => mixesOf(params.advertiserId)
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/mixes',
      right: 'draft',
      scope: advertiserScope,
      body: yup.object({ mix: mixField }).noUnknown(),
      limit: MIX_BYTES,
      answers: told.mixView,
      handle: ({ actor, params, body }) => createMix(sequelize, actor, params.advertiserId, body.mix)
    }),
    route({
      method: 'get',
      path: '/mixes/:mixId',
      right: 'read',
      scope: mixScope,
      answers: told.mixView,
      handle: ({ params }) => mixView(params.mixId)
    }),
    route({
      method: 'put',
      path: '/mixes/:mixId',
      right: 'draft',
      scope: mixScope,
      body: yup.object({ version: versionField, mix: mixField }).noUnknown(),
      limit: MIX_BYTES,
      answers: told.mixView,
      handle: ({ actor, params, body }) => retrying(() => saveMix(sequelize, actor, params.mixId, body.version, body.mix))
    }),
    route({
      method: 'delete',
      path: '/mixes/:mixId',
      right: 'draft',
      scope: mixScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => retrying(() => deleteMix(sequelize, actor, params.mixId))
    }),
    route({
      method: 'post',
      path: '/mixes/:mixId/make',
      right: 'draft',
      scope: mixScope,
      body: yup.object({ version: versionField, line: idField('Which line?').nullable(), takes: yup.boolean().required() }).noUnknown(),
      answers: told.mixMade,
      handle: ({ actor, params, body }) => retrying(() => makeMix(sequelize, actor, params.mixId, body))
    })
  ]
}
