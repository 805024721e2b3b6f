import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import { chargeSchema, lowDaysSchema, moneyTermsSchema, refundSchema, topUpSchema } from '@tin-harbor/core/money'
import { advertiserScope } from '../campaigns/routes.js'
import type { Deps } from '../deps.js'
import { notAllowed } from '../http/errors.js'
import { tokenField, versionField } from '../http/fields.js'
import { route, type Params, type Route } from '../http/registry.js'
import { agreeCharge, endCharge, findPayment, refund, saveLowDays, topUp } from './payments.js'
import { ledgerOf } from './statement.js'
import { saveTerms } from './terms.js'

const monthSchema = yup.object({ month: yup.string().matches(/^20\d{2}-(0[1-9]|1[0-2])$/, 'A month is written as 2026-03.') }).noUnknown()
const noticeSchema = yup
  .object({
    reference: yup.string().max(40, 'A reference has at most 40 letters.').required('Of which payment?'),
    nth: yup.number().integer('A whole number.').required('Which notice?'),
    sign: yup.string().max(100, 'A signature has at most 100 letters.').required('Signed by whom?')
  })
  .noUnknown()

/** Whose money a payment is. */
const paymentScope = async ({ params: { paymentId } }: { params: Params }) => ({
  organisation: (await findPayment(paymentId)).organisationId
})

/** Money of an organisation: its ledger month by month, payments in and back, and the terms of its advertisers. */
export function moneyRoutes(deps: Deps): Route[] {
  return [
    route({
      method: 'get',
      path: '/ledger',
      right: 'money',
      scope: 'seen',
      query: monthSchema,
      answers: told.ledgerView,
      handle: ({ actor, query }) => ledgerOf(deps, actor, query.month)
    }),
    route({
      method: 'post',
      path: '/ledger/top-ups',
      right: 'money',
      scope: 'seen',
      body: topUpSchema.shape({ token: tokenField }),
      answers: told.paymentView,
      handle: ({ actor, body: { token, ...asked } }) => topUp(deps, actor, token, asked)
    }),
    route({
      method: 'post',
      path: '/payments/:paymentId/refunds',
      right: 'money',
      scope: paymentScope,
      body: refundSchema.shape({ token: tokenField }),
      answers: told.paymentView,
      handle: ({ actor, params, body }) => refund(deps, actor, params.paymentId, body)
    }),
    route({
      method: 'put',
      path: '/ledger/charge',
      right: 'money',
      scope: 'seen',
      body: chargeSchema,
      answers: told.ledgerView,
      handle: async ({ actor, body }) => {
        await agreeCharge(deps, actor, body)
        return ledgerOf(deps, actor)
      }
    }),
    route({
      method: 'delete',
      path: '/ledger/charge',
      right: 'money',
      scope: 'seen',
      answers: told.ledgerView,
      handle: async ({ actor }) => {
        await endCharge(deps, actor)
        return ledgerOf(deps, actor)
      }
    }),
    route({
      method: 'put',
      path: '/ledger/low-days',
      right: 'money',
      scope: 'seen',
      body: lowDaysSchema,
      answers: told.ledgerView,
      handle: async ({ actor, body }) => {
        await saveLowDays(deps, actor, body.lowDays)
        return ledgerOf(deps, actor)
      }
    }),
    route({
      method: 'put',
      path: '/advertisers/:advertiserId/money',
      right: 'money',
      scope: advertiserScope,
      body: moneyTermsSchema.shape({ version: versionField }),
      answers: told.ledgerView,
      handle: async ({ actor, params, body: { version, ...terms } }) => {
        await saveTerms(deps.sequelize, actor, params.advertiserId, version, terms)
        return ledgerOf(deps, actor)
      }
    }),
    route({
      // Of the payment service alone: it signs what it says, and what it says is a reason to ask it.
      method: 'post',
      path: '/payments/notices',
      right: 'public',
      scope: 'seen',
      isSigned: true,
      body: noticeSchema,
      answers: told.NOTHING,
      handle: async ({ body }) => {
        if (!(await deps.payments.heard(body))) throw notAllowed('This is not signed by the payment service.')
      }
    })
  ]
}
