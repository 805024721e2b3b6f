import * as told from '@tin-harbor/core/contract'
import { MOST_ID, yup } from '@tin-harbor/core/input'
import { LIMITS, sentenceSchema } from '@tin-harbor/core/buying'
import { SURVEY_BY } from '@tin-harbor/core/forecast'
import { DIMENSIONS } from '@tin-harbor/core/dimensions'
import { invalidField, notAllowed } from '../http/errors.js'
import type { MarketState } from '../exchange/market-model.js'
import { sessionToken } from '../security/cookies.js'
import { actorOf, sessionName, type Actor } from '../security/sessions.js'
import { fundsOf, fundsView } from '../money/funds.js'
import { listOffers } from '../advertisers/offers.js'
import { propertyOf } from './properties.js'
import { surveyOf } from './survey.js'
import type { Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'
import { givenUp } from '../http/given-up.js'
import { SENT, WHOLE_LINE_BYTES, route, type Route } from '../http/registry.js'

const surveySchema = yup
  .object({
    page: yup
      .string()
      .matches(/^[\w-]{4,60}$/, 'The page needs a name.')
      .required('The page needs a name.'),
    sentence: sentenceSchema.required('What traffic?'),
    by: yup
      .array()
      .of(yup.string().oneOf(SURVEY_BY, 'Not something the market can be told apart by.').required())
      .max(4, 'By at most four at once.')
      .required(),
    compare: yup
      .array()
      .of(
        yup.number().integer('Rows have whole numbers.').min(-1, 'There is no such row.').max(MOST_ID, 'There is no such row.').required()
      )
      .max(8, 'At most eight are compared.')
      .optional(),
    without: yup
      .string()
      .oneOf([...DIMENSIONS, 'format', 'hours'] as const, 'Not a phrase of a sentence.')
      .nullable()
      .defined(),
    offer: yup
      .number()
      .integer('There is no such offer.')
      .min(1, 'There is no such offer.')
      .max(MOST_ID, 'There is no such offer.')
      .nullable()
      .optional(),
    bidMicros: yup
      .number()
      .integer('A bid must be whole micros.')
      .min(0, 'A bid is at least 0.')
      .max(LIMITS.mostCpmMicros, 'The bid is over the most we take.')
      .required()
  })
  .noUnknown()

const propertySchema = yup
  .object({
    property: yup.string().max(100, 'There is no such property.').required('Which property?')
  })
  .noUnknown()

const MOST_HOURS = 24 * 366
const runSchema = yup
  .object({
    hours: yup
      .number()
      .integer('A run takes whole hours.')
      .min(1, 'A run takes at least an hour.')
      .max(MOST_HOURS, 'A run takes at most a year.'),
    /** Market hour to run to, in place of how many. */
    to: yup
      .number()
      .integer('A moment is a whole market hour.')
      .min(0, 'The clock begins at 0.')
      .max(1e6, 'That is further than the market goes.'),
    /** Seconds an hour takes when the market is played; left out for as fast as it can. */
    secondsAnHour: yup.number().min(0.2, 'An hour takes at least 0.2 s.').max(60, 'An hour takes at most 60 s.')
  })
  .noUnknown()
  .test('one', '', function ({ hours, to }) {
    return (
      (hours === undefined) !== (to === undefined) ||
      this.createError({
        path: 'hours',
        message: hours === undefined ? 'How many hours, or to which?' : 'Either so many hours or to a moment.'
      })
    )
  })

/** The market as its clock stands, for those for whom it buys. */
async function marketOf(actor: Actor): Promise<MarketState> {
  const market = await readMarket()
  if (market.organisationId !== null && market.organisationId !== actor.organisationId)
    throw notAllowed('The market buys for another organisation: its clock is theirs.')
  return market
}

export function marketRoutes(deps: Deps): Route[] {
  const { sequelize, runner, tapes, events, configuration } = deps
  return [
    route({
      method: 'get',
      path: '/market',
      right: 'read',
      scope: 'seen',
      answers: told.marketView,
      handle: async ({ actor }) => ({
        hour: (await readMarket()).hour,
        funds: fundsView(await fundsOf(sequelize, actor.organisationId)),
        run: runner.statusFor(actor),
        tape: tapes.current ? { firstDay: tapes.current.head.firstDay } : null
      })
    }),
    route({
      method: 'post',
      path: '/market/survey',
      right: 'read',
      scope: 'market',
      body: surveySchema,
      limit: WHOLE_LINE_BYTES,
      answers: told.surveyView,
      handle: ({ actor, body: { page, ...question }, res }) => surveyOf(deps, actor, page, question, givenUp(res))
    }),
    route({
      method: 'get',
      path: '/offers',
      right: 'read',
      scope: 'seen',
      answers: told.shape({ offers: told.list(told.offerView) }),
      handle: async ({ actor }) => ({ offers: await listOffers(actor) })
    }),
    route({
      method: 'get',
      path: '/market/property',
      right: 'read',
      scope: 'market',
      query: propertySchema,
      answers: told.propertyView,
      handle: ({ query }) => propertyOf(deps, query.property)
    }),
    route({
      method: 'post',
      path: '/market/run',
      right: 'clock',
      scope: 'market',
      body: runSchema,
      answers: told.NOTHING,
      handle: async ({ actor, body }) => {
        const { hour } = await marketOf(actor)
        const target = body.to ?? hour + (body.hours ?? 0)
        if (target <= hour) throw invalidField('to', 'The clock is past that moment already.')
        if (target > hour + MOST_HOURS) throw invalidField('to', 'A run takes at most a year.')
        await runner.start(target, (body.secondsAnHour ?? 0) * 1000)
      }
    }),
    route({
      method: 'delete',
      path: '/market/run',
      right: 'clock',
      scope: 'market',
      answers: told.NOTHING,
      handle: async ({ actor }) => {
        await marketOf(actor)
        await runner.stop()
      }
    }),
    route({
      method: 'get',
      path: '/events',
      right: 'read',
      // It ends with the session of the page that opened it.
      isPersonal: true,
      scope: 'seen',
      answers: 'stream',
      handle: ({ actor, req, res }) => {
        const token = sessionToken(req, configuration.instance) ?? ''
        events.open(res, actor, sessionName(token), () => actorOf(token))
        return Promise.resolve(SENT)
      }
    })
  ]
}
