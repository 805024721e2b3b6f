import { MOST_ID, idField, yup } from '@tin-harbor/core/input'
import { lineSchema, parseInput } from '@tin-harbor/core/buying'
import type { ForecastLine } from '@tin-harbor/core/contract'
import { AppError } from '../http/errors.js'
import type { Deps } from '../deps.js'
import { findCampaign } from '../campaigns/campaigns.js'
import { findLine } from '../lines/lines.js'
import { measureOf, questionAmongMates } from './questions.js'
import { readCampaign, readLine } from './reading.js'
import { personOf } from '../security/sessions.js'
import { givenUp } from '../http/given-up.js'
import { SENT, WHOLE_LINE_BYTES, route, type Route } from '../http/registry.js'

const forecastSchema = yup
  .object({
    /** Names the page that asks; a newer question of it cancels this one. */
    page: yup
      .string()
      .matches(/^[\w-]{4,60}$/, 'The page needs a name.')
      .required('The page needs a name.'),
    number: yup
      .number()
      .integer('The number is a whole one.')
      .min(0, 'The number is at least 0.')
      .max(Number.MAX_SAFE_INTEGER)
      .required('The question needs a number.'),
    campaignId: idField('A forecast is of a line of a campaign.'),
    lineId: yup
      .number()
      .integer('Lines have whole numbers.')
      .min(1, 'Lines begin at 1.')
      .max(MOST_ID, 'There is no such line.')
      .nullable()
      .defined(),
    line: lineSchema.required('Which line?')
  })
  .noUnknown()

/** The advertiser of the campaign that a body names. */
async function scopeOfBody(body: unknown): Promise<number> {
  const campaignId = parseInput(
    idField('A forecast is of a line of a campaign.'),
    (body as { campaignId?: unknown } | null)?.campaignId,
    'campaignId'
  )
  return (await findCampaign(campaignId)).advertiserId
}

export function forecastRoutes(deps: Deps): Route[] {
  const { pool, liveLines, log } = deps
  return [
    route({
      method: 'post',
      path: '/forecast',
      // Nothing is kept of it: who reads a line sees its forecast.
      right: 'read',
      scope: ({ body }) => scopeOfBody(body),
      body: forecastSchema,
      limit: WHOLE_LINE_BYTES,
      /** One answer of many lines: parts as they are ready, each with the number of the question. */
      answers: 'stream',
      handle: async ({ actor, body, res }) => {
        const word = givenUp(res)
        const { number } = body
        const campaign = await findCampaign(body.campaignId)
        const named = body.lineId === null ? null : await findLine(body.lineId)
        const line = named?.campaignId === campaign.id ? named : null
        // Those who ask do not wait for it: until then they are answered by what was in force before.
        void liveLines.current().catch((err: unknown) => log.error({ err }, 'what lines in force take is not known'))
        const reading = await readLine(deps.sequelize, line, await readCampaign(deps.sequelize, campaign))
        const question = await questionAmongMates(deps, body.line, reading)
        const say = (line: ForecastLine) => {
          if (!res.headersSent) res.set({ 'content-type': 'application/x-ndjson', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
          if (!res.writableEnded) res.write(`${JSON.stringify(line)}\n`)
        }
        try {
          await pool.stream(
            { person: personOf(actor), page: `${actor.id}-${body.page}`, word },
            question,
            measureOf(campaign),
            number,
            (part, milliseconds) => say({ number, milliseconds, ...part })
          )
        } catch (error) {
          // Once a part is on its way the answer can only end with a line that says what went wrong.
          if (!res.headersSent) throw error
          say({
            number,
            part: 'error',
            code: error instanceof AppError ? error.code : 'forecast-failed',
            message: error instanceof AppError ? error.message : 'The forecast failed; change something and try again.'
          })
          if (!(error instanceof AppError) || error.cause !== undefined) deps.log.error({ err: error }, 'a forecast failed')
        }
        res.end()
        return SENT
      }
    })
  ]
}
