import { tailField } from '@tin-harbor/core/buying'
import * as told from '@tin-harbor/core/contract'
import { exampleLink } from '@tin-harbor/core/creative'
import { idField, yup } from '@tin-harbor/core/input'
import { findCampaign, saveTail } from '../campaigns/campaigns.js'
import { advertiserScope, campaignScope } from '../campaigns/routes.js'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { lookAt } from '../fetching/page.js'
import { versionField } from '../http/fields.js'
import { route, type Route } from '../http/registry.js'
import { changeLinks, linkChanges } from './changing.js'

/** Where people land: links of many lines, what is added to them, and whether they answer. */
export function linkRoutes({ sequelize }: Deps): Route[] {
  return [
    route({
      method: 'post',
      path: '/campaigns/:campaignId/links',
      right: 'draft',
      scope: campaignScope,
      body: yup
        .object({
          find: yup.string().required('What is looked for in the links?').max(1000, 'At most 1,000 letters.'),
          replace: yup.string().max(1000, 'At most 1,000 letters.').defined(),
          /** Lines to change; null tells what would change. */
          lines: yup
            .array()
            .of(
              yup
                .object({ line: idField('Which line?'), version: versionField })
                .noUnknown()
                .required()
            )
            .max(500, 'At most 500 lines at once.')
            .nullable()
            .defined()
        })
        .noUnknown(),
      answers: told.list(told.linkChange),
      handle: async ({ actor, params, body }) => {
        const { lines } = body
        const changes = await linkChanges(params.campaignId, body)
        if (lines !== null) await retrying(async () => changeLinks(sequelize, actor, await findCampaign(params.campaignId), body, lines))
        return changes
      }
    }),
    route({
      method: 'put',
      path: '/advertisers/:advertiserId/tail',
      right: 'draft',
      scope: advertiserScope,
      body: yup.object({ version: versionField, linkTail: tailField().defined() }).noUnknown(),
      answers: told.advertiserView,
      handle: ({ actor, params, body }) => saveTail(sequelize, actor, params.advertiserId, body)
    }),
    route({
      method: 'post',
      path: '/links/looked',
      right: 'read',
      scope: 'market',
      body: yup.object({ link: yup.string().required('Which link?').max(5000, 'A link has at most 5,000 letters.') }).noUnknown(),
      answers: told.linkLooked,
      handle: ({ body }) => lookAt(exampleLink(body.link.trim()))
    })
  ]
}
