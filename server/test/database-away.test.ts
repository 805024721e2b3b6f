import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { isAlive, lookAfter, startDatabase, takeTurn } from '../../scripts/database.mjs'
import { TRADER, testServer } from './support/server.js'

const folder = mkdtempSync(join(tmpdir(), 'away-'))
const strangers: ChildProcess[] = []
afterAll(() => {
  for (const stranger of strangers) stranger.kill()
  rmSync(folder, { recursive: true, force: true })
})
const until = async (holds: () => boolean | Promise<boolean>, most = 20_000) => {
  const began = Date.now()
  while (!(await holds())) {
    if (Date.now() - began > most) throw new Error('It did not come to be.')
    await new Promise((resolve) => setTimeout(resolve, 20))
  }
  return Date.now() - began
}

describe('launchers of one folder', () => {
  it('take turns; a file of nobody alive, an empty one and one of a living stranger hold nobody up', async () => {
    const lock = join(folder, 'turn')
    const stranger = spawn('sleep', ['60'])
    strangers.push(stranger)
    const began = Date.now()
    for (const left of [
      '',
      'null',
      '999999999',
      String(stranger.pid),
      JSON.stringify({ pid: stranger.pid, started: '1' }),
      JSON.stringify({ pid: 999_999_999, started: '5' })
    ]) {
      writeFileSync(lock, left)
      const end = await takeTurn(folder)
      expect(JSON.parse(readFileSync(lock, 'utf8')).pid).toBe(process.pid)
      end()
      expect(existsSync(lock)).toBe(false)
    }
    expect(Date.now() - began).toBeLessThan(2000)
  })

  it('wait for one that is at it, say so, and never have a turn together', async () => {
    const end = await takeTurn(folder)
    const told: string[] = []
    let under = 0
    let most = 0
    const waiting = Array.from({ length: 6 }, async () => {
      const own = await takeTurn(folder, (words: string) => told.push(words))
      most = Math.max(most, ++under)
      await new Promise((resolve) => setTimeout(resolve, 10))
      under--
      own()
    })
    await until(() => told.length > 0, 5000)
    expect(told[0]).toBe(`another start is under way (process ${process.pid}); this one goes on after it ...`)
    end()
    await Promise.all(waiting)
    expect(most).toBe(1)
  })
})

describe('a database that is killed under a running market', () => {
  it(
    'is told to pages within three seconds, started again, and the run goes on from its last whole hour',
    { timeout: 300_000 },
    async () => {
      const options = { schema: 'away', bufferMb: 64, forTests: true }
      const database = await startDatabase(folder, options)
      const told: string[] = []
      const endCare = lookAfter(folder, database, options, (words: string) => told.push(words))
      const server = await testServer('away', database.url)
      try {
        const ask = await server.as(TRADER)
        const session = await server.nobody('POST', '/session', { email: TRADER, password: 'harbor-lights' })
        const stream = await fetch(`${server.address}/api/events`, {
          headers: { cookie: (session.headers.get('set-cookie') ?? '').split(';')[0] }
        })
        let heard = ''
        const listening = (async () => {
          const reader = (stream.body as ReadableStream<Uint8Array>).pipeThrough(new TextDecoderStream()).getReader()
          for (let part = await reader.read(); !part.done; part = await reader.read()) heard += part.value
        })().catch(() => undefined)
        const hour = (await ask('GET', '/market')).body.hour as number
        expect((await ask('POST', '/market/run', { hours: 14, secondsAnHour: 0.2 })).status).toBe(204)
        await until(() => server.deps.runner.status.hour > hour + 3)
        const killed = Date.now()
        process.kill(database.pid, 'SIGKILL')
        await until(() => heard.includes('"kind":"database","away":true'))
        const toldAfter = Date.now() - killed
        expect(toldAfter).toBeLessThan(3000)
        const refused = await ask('GET', '/me')
        expect([401, 503, 200]).toContain(refused.status)
        expect(server.deps.runner.status.running).toBe(true)
        await until(() => heard.includes('"kind":"database","away":false'))
        const back = Date.now() - killed
        const before = server.deps.runner.status.hour
        await until(() => server.deps.runner.status.hour > before + 1)
        const goesOn = Date.now() - killed
        await server.deps.runner.idle()
        const { body } = await ask('GET', '/market')
        expect([body.hour, body.run.trouble]).toEqual([hour + 14, null])
        expect((await ask('GET', '/reports?by=line&from=2026-03-01&to=2026-03-05')).status).toBe(200)
        expect(told).toEqual(['the database ended; it is started again in 0.5 s', 'the database is back'])
        process.stdout.write(`a killed database: told after ${toldAfter} ms, back after ${back} ms, the run goes on after ${goesOn} ms\n`)
        await server.close()
        await listening
      } finally {
        endCare()
        await database.stop()
      }
      expect(isAlive(database.pid)).toBe(false)
    }
  )
})
