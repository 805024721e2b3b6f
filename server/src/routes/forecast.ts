import * as yup from 'yup'
import { lineSchema, parseInput, type ForecastLine } from '@tin-harbor/core/buying'
import { AppError, invalid } from '../errors.js'
import type { Deps } from '../services/deps.js'
import { findCampaign } from '../services/campaigns.js'
import { findLine } from '../services/lines.js'
import { readMarket } from '../services/publications.js'
import { measureOf, questionAmongMates } from '../services/questions.js'
import { SENT, route, type Route } from './registry.js'

const forecastSchema = yup.object({
  /** Names the page that asks; a newer question of it cancels this one. */
  page: yup.string().matches(/^[\w-]{4,60}$/, 'The page needs a name.').required('The page needs a name.'),
  number: yup.number().integer().min(0).required('The question needs a number.'),
  campaignId: yup.number().integer().min(1).required('A forecast is of a line of a campaign.'),
  lineId: yup.number().integer().min(1).nullable().defined(),
  line: lineSchema
}).noUnknown()

const scopeSchema = yup.object({ campaignId: forecastSchema.fields.campaignId as yup.NumberSchema<number> })

/** The advertiser of the campaign that a body names. */
async function scopeOfBody(body: unknown): Promise<number> {
  const campaignId = (body as { campaignId?: unknown } | null)?.campaignId
  if (!Number.isInteger(campaignId)) {
    parseInput(scopeSchema, body ?? {})
    throw invalid([{ field: 'campaignId', message: 'A forecast is of a line of a campaign.' }])
  }
  return (await findCampaign(campaignId as number)).advertiserId
}

export function forecastRoutes(deps: Deps): Route[] {
  const { pool } = deps
  return [
    route({
      method: 'post', path: '/forecast', right: 'draft', scope: (_, body) => scopeOfBody(body), body: forecastSchema,
      /** One answer of many lines: parts as they are ready, each with the number of the question. */
      handle: async ({ actor, body, res }) => {
        const { number } = body
        const campaign = await findCampaign(body.campaignId)
        const lineId = body.lineId !== null && (await findLine(body.lineId)).campaignId === campaign.id ? body.lineId : null
        const question = await questionAmongMates(deps, body.line, campaign, lineId, (await readMarket()).hour)
        const say = (line: ForecastLine) => {
          if (!res.headersSent) res.set({ 'content-type': 'application/x-ndjson', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
          if (!res.writableEnded) res.write(`${JSON.stringify(line)}\n`)
        }
        try {
          await pool.stream(`${actor.id}-${body.page}`, question, measureOf(campaign), number, (part, milliseconds) => say({ number, milliseconds, ...part }), (word) => res.on('close', () => word.set()))
        } catch (error) {
          // Once a part is on its way the answer can only end with a line that says what went wrong.
          if (!res.headersSent) throw error
          say({ number, part: 'error', code: error instanceof AppError ? error.code : 'forecast-failed', message: error instanceof Error ? error.message : String(error) })
        }
        res.end()
        return SENT
      }
    })
  ]
}
