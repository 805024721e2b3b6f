import { once } from 'node:events'
import type { AddressInfo } from 'node:net'
import express from 'express'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { RIGHTS, ROLES, hasRight, type AskFacts, type PlacedAsk, type Right, type Role } from '@tin-harbor/core/buying'
import * as told from '@tin-harbor/core/contract'
import { yup } from '@tin-harbor/core/input'
import { errorMiddleware } from '../src/http/error-middleware.js'
import { allRoutes } from '../src/all-routes.js'
import { AnswerChecker } from '../src/http/answer-checker.js'
import { describeApi } from '../src/http/openapi.js'
import { SUMMARIES } from '../src/http/summaries.js'
import { register, route, type Route } from '../src/http/registry.js'
import { DealRequest } from '../src/deals/deal-model.js'
import { Organisation, User, UserAdvertiser } from '../src/team/user-model.js'
import { fileNumbers } from './support/files.js'
import { organisationNumbers } from './support/numbers.js'
import { ADMIN, READER, TRADER, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
const users = new Map<Role, Ask>()
let foreign: Record<
  | 'lineId'
  | 'campaignId'
  | 'creativeId'
  | 'adId'
  | 'listId'
  | 'slipId'
  | 'askId'
  | 'fileId'
  | 'uploadId'
  | 'fitId'
  | 'madeId'
  | 'mixId'
  | 'feedId'
  | 'plateId'
  | 'offerId'
  | 'trackerId'
  | 'reviewId'
  | 'linkId'
  | 'paymentId'
  | 'userId'
  | 'invitationId'
  | 'sessionId'
  | 'tokenId',
  number
>

/** One user of each role; none but the admin sees the third advertiser. */
beforeAll(async () => {
  server = await testServer('rights')
  const admin = await server.as(ADMIN)
  const made = await readyLine(admin)
  const { body } = await admin('GET', `/lines/${made.lineId}`)
  const list = { name: 'Theirs', kind: 'keywords', values: ['telescope'], group: null }
  const { body: made3 } = await admin('POST', '/lists', { advertiserId: 3, list })
  const { body: slip } = await admin('POST', '/slips', { name: 'Theirs', items: [{ line: made.lineId, fields: ['whole line'] }] })
  const ask = await server.deps.sequelize.transaction(async (transaction) => {
    const { id: organisationId } = await Organisation.create({ name: 'Others', currency: 'EUR', zone: 'UTC' }, { transaction })
    return DealRequest.create(
      { organisationId, asked: {} as PlacedAsk, facts: {} as AskFacts, askedHour: 0, state: 'countered', madeBy: null },
      { transaction }
    )
  })
  const files = await fileNumbers(admin, server.deps.sequelize, 3, made.lineId)
  foreign = {
    ...made,
    ...files,
    creativeId: body.ads[0].creativeId,
    adId: body.ads[0].id,
    listId: made3.id,
    slipId: slip.id,
    askId: ask.id,
    ...(await organisationNumbers(server.deps.sequelize, ask.organisationId))
  }
  const model = await User.findOne({ where: { email: TRADER }, rejectOnEmpty: true })
  await server.deps.sequelize.transaction(async (transaction) => {
    for (const role of ROLES) {
      const { organisationId, passwordHash } = model
      const user = await User.create(
        { organisationId, passwordHash, role, name: role, email: `${role}@test.example`, allAdvertisers: false },
        { transaction }
      )
      await UserAdvertiser.create({ userId: user.id, advertiserId: 1 }, { transaction })
    }
  })
  for (const role of ROLES) users.set(role, await server.as(`${role}@test.example`))
})
afterAll(() => server.close())

const pathOf = (definition: Route, ids: Record<string, number>) =>
  definition.path.replace(/:(\w+)/g, (_, name: string) => String(ids[name]))

describe('every route', () => {
  it('is refused to nobody signed in, to a role without its right, and for an advertiser not seen', async () => {
    const routes = allRoutes(server.deps)
    expect(routes.length).toBeGreaterThan(20)
    const ids = { advertiserId: 3, ...foreign }
    /** Whatever names an object in a body or in the address names theirs. */
    const named = { campaignId: foreign.campaignId, advertiserId: 3, items: [{ line: foreign.lineId, fields: ['pacing'] }] }
    /** What asks for nothing that there is already. */
    const asksForOwn = ['post /deals/asks', 'post /deals/offers/take']
    const wrong: string[] = []
    for (const definition of routes) {
      if (definition.right === 'public') continue
      const fields = Object.keys((definition.query as { fields?: object } | undefined)?.fields ?? {})
      const asks = fields.includes('campaign') && !fields.includes('line') ? `?campaign=${foreign.campaignId}` : `?line=${foreign.lineId}`
      const path = `${pathOf(definition, ids)}${definition.method === 'get' ? asks : ''}`
      const name = `${definition.method} ${definition.path}`
      const method = definition.method.toUpperCase()
      const send = ['GET', 'HEAD', 'DELETE'].includes(method) ? undefined : named
      const anonymous = await server.nobody(method, path, send)
      if (anonymous.status !== 401) wrong.push(`${name}: nobody got ${anonymous.status}`)
      for (const role of ROLES) {
        const ask = users.get(role) as Ask
        const allowed = hasRight(role, definition.right)
        // Where nothing is named it is tried only where the right is missing: the walk must not run the market or sign out.
        if ((typeof definition.scope !== 'function' || asksForOwn.includes(name)) && allowed) continue
        const answer = await ask(method, path, send)
        if (answer.status !== 403) wrong.push(`${name}: a ${role} got ${answer.status} for a foreign advertiser`)
        if (answer.status === 403 && !allowed && method !== 'HEAD' && !String(answer.body.title).includes('may not'))
          wrong.push(`${name}: the reason for a ${role} is "${answer.body.title}"`)
      }
    }
    expect(wrong).toEqual([])
  })

  it('must state a right and a scope, or the server does not start', () => {
    const app = { get: () => undefined } as never
    const handle = () => Promise.resolve(undefined)
    expect(() => register(app, [{ method: 'get', path: '/x', scope: 'seen', answers: 'stream', handle } as never], 'x')).toThrow('no right')
    expect(() => register(app, [{ method: 'get', path: '/x', right: 'read', handle } as never], 'x')).toThrow('no scope')
    expect(() =>
      register(app, [route({ method: 'get', path: '/x/:id', right: 'read', scope: 'seen', answers: 'stream', handle })], 'x')
    ).toThrow('names an object')
    expect(() =>
      register(
        app,
        [
          route({ method: 'get', path: '/x', right: 'read', scope: 'seen', answers: 'stream', handle }),
          route({ method: 'get', path: '/x', right: 'read', scope: 'seen', answers: 'stream', handle })
        ],
        'x'
      )
    ).toThrow('twice')
  })

  it('is one object, and so is a right: one of each that is added is asked for, checked and answered', async () => {
    const rights = RIGHTS as unknown as Record<string, readonly Role[]>
    rights.weigh = ['finance']
    const weighed: Route = route({
      method: 'post',
      path: '/weights/:advertiserId',
      right: 'weigh' as Right,
      scope: ({ params }) => Promise.resolve(params.advertiserId),
      body: yup.object({ grams: yup.number().required('How heavy?') }).noUnknown(),
      answers: told.shape({ pounds: told.number() }),
      handle: ({ body }) => Promise.resolve(body.grams === 7 ? ({ stones: 1 } as never) : { pounds: body.grams / 500 })
    })
    const app = express()
    const summaries = SUMMARIES as unknown as Record<string, string>
    summaries['post /weights/:advertiserId'] = 'Weigh'
    register(app, [weighed], server.deps.configuration.instance, AnswerChecker.of(describeApi([weighed])))
    app.use(errorMiddleware(server.deps.log))
    const listening = app.listen(0, '127.0.0.1')
    try {
      await once(listening, 'listening')
      const { port } = listening.address() as AddressInfo
      const elsewhere = (role: Role) => server.as(`${role}@test.example`, `http://127.0.0.1:${port}`)
      const [finance, trader] = [await elsewhere('finance'), await elsewhere('trader')]
      expect((await finance('POST', '/weights/1', { grams: 1000 })).body).toEqual({ pounds: 2 })
      expect((await trader('POST', '/weights/1', { grams: 1000 })).status).toBe(403)
      expect((await finance('POST', '/weights/3', { grams: 1000 })).status).toBe(403)
      const unsaid = await finance('POST', '/weights/1', {})
      expect([unsaid.status, unsaid.body.issues]).toEqual([422, [{ field: 'grams', message: 'How heavy?' }]])
      expect((await finance('POST', '/weights/1', { grams: 7 })).status).toBe(500)
    } finally {
      listening.close()
      delete rights.weigh
      delete summaries['post /weights/:advertiserId']
    }
  })

  it('shows a reader only what they may see', async () => {
    const rui = await server.as(READER)
    const { body } = await rui('GET', '/manifest')
    expect(body.advertisers.map((advertiser: { id: number }) => advertiser.id)).toEqual([1, 2])
    expect(body.lines.some((line: { id: number }) => line.id === foreign.lineId)).toBe(false)
    expect((await rui('GET', `/lines/${foreign.lineId}`)).status).toBe(403)
  })
})

describe('sign-in', () => {
  it('refuses a wrong password and an unknown user with the same words', async () => {
    const wrong = await server.nobody('POST', '/session', { email: TRADER, password: 'nope' })
    const unknown = await server.nobody('POST', '/session', { email: 'x@y.example', password: 'nope' })
    expect(wrong.status).toBe(401)
    expect(wrong.body).toEqual(unknown.body)
    expect(wrong.body.issues[0].field).toBe('password')
    expect((await server.nobody('POST', '/session', {})).body.issues.map((issue: { field: string }) => issue.field)).toEqual([
      'email',
      'password'
    ])
  })

  it('gives a cookie that scripts cannot read and other sites do not send, and ends with signing out', async () => {
    const answer = await server.nobody('POST', '/session', { email: TRADER, password: 'harbor-lights' })
    const cookie = answer.headers.get('set-cookie') ?? ''
    expect(cookie).toMatch(/HttpOnly/)
    expect(cookie).toMatch(/SameSite=Strict/)
    expect(cookie).toContain('tin-harbor-rights')
    const ask = await server.as(TRADER)
    expect((await ask('GET', '/me')).body.role).toBe('trader')
    await ask('DELETE', '/session')
    expect((await ask('GET', '/me')).status).toBe(401)
  })

  it('takes nothing from another origin', async () => {
    const ask = await server.as(TRADER)
    for (const origin of ['http://evil.example', 'null', '']) {
      expect((await ask('POST', '/market/run', { hours: 1 }, { origin })).status).toBe(403)
    }
  })

  it('sends a policy that lets only own scripts run, and no hint of what serves it', async () => {
    const { headers } = await server.nobody('GET', '/me')
    expect(headers.get('content-security-policy')).toContain("script-src 'self'")
    expect(headers.get('content-security-policy')).not.toContain('upgrade-insecure')
    expect(headers.get('x-powered-by')).toBeNull()
  })
})
