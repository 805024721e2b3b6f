import * as told from '@tin-harbor/core/contract'
import { idField, yup } from '@tin-harbor/core/input'
import { plateSchema } from '@tin-harbor/core/creative'
import { advertiserScope } from '../campaigns/routes.js'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { versionField } from '../http/fields.js'
import { route, type Params, type Route } from '../http/registry.js'
import { makePlate, previewPlate } from './making.js'
import { createPlate, deletePlate, findPlate, plateView, platesOf, savePlate } from './plates.js'

const plateScope = async ({ params: { plateId } }: { params: Params }) => (await findPlate(plateId)).advertiserId
const plateField = plateSchema.required('What is the plate?')

/** Plates, and the pictures that are built of them. */
export function plateRoutes(deps: Deps): Route[] {
  const { sequelize } = deps
  return [
    route({
      method: 'get',
      path: '/advertisers/:advertiserId/plates',
      right: 'read',
      scope: advertiserScope,
      answers: told.list(told.plateSummary),
      handle: ({ params }) => platesOf(params.advertiserId)
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/plates',
      right: 'draft',
      scope: advertiserScope,
      body: yup.object({ plate: plateField }).noUnknown(),
      answers: told.plateView,
      handle: ({ actor, params, body }) => createPlate(sequelize, actor, params.advertiserId, body.plate)
    }),
    route({
      method: 'get',
      path: '/plates/:plateId',
      right: 'read',
      scope: plateScope,
      answers: told.plateView,
      handle: ({ params }) => plateView(params.plateId)
    }),
    route({
      method: 'put',
      path: '/plates/:plateId',
      right: 'draft',
      scope: plateScope,
      body: yup.object({ version: versionField, plate: plateField }).noUnknown(),
      answers: told.plateView,
      handle: ({ actor, params, body }) => retrying(() => savePlate(sequelize, actor, params.plateId, body.version, body.plate))
    }),
    route({
      method: 'delete',
      path: '/plates/:plateId',
      right: 'draft',
      scope: plateScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => retrying(() => deletePlate(sequelize, actor, params.plateId))
    }),
    route({
      method: 'post',
      path: '/plates/:plateId/drawn',
      right: 'draft',
      scope: plateScope,
      body: yup.object({ plate: plateField }).noUnknown(),
      answers: told.list(told.plateDrawn),
      handle: ({ params, body }) => previewPlate(deps, params.plateId, body.plate)
    }),
    route({
      method: 'post',
      path: '/plates/:plateId/make',
      right: 'draft',
      scope: plateScope,
      body: yup.object({ version: versionField, line: idField('Which line?').nullable(), replaces: yup.boolean().required() }).noUnknown(),
      answers: told.plateMade,
      handle: ({ actor, params, body }) => makePlate(deps, actor, params.plateId, body)
    })
  ]
}
