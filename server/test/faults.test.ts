import { createServer, request } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import sharp from 'sharp'
import { hashPassword } from '../src/security/passwords.js'
import { SignInGuard } from '../src/security/sign-in-guard.js'
import { factsOf } from './support/files.js'
import { codeAt } from '@tin-harbor/core/market'
import { propertyOf } from '../src/market/properties.js'
import { wrongSignIn } from '../src/http/errors.js'
import { Ad } from '../src/creatives/creative-model.js'
import { MadeCreative } from '../src/creatives/made-creative-model.js'
import { SetupStep } from '../src/database/setup-step-model.js'
import { SavedList } from '../src/lists/list-model.js'
import { User } from '../src/team/user-model.js'
import { doDeed, setUpDemo } from '../src/demo/demo.js'
import { Slip } from '../src/slips/slip-model.js'
import { Line } from '../src/lines/line-model.js'
import { AuditEntry } from '../src/team/audit-model.js'
import { ADMIN, TRADER, formOf, lineDraft, newToken, picture, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

let server: TestServer
let ask: Ask
let cookie = ''
beforeAll(async () => {
  server = await testServer('faults')
  ask = await server.as(TRADER)
  const session = await server.nobody('POST', '/session', { email: TRADER, password: 'harbor-lights' })
  cookie = (session.headers.get('set-cookie') ?? '').split(';')[0]
})
afterAll(() => server.close())

/** Sends bytes as they are, and ends the request or breaks the connection off. */
function sendRaw(
  path: string,
  headers: Record<string, string>,
  bytes: string | Buffer,
  breakOff = false
): Promise<{ status: number; body: any }> {
  return new Promise((resolve, reject) => {
    const to = new URL(server.address)
    const sent = request(
      {
        host: to.hostname,
        port: to.port,
        method: 'POST',
        path: `/api${path}`,
        headers: { origin: server.address, host: to.host, cookie, ...headers }
      },
      (answer) => {
        const parts: Buffer[] = []
        answer
          .on('data', (part: Buffer) => parts.push(part))
          .on('end', () => resolve({ status: answer.statusCode ?? 0, body: JSON.parse(Buffer.concat(parts).toString() || 'null') }))
      }
    )
    sent.on('error', (error) => (breakOff ? resolve({ status: 0, body: null }) : reject(error)))
    sent.write(bytes)
    if (breakOff) setTimeout(() => sent.destroy(), 30)
    else sent.end()
  })
}

describe('an upload', () => {
  const head = (boundary: string) => ({ 'content-type': `multipart/form-data; boundary=${boundary}` })
  const part = (boundary: string, content: string | Buffer) =>
    Buffer.concat([
      Buffer.from(`--${boundary}\r\ncontent-disposition: form-data; name="file"; filename="a.png"\r\ncontent-type: image/png\r\n\r\n`),
      Buffer.from(content)
    ])

  it('that is cut off, has no boundary or is no form is refused at once, and the server goes on', async () => {
    const { lineId } = await readyLine(ask)
    const path = `/lines/${lineId}/creatives`
    const began = Date.now()
    const tries: [Record<string, string>, string | Buffer][] = [
      [head('xyz'), part('xyz', 'some bytes, and then no end')],
      [head('xyz'), '--xyz\r\ncontent-disposition: form-data; name="file"; filename="a.png"\r\n'],
      [head('xyz'), ''],
      [head('xyz'), '--xyz--\r\n'],
      [{ 'content-type': 'multipart/form-data' }, part('xyz', 'x')],
      [{ 'content-type': 'multipart/form-data; boundary=' }, 'x'],
      [{ 'content-type': 'application/json' }, '{"file":1}'],
      [{ 'content-type': 'text/plain' }, 'x'],
      [{}, 'x']
    ]
    for (const [headers, bytes] of tries) {
      const { status, body } = await sendRaw(path, headers, bytes)
      expect([status, body.issues[0].field]).toEqual([422, 'file'])
    }
    for (let n = 0; n < 5; n++) await sendRaw(path, head('xyz'), part('xyz', Buffer.alloc(40_000)), true)
    expect(Date.now() - began).toBeLessThan(5000)
    expect((await ask('GET', `/lines/${lineId}`)).body.ads).toHaveLength(1)
    expect((await ask('POST', path, formOf(await picture(600, 500), 'b\u202egnp.png'))).body.ads[1].name).toBe('b?gnp.png')
  })

  it('of a picture that was cut off, or has no pixels, is no picture', async () => {
    const noise = await sharp(Buffer.from(Array.from({ length: 300 * 250 * 3 }, (_, n) => (n * 2654435761) >>> 24)), {
      raw: { width: 300, height: 250, channels: 3 }
    })
      .png()
      .toBuffer()
    expect(await factsOf(noise)).toMatchObject({ width: 300, height: 250 })
    const jpeg = await sharp(noise).jpeg().toBuffer()
    const gif = await sharp(noise).gif().toBuffer()
    const withoutPixels = Buffer.concat([noise.subarray(0, 33), Buffer.from([0, 0, 0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82])])
    for (const broken of [
      noise.subarray(0, noise.length / 2),
      noise.subarray(0, noise.length - 400),
      jpeg.subarray(0, jpeg.length / 2),
      gif.subarray(0, gif.length / 3),
      withoutPixels
    ]) {
      await expect(factsOf(broken)).rejects.toMatchObject({
        status: 422,
        issues: [{ field: 'file', message: 'The picture cannot be read; it may be damaged.' }]
      })
    }
  })
})

describe('a session', () => {
  it('ends with its password, and so does the stream of events that it opened with signing out', async () => {
    const made = await User.findOne({ where: { email: ADMIN }, rejectOnEmpty: true })
    const admin = await server.as(ADMIN)
    expect((await admin('GET', '/me')).status).toBe(200)
    const was = made.passwordHash
    const change = async (passwordHash: string) =>
      server.deps.sequelize.transaction((transaction) => made.update({ passwordHash }, { transaction }))
    await change(await hashPassword('another word'))
    expect((await admin('GET', '/me')).status).toBe(401)
    await change(was)
    const session = await server.nobody('POST', '/session', { email: ADMIN, password: 'harbor-lights' })
    const own = (session.headers.get('set-cookie') ?? '').split(';')[0]
    const stream = await fetch(`${server.address}/api/events`, { headers: { cookie: own } })
    const reader = (stream.body as ReadableStream<Uint8Array>).getReader()
    await reader.read()
    const other = await fetch(`${server.address}/api/events`, { headers: { cookie } })
    await fetch(`${server.address}/api/session`, { method: 'DELETE', headers: { cookie: own, origin: server.address } })
    const ended = async () => {
      for (let next = await reader.read(); ; next = await reader.read()) if (next.done) return true
    }
    expect(await Promise.race([ended(), new Promise((resolve) => setTimeout(resolve, 3000, 'goes on'))])).toBe(true)
    expect(other.body?.locked).toBe(false)
    await other.body?.cancel()
  })

  it('is kept by nobody on its way', async () => {
    for (const path of ['/me', '/manifest', '/lists', '/no-such-thing'])
      expect((await ask('GET', path)).headers.get('cache-control')).toBe('no-store')
  })

  it('is hard to guess into: an account waits longer with each wrong try, whoever tries, and is free again when the right one comes', async () => {
    const slept: number[] = []
    let now = 0
    const guard = new SignInGuard(
      () => now,
      (ms) => (slept.push(ms), Promise.resolve())
    )
    const wrong = () =>
      guard.try('Ines@wharfside.example ', () => Promise.reject(wrongSignIn())).catch((error: { code: string }) => error.code)
    for (let n = 0; n < 10; n++) expect(await wrong()).toBe('wrong-sign-in')
    expect(slept).toEqual([500, 1000, 2000, 4000, 8000, 8000, 8000])
    expect(await guard.try('marta@wharfside.example', () => Promise.resolve('in'))).toBe('in')
    expect(slept).toHaveLength(7)
    expect(await guard.try('ines@wharfside.example', () => Promise.resolve('in'))).toBe('in')
    expect(await wrong()).toBe('wrong-sign-in')
    expect(slept).toHaveLength(8)
    for (let n = 0; n < 5; n++) await wrong()
    now += 16 * 60_000
    await wrong()
    expect(slept.at(-1)).toBe(2000)
    // Tries at once do not get around the wait, and the database is no reason to wait.
    const busy = new SignInGuard(
      () => 0,
      () => new Promise((resolve) => setTimeout(resolve, 20))
    )
    for (let n = 0; n < 3; n++) await busy.try('a', () => Promise.reject(wrongSignIn())).catch(() => 0)
    const many = await Promise.all(
      Array.from({ length: 8 }, () => busy.try('a', () => Promise.reject(wrongSignIn())).catch((error: { code: string }) => error.code))
    )
    expect(many.filter((code) => code === 'too-many')).toHaveLength(5)
  })
})

describe('at the same moment', () => {
  it('one made creative that is put on twenty times is there once', async () => {
    const made = await MadeCreative.findOne({ where: { kind: 'markup' }, rejectOnEmpty: true })
    const { lineId } = await readyLine(ask)
    const statuses = await Promise.all(
      Array.from({ length: 20 }, async () => (await ask('POST', `/lines/${lineId}/ads`, { creatives: [made.id] })).status)
    )
    expect(statuses.filter((status) => status === 200)).toHaveLength(1)
    expect(await Ad.count({ where: { lineId, madeCreativeId: made.id } })).toBe(1)
  })

  it('ten confirmations with one token get one answer and make one publication', async () => {
    const { lineId, version } = await readyLine(ask)
    const token = newToken()
    const answers = await Promise.all(Array.from({ length: 10 }, () => ask('POST', `/lines/${lineId}/live`, { version, token })))
    expect(answers.map(({ status }) => status)).toEqual(Array(10).fill(200))
    expect(new Set(answers.map(({ body }) => JSON.stringify(body))).size).toBe(1)
    expect(
      (await ask('GET', `/lines/${lineId}/history`)).body.entries.filter((entry: { action: string }) => entry.action === 'put live')
    ).toHaveLength(1)
    const { body: line } = await ask('GET', `/lines/${lineId}`)
    await ask('PUT', `/lines/${lineId}`, { version: line.version, line: { ...line.draft, pacing: 'fast' } })
    const slip = newToken()
    const slips = await Promise.all(
      Array.from({ length: 6 }, () =>
        ask('POST', '/slips/live', { name: 'once', items: [{ line: lineId, fields: ['pacing'] }], token: slip })
      )
    )
    expect(slips.map(({ status, body }) => `${status} ${body.title ?? ''}`)).toEqual(Array(6).fill('200 '))
    expect(new Set(slips.map(({ body }) => body.id)).size).toBe(1)
  })

  it('a list and a line that follows it are saved, and neither save is lost', async () => {
    const list = (
      await ask('POST', '/lists', { advertiserId: null, list: { name: 'Raced', kind: 'keywords', values: ['telescope'], group: null } })
    ).body
    const following = (over = {}) =>
      lineDraft({
        targeting: {
          restrictions: [
            { dimension: 'where', mode: 'include', values: ['GB'] },
            { dimension: 'keyword', mode: 'include', values: ['telescope'], list: list.id }
          ]
        },
        ...over
      })
    const { lineId } = await readyLine(ask, following())
    const words = ['eclipse', 'star chart', 'telescope', 'moon']
    let { version, values } = list as { version: number; values: string[] }
    for (let n = 0; n < 12; n++) {
      const { body: line } = await ask('GET', `/lines/${lineId}`)
      const gapMinutes = 10 + n
      const add = [words[n % 2]]
      const [ofList, ofLine] = await Promise.all([
        ask('PUT', `/lists/${list.id}`, { version, rename: null, add: n % 2 === 0 ? add : [], remove: n % 2 === 1 ? [words[0]] : [] }),
        ask('PUT', `/lines/${lineId}`, { version: line.version, line: { ...line.draft, gapMinutes } })
      ])
      expect(ofList.status).toBe(200)
      version = ofList.body.version
      values = ofList.body.values
      const { body: after } = await ask('GET', `/lines/${lineId}`)
      // The line's save came through or was refused as stale; if it came through, it is there.
      expect([200, 409]).toContain(ofLine.status)
      if (ofLine.status === 200) expect(after.draft.gapMinutes).toBe(gapMinutes)
      expect(after.draft.targeting.restrictions[1].values).toEqual(values)
    }
    expect((await SavedList.findByPk(list.id))?.contents.values).toEqual(values)
  })
})

describe('leaving placements out', () => {
  it('takes only placements that there are, and leaves a line that can be saved', async () => {
    const { lineId } = await readyLine(ask)
    for (const placements of [[1e308], [3], ['3'], ['no.example: page head'], [null], ['x'.repeat(200)]]) {
      const { status, body } = await ask('POST', `/lines/${lineId}/left-out`, { placements, out: true })
      expect([status, body.issues[0].field.startsWith('placements')]).toEqual([422, true])
    }
    const [a, b] = [3, 4].map((n) => codeAt(server.deps.catalogue.inventory, 'placement', n))
    const { body } = await ask('POST', `/lines/${lineId}/left-out`, { placements: [a, b, a], out: true })
    expect((await ask('PUT', `/lines/${lineId}`, { version: body.version, line: body.draft })).status).toBe(200)
  })
})

describe('an address', () => {
  it('is read with its defaults, and told field by field where it is wrong', async () => {
    const { body } = await ask('GET', '/opportunity?hour=1400')
    expect([body.hour, body.nth]).toEqual([1400, 0])
    expect((await ask('GET', '/reports?by=format&from=2026-02-20&to=2026-02-21')).body.windowHours).toBe(720)
    for (const [query, field] of [
      ['hour=', 'hour'],
      ['hour=x', 'hour'],
      ['hour=1400&hour=1401', 'hour'],
      [`hour=${'9'.repeat(400)}`, 'hour'],
      ['hour=1400&nth=-4', 'nth'],
      ['hour=1400&sought=won', 'sought'],
      ['hour=1400&colour=red', 'colour']
    ]) {
      const answer = await ask('GET', `/opportunity?${query}`)
      expect([query, answer.status, answer.body.issues[0].field]).toEqual([query, 422, field])
    }
  })
})

describe('files of sellers', () => {
  it('that a site does not give just now are told so, and are not kept; one that is not there is', async () => {
    let status = 503
    let asked = 0
    const site = createServer((_, response) => {
      asked++
      response.writeHead(status)
      response.end('')
    }).listen(0, '127.0.0.1')
    await new Promise((resolve) => site.once('listening', resolve))
    const needs = {
      catalogue: server.deps.catalogue,
      sellersWeb: { address: `http://127.0.0.1:${(site.address() as AddressInfo).port}`, close: () => Promise.resolve() }
    }
    const code = server.deps.catalogue.inventory.properties.find((property) => !property.anonymous)?.domain ?? ''
    await expect(propertyOf(needs, code)).rejects.toMatchObject({ status: 503, code: 'not-ready' })
    status = 404
    expect((await propertyOf(needs, code)).file).toMatchObject({ found: false })
    const before = asked
    expect((await propertyOf(needs, code)).file).toMatchObject({ found: false })
    expect(asked).toBe(before)
    await new Promise((resolve) => site.close(resolve))
    const away = { ...needs, sellersWeb: { ...needs.sellersWeb, address: 'http://127.0.0.1:1' } }
    await expect(propertyOf(away, code)).rejects.toMatchObject({ status: 503 })
  })
})

describe('the demo’s set-up', () => {
  it('cut off between a step and its note begins that step again, with nothing of it left behind', async () => {
    const lists = await SavedList.count()
    await server.deps.sequelize.transaction((transaction) => SetupStep.destroy({ where: { name: 'market objects' }, transaction }))
    const refuse = () => {
      throw new Error('killed here')
    }
    SetupStep.addHook('beforeCreate', 'kill', refuse)
    await expect(setUpDemo(server.deps, () => undefined)).rejects.toThrow('killed here')
    expect(await SavedList.count()).toBe(lists)
    SetupStep.removeHook('beforeCreate', 'kill')
    await setUpDemo(server.deps, () => undefined)
    expect(await SetupStep.count()).toBe(6)
  })

  it('does what somebody did once, also where a start was cut off before it was noted', async () => {
    const { hour } = (await ask('GET', '/market')).body as { hour: number }
    const by = TRADER
    const line = 'Display, phones, DE AT'
    const twice = async (...deed: Parameters<typeof doDeed>) => {
      await doDeed(...deed)
      await doDeed(...deed)
    }
    await twice(server.deps, { hour, by, does: 'edit', line, change: (draft) => ({ ...draft, pacing: 'fast' }) })
    await twice(server.deps, { hour, by, does: 'slip', name: 'Faster', items: [{ line, fields: ['pacing'] }] })
    expect(await Slip.count({ where: { name: 'Faster' } })).toBe(1)
    await twice(server.deps, { hour, by, does: 'leave out what is dearer', line })
    await twice(server.deps, { hour, by, does: 'end', line })
    const ended = (await Line.findAll()).find((one) => one.draft.name === line)
    expect([ended?.state, await AuditEntry.count({ where: { object: 'line', objectId: ended?.id, action: 'end' } })]).toEqual(['ended', 1])
    await expect(doDeed(server.deps, { hour, by, does: 'end', line: 'No such line' })).rejects.toThrow('no line called "No such line"')
  })
})
