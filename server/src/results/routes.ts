import * as told from '@tin-harbor/core/contract'
import { idField as idOf, yup } from '@tin-harbor/core/input'
import { isDate, sentenceSchema } from '@tin-harbor/core/buying'
import { SOUGHT } from '@tin-harbor/core/exchange'
import { csvOf, fileName } from '@tin-harbor/core/files'
import { reportFile } from '@tin-harbor/core/report'
import { REPORT_DIMENSION_NAMES } from '@tin-harbor/core/dimensions'
import type { Deps } from '../deps.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { campaignScope } from '../campaigns/routes.js'
import { forecastRecord } from '../forecasts/record.js'
import { shopVisitsOf } from '../advertisers/shop-visits.js'
import { advertiserOfLine } from '../lines/lines.js'
import { reportOf } from './reports.js'
import { opportunityAt, traceOf } from './trace.js'
import { givenUp } from '../http/given-up.js'
import { SENT, WHOLE_LINE_BYTES, route, type Route } from '../http/registry.js'

const dateField = (name: string) =>
  yup
    .string()
    .required(`${name} is needed.`)
    .test('date', `${name} must be a date such as 2026-03-02.`, (text) => text === undefined || isDate(text))
const hourField = (name: string) =>
  yup
    .number()
    .integer(`${name} is a whole market hour.`)
    .min(0, `${name} is at least 0.`)
    .max(1e6, `${name} is further than the market goes.`)
const idField = idOf('Which one?').optional() as yup.NumberSchema<number | undefined>

const reportSchema = yup
  .object({
    by: yup.string().oneOf(REPORT_DIMENSION_NAMES, 'Not something results can be told apart by.').required('By what?'),
    from: dateField('The first day'),
    to: dateField('The last day').test('order', 'The last day is before the first.', function (to) {
      return (this.parent as { from?: string }).from === undefined || to >= (this.parent as { from: string }).from
    }),
    windowHours: yup
      .number()
      .integer('A window has whole hours.')
      .min(1, 'A window has at least an hour.')
      .max(30 * 24, 'A window has at most 30 days.')
      .default(30 * 24),
    campaign: idField,
    line: idField
  })
  .noUnknown()

const boughtSchema = yup
  .object({
    by: yup.string().oneOf(REPORT_DIMENSION_NAMES, 'Not something results can be told apart by.').required('By what?'),
    from: dateField('The first day'),
    to: dateField('The last day'),
    sentence: sentenceSchema.required('Of what?')
  })
  .noUnknown()
const recordSchema = yup.object({ campaign: idField, line: idField }).noUnknown()
const shopsSchema = yup.object({ from: dateField('The first day'), to: dateField('The last day'), line: idField }).noUnknown()
const traceSchema = yup.object({ from: hourField('The first hour').optional(), to: hourField('The last hour').optional() }).noUnknown()
const opportunitySchema = yup
  .object({
    hour: hourField('The hour').required('Which hour?'),
    nth: yup
      .number()
      .integer('The number is a whole one.')
      .min(0, 'Opportunities are numbered from 0.')
      .max(1e7, 'No hour has so many.')
      .default(0),
    line: idField,
    sought: yup
      .string()
      .oneOf(SOUGHT, 'Not something that becomes of an opportunity.')
      .optional()
      .test('line', 'Of which line?', function (sought) {
        return sought === undefined || (this.parent as { line?: number }).line !== undefined
      }),
    after: yup
      .number()
      .integer('The number is a whole one.')
      .min(-1, 'Opportunities are numbered from 0.')
      .max(1e7, 'No hour has so many.')
      .default(-1)
  })
  .noUnknown()

/** A line or a campaign that the address names; without one rows and verdicts are of all that the user sees. */
async function namedScope({ query: { line, campaign } }: { query: Readonly<Record<string, unknown>> }): Promise<number | null> {
  const number = (text: unknown) => (typeof text === 'string' && /^[1-9]\d{0,8}$/.test(text) ? Number(text) : null)
  const [lineId, campaignId] = [number(line), number(campaign)]
  if (lineId !== null) return advertiserOfLine(lineId)
  return campaignId === null ? null : (await findCampaign(campaignId)).advertiserId
}

export function reportRoutes(deps: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/reports',
      right: 'read',
      scope: namedScope,
      query: reportSchema,
      answers: told.reportView,
      handle: ({ actor, query, res }) =>
        reportOf(deps, actor, { ...query, campaign: query.campaign ?? null, line: query.line ?? null }, { word: givenUp(res) })
    }),
    route({
      method: 'get',
      path: '/reports/csv',
      right: 'read',
      scope: namedScope,
      query: reportSchema,
      answers: 'file',
      handle: async ({ actor, query, res }) => {
        const asked = { ...query, campaign: query.campaign ?? null, line: query.line ?? null }
        const table = reportFile(await reportOf(deps, actor, asked, { word: givenUp(res) }), query.from, query.to)
        res.type('text/csv').attachment(fileName(table.name, 'csv')).send(csvOf(table))
        return SENT
      }
    }),
    route({
      // What the user's lines had of the traffic that a sentence is of: it is asked with a body, since a sentence may be long.
      method: 'post',
      path: '/market/bought',
      right: 'read',
      scope: 'seen',
      body: boughtSchema,
      limit: WHOLE_LINE_BYTES,
      answers: told.reportView,
      handle: ({ actor, body: { sentence, ...asked }, res }) =>
        reportOf(deps, actor, { ...asked, windowHours: 30 * 24, campaign: null, line: null }, { within: sentence, word: givenUp(res) })
    }),
    route({
      method: 'get',
      path: '/forecast-record',
      right: 'read',
      scope: namedScope,
      query: recordSchema,
      answers: told.forecastRecordView,
      handle: ({ actor, query }) => forecastRecord(deps.sequelize, actor, { campaign: query.campaign ?? null, line: query.line ?? null })
    }),
    route({
      method: 'get',
      path: '/campaigns/:campaignId/shop-visits',
      right: 'read',
      scope: campaignScope,
      query: shopsSchema,
      answers: told.shape({ visits: told.maybe(told.shopVisitsView) }),
      handle: async ({ actor, params, query }) => ({
        visits: await shopVisitsOf(deps, actor, await findCampaign(params.campaignId), { ...query, line: query.line ?? null })
      })
    }),
    route({
      method: 'get',
      path: '/lines/:lineId/trace',
      right: 'read',
      scope: ({ params: { lineId } }) => advertiserOfLine(lineId),
      query: traceSchema,
      answers: told.traceView,
      handle: ({ actor, params, query }) => traceOf(deps, actor, params.lineId, query.from ?? null, query.to ?? null)
    }),
    route({
      // Verdicts are of the lines that the user may see.
      method: 'get',
      path: '/opportunity',
      right: 'read',
      scope: namedScope,
      query: opportunitySchema,
      answers: told.opportunityTrace,
      handle: ({ actor, query: { hour, nth, line, sought, after } }) =>
        opportunityAt(deps, actor, hour, line !== undefined && sought !== undefined ? { line, sought, after } : { nth })
    })
  ]
}
