import * as told from '@tin-harbor/core/contract'
import { idField, yup } from '@tin-harbor/core/input'
import { LIMITS, LINE_STATES, isDate, lineSchema, nameField } from '@tin-harbor/core/buying'
import { WHOLE_LINE_BYTES, route, type Params, type Route } from '../http/registry.js'
import { retrying } from '../database/connection.js'
import { tokenField, versionField } from '../http/fields.js'
import type { Deps } from '../deps.js'
import { thenLine, viewLine } from './answering.js'
import { advertiserOfLine, deleteDraft, findLine, saveLine } from './lines.js'
import { readCampaign, readLine } from '../forecasts/reading.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { forecastOf, livePlan } from '../going-live/live-plan.js'
import { invalidField, notReady } from '../http/errors.js'
import { linesPage } from './lines-page.js'
import { changeAtPlacements, moveLine } from '../going-live/moving-lines.js'
import { putLive } from '../going-live/putting-live.js'
import { historyOf } from '../team/audit.js'
import { copyLine, labelLine, moveToCampaign } from './line-work.js'
import { findingsOf } from '../going-live/preflight.js'
import { Presence } from './presence.js'
import { todayOf } from '../results/today.js'
import { resultsOf } from '../results/results.js'

const lineScope = ({ params: { lineId } }: { params: Params }) => advertiserOfLine(lineId)

const liveSchema = yup.object({ version: versionField, token: tokenField }).noUnknown()

const moveSchema = yup
  .object({
    move: yup
      .string()
      .oneOf(['release', 'pause', 'resume', 'end'] as const, 'A line is released, paused, resumed or ended.')
      .required('Say what to do with the line.')
  })
  .noUnknown()

const chosenPlacements = () =>
  yup
    .array()
    .of(yup.string().max(140, 'No placement is called that.').required())
    .min(1, 'Choose a placement first.')
    .max(1000, 'At most 1,000 placements at once.')
    .required()
const leaveOutSchema = yup.object({ placements: chosenPlacements(), out: yup.boolean().required() }).noUnknown()
const ownPriceSchema = yup
  .object({
    placements: chosenPlacements(),
    ownMicros: yup
      .number()
      .integer('A price must be whole micros.')
      .min(0, 'A price is at least 0.')
      .max(LIMITS.mostCpmMicros, 'The price is over the most we take.')
      .nullable()
      .defined()
  })
  .noUnknown()

const labelSchema = yup
  .object({
    tags: yup
      .array()
      .of(yup.string().trim().min(1, 'A tag needs a letter.').max(40, 'A tag has at most 40 letters.').required())
      .max(20, 'At most 20 tags.')
      .optional(),
    template: yup.boolean().optional()
  })
  .noUnknown()

const dateField = (name: string) =>
  yup.string().test('date', `${name} must be a date such as 2026-03-02.`, (text) => text === undefined || isDate(text))
const periodSchema = yup.object({ from: dateField('The first day'), to: dateField('The last day') }).noUnknown()

const linesSchema = yup
  .object({
    campaign: idField('Which campaign?').optional() as yup.NumberSchema<number | undefined>,
    tag: yup.string().max(40, 'A tag has at most 40 letters.'),
    state: yup.string().oneOf(LINE_STATES, 'Not a state of a line.'),
    after: yup.string().max(40, 'This is no mark of a page.'),
    limit: yup.number().integer('A whole number.').min(1, 'At least one.').max(500, 'At most 500 at once.')
  })
  .noUnknown()

/** A campaign that the address names; without one lines are those that the user sees. */
async function namedCampaign({ query: { campaign } }: { query: Readonly<Record<string, unknown>> }): Promise<number | null> {
  return typeof campaign === 'string' && /^[1-9]\d{0,8}$/.test(campaign) ? (await findCampaign(Number(campaign))).advertiserId : null
}

