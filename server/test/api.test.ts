import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { Validator } from '@seriousme/openapi-schema-validator'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { RIGHTS, ROLES, TOKEN_RIGHTS, hasRight, type Right } from '@tin-harbor/core/buying'
import type { AccessTokenMade, LinesPage } from '@tin-harbor/core/contract'
import { allRoutes } from '../src/all-routes.js'
import { AnswerChecker } from '../src/http/answer-checker.js'
import { apiText, routeTable } from '../src/api-docs.js'
import { KeptAnswer } from '../src/http/answer-model.js'
import { describeApi } from '../src/http/openapi.js'
import { MOST_CALLS, TokenGuard } from '../src/security/token-guard.js'
import { Slip } from '../src/slips/slip-model.js'
import { User } from '../src/team/user-model.js'
import { fileNumbers } from './support/files.js'
import { organisationNumbers } from './support/numbers.js'
import { ADMIN, TRADER, readyLine, testServer, type Answer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let trader: Ask
let ready: { lineId: number; campaignId: number }
beforeAll(async () => {
  server = await testServer('api')
  trader = await server.as(TRADER)
  ready = await readyLine(await server.as(ADMIN))
})
afterAll(() => server.close())

const by =
  (secret: string): Ask =>
  (method, path, body, headers = {}) =>
    server.nobody(method, path, body, { authorization: `Bearer ${secret}`, origin: 'http://elsewhere.example', ...headers })
const made = async (ask: Ask, rights: readonly Right[], advertisers: number[] | null = null) =>
  (await ask<AccessTokenMade>('POST', '/me/tokens', { name: 'Test', rights, advertisers, days: 1 })).body.secret
const docs = (name: string) => fileURLToPath(new URL(`../../docs/${name}`, import.meta.url))

describe('the description for scripts', () => {
  it('is OpenAPI 3.1, served, of every route, and in docs as it is', async () => {
    const { body, status } = await server.nobody('GET', '/openapi.json')
    expect(status).toBe(200)
    expect(await new Validator().validate(structuredClone(body))).toMatchObject({ valid: true })
    const operations = Object.values(body.paths as Record<string, Record<string, { responses: object; summary: string }>>).flatMap((one) =>
      Object.values(one)
    )
    expect(operations).toHaveLength(allRoutes(server.deps).length)
    for (const { responses } of operations) expect(Object.keys(responses)).toEqual([expect.stringMatching(/^20[04]$/), 'default'])
    expect(readFileSync(docs('openapi.json'), 'utf8')).toBe(apiText())
    expect(readFileSync(docs('api.md'), 'utf8')).toContain(routeTable())
  })

  it('holds answers field by field: whatever of one is left out, renamed or of another kind, is noticed', async () => {
    const checker = AnswerChecker.of(describeApi(allRoutes(server.deps)))
    /** All places of an object, with a way to change what is there. */
    function* places(value: unknown): Generator<{ whole: Record<string, unknown>; name: string }> {
      if (typeof value !== 'object' || value === null) return
      if (Array.isArray(value)) return yield* places(value[0])
      for (const name of Object.keys(value)) {
        yield { whole: value as Record<string, unknown>, name }
        yield* places((value as Record<string, unknown>)[name])
      }
    }
    let changed = 0
    for (const [path, address] of [
      ['/lines/:lineId', `/lines/${ready.lineId}`],
      ['/lines', '/lines?limit=2'],
      ['/market', '/market'],
      ['/manifest', '/manifest'],
      ['/reports', '/reports?by=country&from=2026-02-20&to=2026-03-01'],
      ['/me/tokens', '/me/tokens']
    ] as const) {
      await made(trader, ['read'])
      const { body } = await trader('GET', address)
      const route = { method: 'get' as const, path }
      expect(() => checker.check(route, body)).not.toThrow()
      for (const { whole, name } of [...places(body)]) {
        const was = whole[name]
        whole[name] = typeof was === 'object' && was !== null ? 7 : { not: was }
        expect(() => checker.check(route, body), `${path}: ${name} of another kind`).toThrow('answers otherwise')
        delete whole[name]
        whole[`${name}s`] = was
        expect(() => checker.check(route, body), `${path}: ${name} renamed`).toThrow('answers otherwise')
        delete whole[`${name}s`]
        whole[name] = was
        changed++
      }
      expect(() => checker.check(route, body)).not.toThrow()
    }
    expect(changed).toBeGreaterThan(80)
  })
})

describe('tokens, by every route', () => {
  it('are refused on every route without their right, for another advertiser, and about people', async () => {
    const admin = await server.as(ADMIN)
    const { sequelize } = server.deps
    const ids: Record<string, number> = {
      advertiserId: 3,
      ...ready,
      ...(await fileNumbers(admin, sequelize, 3, ready.lineId)),
      ...(await organisationNumbers(sequelize, 1)),
      creativeId: 1,
      adId: 1,
      listId: 1,
      slipId: 1,
      askId: 1
    }
    const tokens = new Map<Right, Ask>()
    for (const right of TOKEN_RIGHTS) tokens.set(right, by(await made(admin, [right], [1])))
    const wrong: string[] = []
    for (const definition of allRoutes(server.deps)) {
      const { right, method, isPersonal } = definition
      if (right === 'public') continue
      const path = definition.path.replace(/:(\w+)/g, (_, name: string) => String(ids[name]))
      const send = ['get', 'head', 'delete'].includes(method) ? undefined : {}
      for (const [given, ask] of tokens) {
        // What is allowed does something: that is for other tests.
        if (given === right && !isPersonal) continue
        const { status } = await ask(method.toUpperCase(), path, send)
        if (status !== 403) wrong.push(`${method} ${definition.path}: a token for ${given} got ${status}`)
      }
    }
    expect((await (tokens.get('read') as Ask)('GET', `/lines/${ready.lineId}`)).status).toBe(403)
    expect((await (tokens.get('draft') as Ask)('POST', `/lines/${ready.lineId}/label`, { tags: [] })).status).toBe(403)
    expect((await (tokens.get('read') as Ask)('GET', `/lines?campaign=${ready.campaignId}`)).status).toBe(403)
    expect(wrong).toEqual([])
  })

  it('have at most the rights of every role', async () => {
    for (const role of ROLES) {
      const email = `${role}@api.example`
      const model = await User.findOne({ where: { email: TRADER }, rejectOnEmpty: true })
      const { organisationId, passwordHash } = model
      await server.deps.sequelize.transaction((transaction) =>
        User.create({ organisationId, passwordHash, role, name: role, email, allAdvertisers: true }, { transaction })
      )
      const ask = await server.as(email)
      for (const right of Object.keys(RIGHTS) as Right[]) {
        const { status } = await ask('POST', '/me/tokens', { name: 'x', rights: [right], advertisers: null, days: 1 })
        expect(status, `${role} ${right}`).toBe(hasRight(role, right) && TOKEN_RIGHTS.includes(right) ? 200 : 422)
      }
    }
  })

  it('ask so often a minute and no more, each for itself', async () => {
    let clock = 0
    const guard = new TokenGuard(() => clock)
    const secrets = [await made(trader, ['read']), await made(trader, ['read'])]
    const headers: Record<string, string> = {}
    const res = { set: (name: string, value: string) => ((headers[name] = value), res) }
    const call = (secret: string) => guard.actorOf({ headers: {}, ip: '1', res } as never, secret, 'api')
    for (let n = 0; n < MOST_CALLS; n++) await call(secrets[0])
    await expect(call(secrets[0])).rejects.toMatchObject({ status: 429 })
    expect(headers).toMatchObject({ 'retry-after': '60', ratelimit: '"calls";r=0;t=60' })
    await expect(call(secrets[1])).resolves.toMatchObject({ role: 'trader' })
    clock = 60_001
    await expect(call(secrets[0])).resolves.toMatchObject({ role: 'trader' })
  })
})

describe('a key', () => {
  const key = (name: string) => ({ 'idempotency-key': name })

  it('does once what is sent again under it, also at the same moment, and is for one request', async () => {
    const before = await Slip.count()
    const slip = (name: string) => ({ name, items: [{ line: ready.lineId, fields: ['whole line'] }] })
    const admin = await server.as(ADMIN)
    const all = await Promise.all(Array.from({ length: 6 }, () => admin('POST', '/slips', slip('Once'), key('once-0001'))))
    const done = all.filter(({ status }) => status === 200)
    expect(all.every(({ status, body }) => status === 200 || (status === 409 && body.code === 'under-way'))).toBe(true)
    expect(done.length).toBeGreaterThan(0)
    const again = await admin('POST', '/slips', slip('Once'), key('once-0001'))
    expect([again.status, again.headers.get('idempotency-replayed')]).toEqual([200, 'true'])
    expect(again.body).toEqual(done[0].body)
    expect(await Slip.count()).toBe(before + 1)
    const other = await admin('POST', '/slips', slip('Other'), key('once-0001'))
    expect([other.status, other.body.code]).toEqual([422, 'other-request'])
    // Of somebody else it is another key.
    expect(
      (
        await trader(
          'POST',
          '/lists',
          { advertiserId: 1, list: { name: 'Mine', kind: 'keywords', values: ['telescope'], group: null } },
          key('once-0001')
        )
      ).status
    ).toBe(200)
    expect((await admin('POST', '/slips', slip('Once'), key('x'))).body.code).toBe('bad-key')
  })

  it('is refused where the answer is a secret, which nobody keeps', async () => {
    const draft = { name: 'x', rights: ['read'], advertisers: null, days: 1 }
    const answers = [
      await trader('POST', '/me/tokens', draft, key('secret-001')),
      await trader('POST', `/lines/${ready.lineId}/preview-links`, { days: 1 }, key('secret-002'))
    ]
    for (const { status, body } of answers) expect([status, body.code]).toEqual([400, 'no-key'])
    expect(await KeptAnswer.count({ where: { name: ['secret-001', 'secret-002'] } })).toBe(0)
  })

  it('may be used again where it failed; where it was cut off that is said', async () => {
    const list = (values: string[]) => ({ advertiserId: 1, list: { name: 'Tried', kind: 'keywords', values, group: null } })
    expect((await trader('POST', '/lists', list(['nonsense word that is none']), key('tried-001'))).status).toBe(422)
    expect((await trader('POST', '/lists', list(['eclipse']), key('tried-001'))).status).toBe(200)
    await server.deps.sequelize.transaction((transaction) =>
      KeptAnswer.update({ isDone: false }, { where: { name: 'tried-001' }, transaction })
    )
    expect((await trader('POST', '/lists', list(['eclipse']), key('tried-001'))).body.code).toBe('under-way')
  })
})

describe('the examples', () => {
  const example = (name: string, args: string[], secret: string): Promise<{ code: number | null; out: string; err: string }> =>
    new Promise((resolve) => {
      const child = spawn(process.execPath, [docs(`examples/${name}.mjs`), ...args], {
        env: { ...process.env, TIN_HARBOR_ADDRESS: server.address, TIN_HARBOR_TOKEN: secret }
      })
      let [out, err] = ['', '']
      child.stdout.on('data', (part: Buffer) => (out += part.toString()))
      child.stderr.on('data', (part: Buffer) => (err += part.toString()))
      child.on('exit', (code) => resolve({ code, out, err }))
    })

  it('list, forecast, change bids of a tag through a slip, run to a moment, and fetch a report', async () => {
    const secret = await made(trader, ['read', 'draft', 'live', 'clock'])
    const listed = await example('list-lines', ['live'], secret)
    expect(listed).toMatchObject({ code: 0, err: '' })
    const lines = listed.out
      .trim()
      .split('\n')
      .map((row) => row.split('\t'))
    const { body } = await trader<LinesPage>('GET', '/lines?state=live&limit=500')
    expect(lines.map(([code]) => code)).toEqual(body.lines.map(({ code }) => code))
    const [{ id, bidMicros, version }] = body.lines
    const forecast = await example('forecast-line', [String(id)], secret)
    expect(forecast).toMatchObject({ code: 0, err: '' })
    expect(forecast.out).toMatch(/^shown\t\d+ \(\d+ to \d+\)\n/)
    expect((await trader('POST', `/lines/${id}/label`, { tags: ['by script'] })).status).toBe(200)
    const changed = await example('change-bids', ['by script', '+10'], secret)
    expect(changed).toMatchObject({ code: 0, err: '' })
    expect(changed.out).toMatch(/^1 lines, from market hour \d+, slip \d+\n$/)
    const after = (await trader(`GET`, `/lines/${id}`)).body
    expect(after.inForce.draft.price.bidMicros).toBe(Math.round(((bidMicros ?? 0) * 1.1) / 1000) * 1000)
    expect(after.version).toBeGreaterThan(version)
    const { hour } = (await trader('GET', '/market')).body
    const moment = new Date(Date.UTC(2026, 0, 1) + (hour + 3) * 3_600_000).toISOString()
    const ran = await example('run-to', [moment], secret)
    expect(ran).toMatchObject({ code: 0, err: '' })
    expect(ran.out).toContain(`market hour ${hour + 3};`)
    const report = await example('report-csv', ['country', '2026-02-20', '2026-03-01'], secret)
    expect(report).toMatchObject({ code: 0, err: '' })
    expect(report.out.split('\n')[0]).toContain('our cost')
    expect(report.out.split('\n')[0]).toContain('client is charged')
    expect(report.out.trim().split('\n').length).toBeGreaterThan(3)
    // What a token may not, an example says.
    const refused = await example('run-to', [moment], await made(trader, ['read']))
    expect(refused.code).toBe(1)
    expect(refused.err).toContain('This token may not do this.')
  })

  it('go through lines page after page', async () => {
    const seen: number[] = []
    for (let after = ''; ;) {
      const { body }: Answer<LinesPage> = await trader<LinesPage>('GET', `/lines?limit=1${after && `&after=${after}`}`)
      seen.push(...body.lines.map(({ id }) => id))
      if (body.next === null) break
      after = body.next
    }
    const whole = (await trader<LinesPage>('GET', '/lines?limit=500')).body
    expect(seen).toEqual(whole.lines.map(({ id }) => id))
    expect((await trader('GET', '/lines?after=zzz')).body.issues[0].field).toBe('after')
    expect((await trader(`GET`, `/lines?campaign=${ready.campaignId}`)).status).toBe(200)
  })
})
