import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import type { Deps } from '../deps.js'
import { advertiserScope } from '../campaigns/routes.js'
import { SENT, route, type Params, type Route } from '../http/registry.js'
import { unknownObject } from '../http/errors.js'
import { Upload } from './file-model.js'
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

/** Types that a browser shows, plays, and never runs. */
const SHOWN = /^(image\/(png|jpeg|gif|webp)|video\/(mp4|webm|x-matroska|quicktime)|audio\/[a-z0-9.+-]+)$/

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
        const file = await findFile(params.fileId)
        const { facts } = file
        const standsIn = query.playable === 'yes' ? file.proxy : null
        const sha256 = standsIn ?? file.sha256
        res.set({
          // What no browser shows is only kept: it never runs as something of ours.
          'content-type': standsIn ? 'video/mp4' : SHOWN.test(facts.type) ? facts.type : 'application/octet-stream',
          'cache-control': 'private, max-age=86400',
          'content-security-policy': "default-src 'none'; sandbox",
          'x-content-type-options': 'nosniff'
        })
        await new Promise<void>((resolve, reject) =>
          res.sendFile(store.pathOf(sha256), { cacheControl: false, dotfiles: 'allow' }, (error?: NodeJS.ErrnoException) =>
            // Whoever plays a film asks for parts of it, and leaves when they have seen enough, or before they saw any.
            error && error.code !== 'ECONNABORTED' && !res.headersSent ? reject(error) : resolve()
          )
        )
        return SENT
      }
    })
  ]
}
