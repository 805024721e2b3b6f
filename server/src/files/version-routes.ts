import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import type { Deps } from '../deps.js'
import { resultsOfFile } from '../creatives/file-results.js'
import { replaceFile } from '../creatives/replacing.js'
import { route, type Route } from '../http/registry.js'
import { findFile } from './library.js'
import { fileScope } from './routes.js'

/** A file in the place of another, and what came of one. */
export function versionRoutes({ sequelize }: Deps): Route[] {
  return [
    route({
      method: 'post',
      path: '/files/:fileId/replace',
      right: 'draft',
      scope: fileScope,
      body: yup
        .object({
          by: yup.number().integer().min(1, 'By which file?').required('By which file?'),
          version: yup.number().integer().min(1).required()
        })
        .noUnknown(),
      answers: told.fileReplaced,
      handle: ({ actor, params, body }) => replaceFile(sequelize, actor, params.fileId, body)
    }),
    route({
      method: 'get',
      path: '/files/:fileId/results',
      right: 'read',
      scope: fileScope,
      answers: told.fileResults,
      handle: async ({ params }) => resultsOfFile(sequelize, await findFile(params.fileId))
    })
  ]
}
