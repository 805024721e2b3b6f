import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import type { Deps } from '../deps.js'
import { advertiserScope } from '../campaigns/routes.js'
import { SENT, route, type Params, type Route } from '../http/registry.js'
import { unknownObject } from '../http/errors.js'
import { Upload } from './file-model.js'
import { sendContent } from './serving.js'
import { fileView, filesOf, findFile, saveFile } from './library.js'

const tag = yup.string().trim().required('A tag has letters.').max(40, 'A tag has at most 40 letters.')
const editSchema = yup
  .object({
    name: yup.string().trim().required('The file needs a name.').max(190, 'The name has at most 190 letters.'),
    altText: yup.string().trim().defined().max(300, 'The text has at most 300 letters.'),
    tags: yup.array().of(tag).max(20, 'A file has at most 20 tags.').defined(),
    retired: yup.boolean().required(),
    version: yup.number().integer().min(1).required()
  })
  .noUnknown()

async function uploadScope({ params: { uploadId } }: { params: Params }): Promise<number> {
  const upload = await Upload.findByPk(uploadId, { attributes: ['advertiserId'] })
  if (!upload) throw unknownObject('upload')
  return upload.advertiserId
}
export const fileScope = async ({ params: { fileId } }: { params: Params }) => (await findFile(fileId)).advertiserId

/** Files of the library, and uploads into it. */
export function fileRoutes(deps: Deps): Route[] {
  const { uploads, store } = deps
  return [
    route({
      method: 'get',
      path: '/advertisers/:advertiserId/files',
      right: 'read',
      scope: advertiserScope,
      answers: told.list(told.fileView),
      handle: ({ params }) => filesOf(params.advertiserId)
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/uploads',
      right: 'draft',
      scope: advertiserScope,
      answers: 'stream',
      handle: async ({ actor, params, req, res }) => {
        await uploads.begin(actor, params.advertiserId, req, res)
        return SENT
      }
    }),
    ...(['head', 'patch', 'delete'] as const).map((method) =>
      route({
        method,
        path: '/uploads/:uploadId',
        right: 'draft',
        scope: uploadScope,
        answers: 'stream',
        handle: async ({ actor, params, req, res }) => {
          await uploads.goOn(actor, params.uploadId, req, res)
          return SENT
        }
      })
    ),
    route({
      method: 'post',
      path: '/uploads/:uploadId/finish',
      right: 'draft',
      scope: uploadScope,
      answers: told.fileTaken,
      handle: ({ actor, params }) => uploads.finish(deps, actor, params.uploadId)
    }),
    route({
      method: 'put',
      path: '/files/:fileId',
      right: 'draft',
      scope: fileScope,
      body: editSchema,
      answers: told.fileView,
      handle: ({ actor, params, body }) => saveFile(deps, actor, params.fileId, body)
    }),
    route({
      method: 'get',
      path: '/files/:fileId',
      right: 'read',
      scope: fileScope,
      answers: told.fileView,
      handle: ({ params }) => fileView(params.fileId)
    }),
    route({
      method: 'get',
      path: '/files/:fileId/content',
      right: 'read',
      scope: fileScope,
      answers: 'file',
      query: yup.object({ playable: yup.string().oneOf(['yes']) }).noUnknown(),
      handle: async ({ params, query, res }) => {
        await sendContent(res, store, await findFile(params.fileId), query.playable === 'yes')
        return SENT
      }
    })
  ]
}
