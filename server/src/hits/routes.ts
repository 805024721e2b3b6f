import * as told from '@tin-harbor/core/contract'
import { Ad } from '../creatives/creative-model.js'
import type { Deps } from '../deps.js'
import { route, type Params, type Route } from '../http/registry.js'
import { advertiserOfLine } from '../lines/lines.js'
import { toldLast } from '../advertisers/tracker-log.js'
import { Hit } from './hit-model.js'

const MOST_TOLD = 100
const lineScope = ({ params: { lineId } }: { params: Params }) => advertiserOfLine(lineId)

/** What players told of previews of a line's ads. */
export function hitRoutes({ hits }: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/lines/:lineId/hits',
      right: 'read',
      scope: lineScope,
      answers: told.list(told.hitView),
      handle: async ({ params }) => {
        await hits.take()
        const ads = await Ad.findAll({ attributes: ['id'], where: { lineId: params.lineId } })
        const rows = await Hit.findAll({ where: { adId: ads.map(({ id }) => id) }, order: [['id', 'DESC']], limit: MOST_TOLD })
        return rows.map(({ adId, event, toldAt, subject, counts }) => ({ ad: adId ?? 0, event, toldAt, showing: subject, counts }))
      }
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/told',
      right: 'read',
      scope: lineScope,
      answers: told.list(told.toldView),
      handle: async ({ params }) => {
        await hits.take()
        const ads = await Ad.findAll({ attributes: ['id'], where: { lineId: params.lineId } })
        return toldLast({ ads: ads.map(({ id }) => id) })
      }
    })
  ]
}
