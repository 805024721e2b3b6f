import { creativeSchema } from '@tin-harbor/core/creative'
import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import type { Deps } from '../deps.js'
import { advertiserScope } from '../campaigns/routes.js'
import { createMade, findMade } from '../creatives/creatives.js'
import { fileScope } from '../files/routes.js'
import { fileView, findFile } from '../files/library.js'
import { invalidField } from '../http/errors.js'
import { route, type Params, type Route } from '../http/registry.js'
import { hostOf, type Sandbox } from './sandbox.js'
import type { Shown } from './tokens.js'

const ranSchema = yup
  .object({
    address: yup.string().required('Where did it run?').max(600),
    /** Addresses that it led its frame to. */
    left: yup.array().of(yup.string().required().max(4000)).max(40).defined()
  })
  .noUnknown()
const madeScope = async ({ params: { madeId } }: { params: Params }) => (await findMade(madeId)).advertiserId

/** Hosts that it reached for, then or before: what the same content did once, it does. */
function calledOf(sandbox: Sandbox, shown: Shown, { address, left }: yup.InferType<typeof ranSchema>, before: readonly string[]): string[] {
  const tried = sandbox.triedAt(address, shown)
  if (tried === null) throw invalidField('address', 'It did not run there, or that is over: show it again.')
  return [...new Set([...before, ...tried, ...left.flatMap((one) => hostOf(one) ?? [])])].sort().slice(0, 40)
}

/** Banners and tags as they run, and what they were seen to try. */
export function sandboxRoutes(deps: Deps): Route[] {
  const { sandbox, sequelize } = deps
  return [
    route({
      method: 'get',
      path: '/files/:fileId/sandbox',
      right: 'read',
      scope: fileScope,
      answers: told.sandboxView,
      handle: async ({ params }) => {
        const { id, facts } = await findFile(params.fileId)
        if (!facts.banner) throw invalidField('file', 'Only a banner runs; this is seen or heard as it is.')
        return sandbox.open({ kind: 'file', id }, facts.banner.entry)
      }
    }),
    route({
      method: 'post',
      path: '/files/:fileId/ran',
      right: 'draft',
      scope: fileScope,
      body: ranSchema,
      answers: told.fileView,
      handle: async ({ params, body }) => {
        await sequelize.transaction(async (transaction) => {
          const file = await findFile(params.fileId, transaction)
          const { banner } = file.facts
          if (!banner) throw invalidField('file', 'Only a banner runs.')
          const calls = calledOf(sandbox, { kind: 'file', id: file.id }, body, banner.calls ?? [])
          await file.update({ facts: { ...file.facts, banner: { ...banner, calls } } }, { transaction })
        })
        return fileView(params.fileId)
      }
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/made-creatives',
      right: 'draft',
      scope: advertiserScope,
      body: creativeSchema,
      limit: 256 * 1024,
      answers: told.madeChoice,
      handle: ({ actor, params, body }) => createMade(sequelize, actor, params.advertiserId, body)
    }),
    route({
      method: 'get',
      path: '/made-creatives/:madeId/sandbox',
      right: 'read',
      scope: madeScope,
      answers: told.sandboxView,
      handle: async ({ params }) => {
        const { id, kind } = await findMade(params.madeId)
        if (kind !== 'markup') throw invalidField('creative', 'Only a tag runs; this is seen as it is.')
        return sandbox.open({ kind: 'creative', id }, 'tag.html')
      }
    }),
    route({
      method: 'post',
      path: '/made-creatives/:madeId/ran',
      right: 'draft',
      scope: madeScope,
      body: ranSchema,
      answers: told.tagRun,
      handle: async ({ params, body }) =>
        sequelize.transaction(async (transaction) => {
          const made = await findMade(params.madeId)
          const calls = calledOf(sandbox, { kind: 'creative', id: made.id }, body, made.calls ?? [])
          await made.update({ calls }, { transaction })
          return { calls }
        })
    })
  ]
}
