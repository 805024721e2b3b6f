import { tmpdir } from 'node:os'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import express from 'express'
import { pino } from 'pino'
import { ConnectionError, DatabaseError, ForeignKeyConstraintError, UniqueConstraintError } from 'sequelize'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { InputError, TransitionError } from '@tin-harbor/core/buying'
import * as errors from '../src/http/errors.js'
import { errorMiddleware } from '../src/http/error-middleware.js'
import { readJson } from '../src/http/bodies.js'
import { retrying } from '../src/database/connection.js'
import { readConfiguration } from '../src/configuration.js'
import { makeLog } from '../src/log.js'
import { passwordFits, hashPassword } from '../src/security/passwords.js'
import { drawPicture, type Scene } from '../src/demo/pictures.js'
import { factsOf } from './support/files.js'

const databaseError = (code: string) =>
  new DatabaseError(Object.assign(new Error('SELECT secret FROM user'), { sql: 'SELECT secret FROM user', code }))
const constraint = { parent: Object.assign(new Error('x'), { sql: '' }) }

/** Everything that can go wrong, and what a caller is told of it. */
const catalogue: [string, () => Error, number, string][] = [
  ['one wrong field', () => errors.invalidField('price.bidMicros', 'The bid must be more than 0.'), 422, 'invalid'],
  ['an input that core refused', () => new InputError([{ field: 'name', message: 'A name is needed.' }]), 422, 'invalid'],
  ['nobody signed in', errors.notSignedIn, 401, 'not-signed-in'],
  ['a wrong sign-in', errors.wrongSignIn, 401, 'wrong-sign-in'],
  ['a missing right', () => errors.notAllowed('A reader may not do this.'), 403, 'not-allowed'],
  ['an unknown object', () => errors.unknownObject('line'), 404, 'unknown'],
  ['a stale edit', () => errors.stale('line', { version: 3 }), 409, 'stale'],
  ['a move that cannot be', () => new TransitionError('A line that is draft cannot be paused.'), 409, 'conflict'],
  ['a question overtaken', errors.superseded, 409, 'superseded'],
  ['too large', () => errors.tooLarge('At most 8 MB.'), 413, 'too-large'],
  ['no tape yet', () => errors.notReady('The tape is being built.'), 503, 'not-ready'],
  ['a name taken', () => new UniqueConstraintError({ message: 'Duplicate entry' }), 409, 'conflict'],
  ['a broken reference', () => new ForeignKeyConstraintError(constraint as never), 409, 'conflict'],
  ['a database away', () => new ConnectionError(new Error('connect ECONNREFUSED')), 503, 'not-ready'],
  ['a connection lost in the middle', () => databaseError('ECONNRESET'), 503, 'not-ready'],
  ['a statement that failed', () => databaseError('ER_BAD_FIELD_ERROR'), 500, 'unexpected'],
  ['two who waited for each other', () => Object.assign(databaseError('ER_LOCK_DEADLOCK'), { original: { errno: 1213 } }), 409, 'conflict'],
  [
    'something of ours whose cause is for the log',
    () => errors.failed('forecast-failed', 'The forecast failed.', new Error('secret')),
    500,
    'forecast-failed'
  ],
  ['too many who wait', () => errors.tooBusy('Many forecasts are waited for.'), 503, 'too-busy'],
  ['anything else', () => new Error('secret at /srv/app.js:1'), 500, 'unexpected']
]

