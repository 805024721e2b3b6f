import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import type { Deps } from '../deps.js'
import { sendContent } from '../files/serving.js'
import { SENT, route, type Params, type Route } from '../http/registry.js'
import { advertiserOfLine } from '../lines/lines.js'
import { findLink, lineShown, linksOf, makeLink, revokeLink } from './links.js'
import { fileShown, previewOf } from './preview.js'

const DAYS = 'A link opens for 1 to 90 days.'
const lineScope = ({ params: { lineId } }: { params: Params }) => advertiserOfLine(lineId)
const linkScope = async ({ params: { linkId } }: { params: Params }) => advertiserOfLine((await findLink(linkId)).lineId)
export const linkField = yup
  .string()
  .matches(/^[\w-]{20,80}$/, 'Not a link of ours.')
  .required('Which link?')
const content = {
  sha256: yup
    .string()
    .matches(/^[0-9a-f]{64}$/, 'A content is named by its hash.')
    .required('Which content?'),
  playable: yup.string().oneOf(['yes']).optional()
}

/** Ads where they will stand, for those who are signed in and for clients who have a link. */
export function previewRoutes(deps: Deps): Route[] {
  const { sequelize, store } = deps
  return [
    route({
      method: 'get',
      path: '/lines/:lineId/preview',
      right: 'read',
      scope: lineScope,
      answers: told.linePreview,
      handle: ({ params }) => previewOf(params.lineId, deps)
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/content',
      right: 'read',
      scope: lineScope,
      query: yup.object(content).noUnknown(),
      answers: 'file',
      handle: async ({ params, query, res }) => {
        await sendContent(res, store, await fileShown(params.lineId, query.sha256), query.playable === 'yes')
        return SENT
      }
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/preview-links',
      right: 'read',
      scope: lineScope,
      answers: told.list(told.previewLinkView),
      handle: ({ params }) => linksOf(params.lineId)
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/preview-links',
      right: 'draft',
      tellsSecret: true,
      scope: lineScope,
      body: yup.object({ days: yup.number().integer(DAYS).min(1, DAYS).max(90, DAYS).required(DAYS) }).noUnknown(),
      answers: told.previewLinkMade,
      handle: ({ actor, params, body }) => makeLink(sequelize, actor, params.lineId, body.days)
    }),
    route({
      method: 'delete',
      path: '/preview-links/:linkId',
      right: 'draft',
      scope: linkScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => revokeLink(sequelize, actor, params.linkId)
    }),
    route({
      method: 'get',
      path: '/shown',
      right: 'public',
      scope: 'market',
      query: yup.object({ link: linkField }).noUnknown(),
      answers: told.linePreview,
      handle: async ({ query }) => previewOf(await lineShown(query.link), deps)
    }),
    route({
      method: 'get',
      path: '/shown/content',
      right: 'public',
      scope: 'market',
      query: yup.object({ link: linkField, ...content }).noUnknown(),
      answers: 'file',
      handle: async ({ query, res }) => {
        await sendContent(res, store, await fileShown(await lineShown(query.link), query.sha256), query.playable === 'yes')
        return SENT
      }
    })
  ]
}
