import * as told from '@tin-harbor/core/contract'
import { MOST_ADS } from '@tin-harbor/core/buying'
import { idField, yup } from '@tin-harbor/core/input'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { takeData } from '../files/library.js'
import { SENT, route, type Params, type Route } from '../http/registry.js'
import { readUpload } from '../http/uploads.js'
import { thenLine } from '../lines/answering.js'
import { advertiserOfLine } from '../lines/lines.js'
import { standingOf } from './ad-standing.js'
import { addFile, addMade, findCreative, madeFor, removeAds } from './creatives.js'

const lineScope = ({ params: { lineId } }: { params: Params }) => advertiserOfLine(lineId)
const creativeScope = async ({ params: { creativeId } }: { params: Params }) => (await findCreative(creativeId)).advertiserId

const someIds = (which: string) =>
  yup.array().of(idField(which)).min(1, which).max(MOST_ADS, `At most ${MOST_ADS} at once.`).required(which)

/** Ads on lines. */
export function adRoutes(deps: Deps): Route[] {
  const { sequelize } = deps
  const thenView = thenLine(sequelize)
  return [
    route({
      method: 'get',
      path: '/lines/:lineId/ads/standing',
      right: 'read',
      scope: lineScope,
      answers: told.adStandings,
      handle: ({ params }) => standingOf(sequelize, params.lineId)
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/creatives',
      right: 'draft',
      scope: lineScope,
      answers: told.lineView,
      handle: thenView(async ({ actor, params, req }) => {
        const { name, data } = await readUpload(req)
        const { file } = await takeData(deps, actor, await advertiserOfLine(params.lineId), { name, data })
        await addFile(sequelize, actor, params.lineId, file.id)
      })
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/files',
      right: 'draft',
      scope: lineScope,
      body: yup.object({ file: idField('Which file?') }).noUnknown(),
      answers: told.lineView,
      handle: thenView(({ actor, params, body }) => addFile(sequelize, actor, params.lineId, body.file))
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/made-creatives',
      right: 'read',
      scope: lineScope,
      answers: told.list(told.madeChoice),
      handle: ({ params }) => madeFor(params.lineId)
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/ads',
      right: 'draft',
      scope: lineScope,
      body: yup.object({ creatives: someIds('Which creatives?') }).noUnknown(),
      answers: told.lineView,
      handle: thenView(({ actor, params, body }) => retrying(() => addMade(sequelize, actor, params.lineId, body.creatives)))
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/ads/removed',
      right: 'draft',
      scope: lineScope,
      body: yup.object({ ads: someIds('Which ads?') }).noUnknown(),
      answers: told.lineView,
      handle: thenView(({ actor, params, body }) => retrying(() => removeAds(sequelize, actor, params.lineId, body.ads)))
    }),
    route({
      method: 'get',
      path: '/creatives/:creativeId/picture',
      right: 'read',
      scope: creativeScope,
      answers: 'file',
      handle: async ({ params, res }) => {
        const { type, sha256 } = await findCreative(params.creativeId)
        res
          .set({
            'content-type': type,
            'cache-control': 'private, max-age=86400',
            etag: `"${sha256}"`,
            'content-security-policy': "default-src 'none'"
          })
          .send(await deps.store.read(sha256))
        return SENT
      }
    })
  ]
}