describe('what a caller is told', () => {
  let server: Server
  let base = ''
  beforeAll(async () => {
    const app = express()
    app.post('/json', async (req, res) => void res.json(await readJson(req, 100)))
    app.use('/files', express.static(tmpdir(), { fallthrough: false }))
    app.get('/:n', (req) => {
      throw catalogue[Number(req.params.n)][1]()
    })
    app.use(errorMiddleware(pino({ level: 'silent' })))
    server = createServer(app).listen(0, '127.0.0.1')
    await new Promise((resolve) => server.once('listening', resolve))
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  })
  afterAll(() => new Promise((resolve) => server.close(resolve)))

  it.each(catalogue.map(([name, , status, code], n) => [name, n, status, code] as const))('%s', async (_, n, status, code) => {
    const response = await fetch(`${base}/${n}`)
    const text = await response.text()
    expect(response.status).toBe(status)
    expect(response.headers.get('content-type')).toContain('application/problem+json')
    const problem = JSON.parse(text) as { status: number; code: string; title: string }
    expect(problem).toMatchObject({ status, code })
    expect(problem.title.length).toBeGreaterThan(5)
    expect(text).not.toMatch(/secret|SELECT|\.js:/)
  })

  it('bodies that are no JSON, or too much of it', async () => {
    const send = (body: string) => fetch(`${base}/json`, { method: 'POST', headers: { 'content-type': 'application/json' }, body })
    expect(await (await send('{"a":')).json()).toMatchObject({ status: 400, code: 'not-json' })
    expect(await (await send(JSON.stringify({ a: 'x'.repeat(200) }))).json()).toMatchObject({
      status: 413,
      code: 'too-large',
      issues: [{ field: 'body' }]
    })
    expect(await (await send('{"a":1}')).json()).toEqual({ a: 1 })
    expect(await (await send('')).json()).toEqual({})
    // Longer than it says, or says nothing: what comes after the limit is not kept.
    const streamed = await fetch(`${base}/json`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      duplex: 'half',
      body: new ReadableStream({
        start: (to) => {
          for (let n = 0; n < 50; n++) to.enqueue(new TextEncoder().encode('[[[[[[[[[['))
          to.close()
        }
      })
    } as RequestInit)
    expect(streamed.status).toBe(413)
    const bytes = await fetch(`${base}/json`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: new Uint8Array([0x22, 0xff, 0x22])
    })
    expect(await bytes.json()).toMatchObject({ status: 400, code: 'not-json' })
    const text = await fetch(`${base}/json`, { method: 'POST', headers: { 'content-type': 'text/plain' }, body: '{}' })
    expect(await text.json()).toMatchObject({ status: 415, code: 'not-json' })
  })

  it('a file that is not there is nothing of ours that failed', async () => {
    const answer = await fetch(`${base}/files/no-such-file.js`)
    expect(await answer.json()).toMatchObject({ status: 404, code: 'unknown' })
  })
})

describe('configuration', () => {
  it('must name a database, and keeps what goes into a cookie harmless', () => {
    expect(() => readConfiguration({})).toThrow('DATABASE_URL')
    expect(readConfiguration({ DATABASE_URL: 'x', TIN_HARBOR_INSTANCE: 'a;b c=../1' }).instance).toBe('abc1')
    expect(readConfiguration({ DATABASE_URL: 'x', TIN_HARBOR_PEOPLE: '5000' }).world.people).toBe(5000)
  })
})

describe('passwords', () => {
  it('are kept as argon2id, and nobody fits where there is no user', async () => {
    const hash = await hashPassword('harbor-lights')
    expect(hash).toMatch(/^\$argon2id\$/)
    expect([
      await passwordFits(hash, 'harbor-lights'),
      await passwordFits(hash, 'Harbor-lights'),
      await passwordFits(null, 'nobody signs in with this')
    ]).toEqual([true, false, false])
  })
})

describe('the demo’s pictures', () => {
  it.each(['night sky', 'cargo bike', 'brush strokes'] satisfies Scene[])(
    '%s is drawn in the size of its slot, light enough to be taken',
    async (scene) => {
      for (const [width, height] of [
        [300, 250],
        [728, 90],
        [300, 600]
      ]) {
        const data = await drawPicture(scene, width, height)
        expect(await factsOf(data)).toMatchObject({ type: 'image/png', width, height })
        expect(data.length).toBeLessThan(60 * 1024)
      }
    }
  )
})

describe('a use case that the database broke off', () => {
  const broken = (errno: number) => Object.assign(new Error('broken off'), { original: { errno } })
  it('is run again after a deadlock or a lock wait, three times at most, and after nothing else', async () => {
    const runs = async (errno: number, failures: number) => {
      let n = 0
      const outcome = await retrying(async () => {
        if (n++ < failures) throw broken(errno)
        return 'done'
      }).catch(() => 'failed')
      return [outcome, n]
    }
    expect(await runs(1213, 2)).toEqual(['done', 3])
    expect(await runs(1205, 1)).toEqual(['done', 2])
    expect(await runs(1213, 3)).toEqual(['failed', 3])
    expect(await runs(1062, 1)).toEqual(['failed', 1])
  })
})

describe('the log', () => {
  it('tells an error with all that caused it, and no secret', () => {
    const lines: string[] = []
    const log = makeLog('info', { write: (line: string) => void lines.push(line) })
    const statement = Object.assign(new Error('ER_X'), { parameters: ['$argon2id$secret'], parent: { parameters: ['secret too'] } })
    log.error({ err: new Error('the run stopped', { cause: statement }), password: 'harbor-lights' }, 'stopped')
    const told = JSON.parse(lines[0]) as { err: { message: string; cause: { message: string } } }
    expect([told.err.message, told.err.cause.message]).toEqual(['the run stopped', 'ER_X'])
    expect(lines[0]).not.toMatch(/secret|harbor-lights/)
  })
})
