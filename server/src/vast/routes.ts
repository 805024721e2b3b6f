import * as told from '@tin-harbor/core/contract'
import { linesOfText, yup } from '@tin-harbor/core/input'
import type { Response } from 'express'
import type { Deps } from '../deps.js'
import { SENT, route, type Params, type Route } from '../http/registry.js'
import { advertiserOfLine } from '../lines/lines.js'
import { lineShown } from '../previews/links.js'
import { linkField } from '../previews/routes.js'
import { readVast } from './read.js'
import { originOf } from '../http/origin.js'
import { vastOfAd } from './write.js'

const TAG_BYTES = 600 * 1024
const lineScope = ({ params: { lineId } }: { params: Params }) => advertiserOfLine(lineId)

function sendVast(res: Response, xml: string, adId: number): typeof SENT {
  res
    .set({
      'content-type': 'application/xml; charset=utf-8',
      'content-disposition': `inline; filename="tin-harbor-${adId}.xml"`,
      'content-security-policy': "default-src 'none'; sandbox",
      'x-content-type-options': 'nosniff'
    })
    .send(xml)
  return SENT
}

/** VAST in and out: what a tag of somebody else leads to, and hosted films and spots for other players. */
export function vastRoutes({ hits }: Deps): Route[] {
  return [
    route({
      method: 'post',
      path: '/vast/read',
      right: 'draft',
      scope: 'market',
      body: yup
        .object({
          tag: linesOfText(512 * 1024, 'A tag has at most 512 kB.').required('Which tag?')
        })
        .noUnknown(),
      limit: TAG_BYTES,
      answers: told.vastRead,
      handle: ({ body }) => {
        const tag = body.tag.trim()
        return readVast(tag.startsWith('<') ? { xml: tag } : { address: tag })
      }
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/ads/:adId/vast',
      right: 'read',
      scope: lineScope,
      answers: 'file',
      handle: async ({ params: { lineId, adId }, req, res }) => {
        const origin = originOf(req)
        return sendVast(
          res,
          await vastOfAd(hits, { lineId, adId, origin }, (sha256) => `${origin}/api/lines/${lineId}/content?sha256=${sha256}`),
          adId
        )
      }
    }),
    route({
      method: 'get',
      path: '/shown/vast',
      right: 'public',
      scope: 'market',
      query: yup.object({ link: linkField, ad: yup.number().integer().min(1).required('Which ad?') }).noUnknown(),
      answers: 'file',
      handle: async ({ query: { link, ad }, req, res }) => {
        const origin = originOf(req)
        const contentOf = (sha256: string) => `${origin}/api/shown/content?link=${link}&sha256=${sha256}`
        return sendVast(res, await vastOfAd(hits, { lineId: await lineShown(link), adId: ad, origin }, contentOf), ad)
      }
    })
  ]
}