export function lineRoutes(deps: Deps): Route[] {
  const { sequelize, catalogue } = deps
  const presence = new Presence()
  const view = (id: number) => viewLine(sequelize, id)
  const thenView = thenLine(sequelize)
  return [
    route({
      method: 'get',
      path: '/lines',
      right: 'read',
      scope: namedCampaign,
      query: linesSchema,
      answers: told.linesPage,
      handle: ({ actor, query }) => linesPage(sequelize, actor, query)
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/forecast',
      right: 'read',
      scope: lineScope,
      answers: told.lineForecast,
      handle: async ({ actor, params }) => {
        const line = await findLine(params.lineId)
        const reading = await readLine(sequelize, line, await readCampaign(sequelize, await findCampaign(line.campaignId)))
        const figures = await forecastOf(deps, actor, line.draft, reading)
        if (!figures)
          throw deps.pool.isReady
            ? invalidField('price.bidMicros', 'A bid is needed.')
            : notReady('The tape is being made; try again in a moment.')
        return { line: line.id, version: line.version, figures }
      }
    }),
    route({
      method: 'get',
      path: '/lines/:lineId',
      right: 'read',
      scope: lineScope,
      answers: told.lineView,
      handle: ({ params }) => view(params.lineId)
    }),
    route({
      method: 'put',
      path: '/lines/:lineId',
      right: 'draft',
      scope: lineScope,
      body: yup.object({ version: versionField, line: lineSchema.required('What is the line?') }).noUnknown(),
      limit: WHOLE_LINE_BYTES,
      answers: told.lineView,
      handle: thenView(({ actor, params, body }) => retrying(() => saveLine(sequelize, actor, params.lineId, body.version, body.line)))
    }),
    route({
      method: 'delete',
      path: '/lines/:lineId',
      right: 'draft',
      scope: lineScope,
      answers: told.NOTHING,
      handle: ({ actor, params }) => deleteDraft(sequelize, actor, params.lineId)
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/history',
      right: 'read',
      scope: lineScope,
      answers: told.shape({ entries: told.list(told.historyEntry) }),
      handle: async ({ params }) => ({ entries: await historyOf(params.lineId) })
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/here',
      right: 'read',
      scope: lineScope,
      answers: told.shape({ others: told.list(told.text()), version: told.number() }),
      handle: async ({ actor, params }) => ({
        others: presence.look(params.lineId, actor, Date.now()),
        version: (await findLine(params.lineId)).version
      })
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/preflight',
      right: 'draft',
      scope: lineScope,
      body: yup.object({ line: lineSchema.required('What is the line?') }).noUnknown(),
      limit: WHOLE_LINE_BYTES,
      answers: told.preflightAnswer,
      handle: async ({ params, body }) => {
        const line = await findLine(params.lineId)
        const around = await readCampaign(sequelize, await findCampaign(line.campaignId))
        return { findings: await findingsOf(deps, body.line, await readLine(sequelize, line, around)) }
      }
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/copy',
      right: 'draft',
      scope: lineScope,
      body: yup.object({ name: nameField, campaignId: idField('Into which campaign?').nullable() }).noUnknown(),
      answers: told.lineView,
      handle: async ({ actor, params, body }) => view(await copyLine(sequelize, actor, params.lineId, body.name, body.campaignId))
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/campaign',
      right: 'draft',
      scope: lineScope,
      body: yup.object({ campaignId: idField('Which campaign?') }).noUnknown(),
      answers: told.lineView,
      handle: thenView(({ actor, params, body }) => moveToCampaign(sequelize, actor, params.lineId, body.campaignId))
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/label',
      right: 'draft',
      scope: lineScope,
      body: labelSchema,
      answers: told.lineView,
      handle: thenView(({ actor, params, body }) => labelLine(sequelize, actor, params.lineId, body))
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/live-plan',
      right: 'read',
      scope: lineScope,
      answers: told.livePlan,
      handle: ({ actor, params }) => livePlan(deps, actor, params.lineId)
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/live',
      right: 'live',
      scope: lineScope,
      body: liveSchema,
      answers: told.liveAnswer,
      handle: ({ actor, params, body }) => putLive(deps, actor, params.lineId, body.version, body.token)
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/move',
      right: 'live',
      scope: lineScope,
      body: moveSchema,
      answers: told.lineView,
      handle: thenView(({ actor, params, body }) => retrying(() => moveLine(deps, actor, params.lineId, body.move)))
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/left-out',
      right: 'live',
      scope: lineScope,
      body: leaveOutSchema,
      limit: WHOLE_LINE_BYTES,
      answers: told.lineView,
      handle: thenView(({ actor, params, body: { placements, out } }) =>
        retrying(() => changeAtPlacements(deps, actor, params.lineId, placements, { out }))
      )
    }),
    route({
      method: 'post',
      path: '/lines/:lineId/own-price',
      right: 'live',
      scope: lineScope,
      body: ownPriceSchema,
      limit: WHOLE_LINE_BYTES,
      answers: told.lineView,
      handle: thenView(({ actor, params, body: { placements, ownMicros } }) =>
        retrying(() => changeAtPlacements(deps, actor, params.lineId, placements, { ownMicros }))
      )
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/today',
      right: 'read',
      scope: lineScope,
      answers: told.shape({ today: told.maybe(told.todayView) }),
      handle: async ({ params }) => ({ today: await todayOf(sequelize, { line: params.lineId }) })
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/results',
      right: 'read',
      scope: lineScope,
      query: periodSchema,
      answers: told.results,
      handle: ({ params, query }) => resultsOf(sequelize, catalogue, params.lineId, query.from ?? null, query.to ?? null)
    })
  ]
}
