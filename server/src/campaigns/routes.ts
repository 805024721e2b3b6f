import * as told from '@tin-harbor/core/contract'
import { idField, yup } from '@tin-harbor/core/input'
import { LIMITS, campaignSchema, lineSchema } from '@tin-harbor/core/buying'
import { campaignPace, campaignView, createCampaign, findCampaign, manifest, saveCampaign } from './campaigns.js'
import { companyView } from './company.js'
import { createLine, lineView, saveDailyBudgets } from '../lines/lines.js'
import { todayOf } from '../results/today.js'
import { readMarket } from '../going-live/publications.js'
import { retrying } from '../database/connection.js'
import { Advertiser } from '../advertisers/advertiser-model.js'
import { unknownObject } from '../http/errors.js'
import { versionField } from '../http/fields.js'
import type { Deps } from '../deps.js'
import { WHOLE_LINE_BYTES, route, type Params, type Route } from '../http/registry.js'

const budgetsSchema = yup
  .object({
    parts: yup
      .array()
      .of(
        yup
          .object({
            line: idField('Of which line?'),
            version: versionField,
            dailyMicros: yup
              .number()
              .integer('A daily budget has whole micros.')
              .moreThan(0, 'A daily budget must be more than 0.')
              .max(LIMITS.mostBudgetMicros, 'That is over the most we take.')
              .required('How much a day?')
          })
          .noUnknown()
          .required()
      )
      .min(1, 'Of which lines?')
      .max(100, 'At most 100 lines at once.')
      .required()
      .test('once', 'Each line once.', (parts) => new Set(parts.map(({ line }) => line)).size === parts.length)
  })
  .noUnknown()

export async function advertiserScope({ params: { advertiserId } }: { params: Params }): Promise<number> {
  if (!(await Advertiser.findByPk(advertiserId))) throw unknownObject('advertiser')
  return advertiserId
}

export const campaignScope = async ({ params: { campaignId } }: { params: Params }) => (await findCampaign(campaignId)).advertiserId

export function campaignRoutes(deps: Deps): Route[] {
  const { sequelize } = deps
  return [
    route({
      method: 'get',
      path: '/manifest',
      right: 'read',
      scope: 'seen',
      answers: told.manifestView,
      handle: async ({ actor }) => {
        // Whoever asks is told what is known, and again when more is.
        void deps.possible.current().catch((err: unknown) => deps.log.error({ err }, 'what lines get of the possible is not known'))
        return manifest(deps, actor, (await readMarket()).hour)
      }
    }),
    route({
      method: 'post',
      path: '/advertisers/:advertiserId/campaigns',
      right: 'draft',
      scope: advertiserScope,
      body: campaignSchema,
      answers: told.campaignView,
      handle: ({ actor, params, body }) => createCampaign(sequelize, actor, params.advertiserId, body)
    }),
    route({
      method: 'get',
      path: '/campaigns/:campaignId',
      right: 'read',
      scope: campaignScope,
      answers: told.shape({ campaign: told.campaignView, pace: told.pace }),
      handle: async ({ params }) => {
        const campaign = await findCampaign(params.campaignId)
        return { campaign: campaignView(campaign), pace: await campaignPace(sequelize, campaign, (await readMarket()).hour) }
      }
    }),
    route({
      method: 'get',
      path: '/campaigns/:campaignId/company',
      right: 'draft',
      scope: campaignScope,
      answers: told.shape({ company: told.maybe(told.companyView) }),
      handle: async ({ actor, params }) => {
        const campaign = await findCampaign(params.campaignId)
        return { company: await companyView(deps, actor, campaign) }
      }
    }),
    route({
      method: 'put',
      path: '/campaigns/:campaignId/daily-budgets',
      right: 'draft',
      scope: campaignScope,
      body: budgetsSchema,
      answers: told.NOTHING,
      handle: async ({ actor, params, body }) => {
        const campaign = await findCampaign(params.campaignId)
        await retrying(() => saveDailyBudgets(sequelize, actor, campaign, body.parts))
      }
    }),
    route({
      method: 'get',
      path: '/campaigns/:campaignId/today',
      right: 'read',
      scope: campaignScope,
      answers: told.shape({ today: told.maybe(told.todayView) }),
      handle: async ({ params }) => ({ today: await todayOf(sequelize, { campaign: params.campaignId }) })
    }),
    route({
      method: 'put',
      path: '/campaigns/:campaignId',
      right: 'draft',
      scope: campaignScope,
      body: yup.object({ version: versionField, campaign: campaignSchema.required('What is the campaign?') }).noUnknown(),
      answers: told.campaignView,
      handle: ({ actor, params, body }) => retrying(() => saveCampaign(sequelize, actor, params.campaignId, body.version, body.campaign))
    }),
    route({
      method: 'post',
      path: '/campaigns/:campaignId/lines',
      right: 'draft',
      scope: campaignScope,
      body: lineSchema,
      limit: WHOLE_LINE_BYTES,
      answers: told.lineView,
      handle: async ({ actor, params, body }) => {
        const id = await createLine(sequelize, actor, await findCampaign(params.campaignId), body)
        return lineView(sequelize, id, (await readMarket()).hour)
      }
    })
  ]
}
