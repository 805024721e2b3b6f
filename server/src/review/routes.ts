import { Op } from 'sequelize'
import * as told from '@tin-harbor/core/contract'
import { linesOfText, yup } from '@tin-harbor/core/input'
import { WRITTEN_RULES } from '@tin-harbor/core/review'
import { retrying } from '../database/connection.js'
import type { Deps } from '../deps.js'
import { route, type Params, type Route } from '../http/registry.js'
import { viewLine } from '../lines/answering.js'
import { answerRefusal, findReview } from './answering.js'
import { AdReview } from './review-model.js'
import { reviewViews } from './views.js'

/** Answered ones that a page shows, beside all that wait. */
const MOST_ANSWERED = 300

/** What is sent to whoever looks at ads, and what they answer. */
export function reviewRoutes({ sequelize, reviews }: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/reviews',
      right: 'read',
      scope: 'seen',
      answers: told.reviewsView,
      handle: async ({ actor }) => {
        const advertiserId = [...actor.advertisers]
        const waiting = await AdReview.findAll({ where: { advertiserId, state: 'waits' }, order: [['id', 'DESC']] })
        const answered = await AdReview.findAll({
          where: { advertiserId, state: { [Op.in]: ['cleared', 'refused'] } },
          order: [['id', 'DESC']],
          limit: MOST_ANSWERED
        })
        return { reviews: await reviewViews([...waiting, ...answered]), rules: [...WRITTEN_RULES], isAway: reviews.isAway }
      }
    }),
    route({
      method: 'post',
      path: '/reviews/:reviewId/answer',
      right: 'live',
      scope: async ({ params: { reviewId } }: { params: Params }) => (await findReview(reviewId)).advertiserId,
      body: yup
        .object({ text: linesOfText(2000, 'An answer has at most 2,000 letters.').trim().required('What is answered?') })
        .noUnknown(),
      answers: told.lineView,
      handle: async ({ actor, params, body }) => {
        const line = await retrying(() => answerRefusal(sequelize, actor, params.reviewId, body.text))
        await reviews.ask()
        return viewLine(sequelize, line)
      }
    })
  ]
}
