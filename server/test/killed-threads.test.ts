import { QueryTypes } from 'sequelize'
import { afterAll, describe, expect, it } from 'vitest'
import { sequence } from '@tin-harbor/core/random'
import { TRADER, lineDraft, readyLine, testServer, type Ask, type TestServer } from './support/server.js'

const HOURS = 10
const MOST_KILLS = 10
let server: TestServer | undefined
afterAll(() => server?.close())

/** What a server booked: every hour's log, and the money. */
async function booked({ deps }: TestServer) {
  const all = <T extends object>(sql: string) => deps.sequelize.query<T>(sql, { type: QueryTypes.SELECT })
  return {
    logs: await all('SELECT hour, n, crc32, event_crc32 FROM delivery_hour ORDER BY hour'),
    money: await all("SELECT SUM(amount_micros) AS micros FROM ledger_entry WHERE kind = 'spend'")
  }
}

/** Ends a thread of the server's now and then, until it is stopped; whichever it may be, but for those that would stay away. */
function killer({ deps }: TestServer, seed: number) {
  const random = sequence(seed)
  let ends: ReturnType<typeof setTimeout> | undefined
  let kills = 0
  const end = () => {
    const running = deps.threads.running().filter(({ deathsInTurn }) => kills < MOST_KILLS && deathsInTurn < 2)
    if (running.length > 0) {
      void running[random.below(running.length)].running?.terminate()
      kills++
    }
    wait()
  }
  const wait = () => (ends = setTimeout(end, 200 + random.below(250)))
  wait()
  return () => {
    clearTimeout(ends)
    return kills
  }
}

/** A user of a server with one line more than its demo has. */
async function withOneLine(server: TestServer): Promise<Ask> {
  const ask = await server.as(TRADER)
  const { lineId, version } = await readyLine(ask)
  expect((await ask('POST', `/lines/${lineId}/live`, { version, token: 'killed-threads' })).status).toBe(200)
  return ask
}

async function run({ deps }: TestServer, ask: Ask): Promise<void> {
  expect((await ask('POST', '/market/run', { hours: HOURS })).status).toBe(204)
  await deps.runner.idle()
}

describe('threads that are killed at random', () => {
  it('leave every question answered, and a market that is to the bit that of a calm server', { timeout: 240_000 }, async () => {
    // Models know one database at a time: the servers run one after the other.
    const calm = await testServer('threads_calm')
    await run(calm, await withOneLine(calm))
    const wanted = await booked(calm)
    await calm.close()
    const killed = (server = await testServer('threads_killed'))
    const ask = await withOneLine(killed)

    const stop = killer(killed, 12)
    let isRunning = true
    const became = new Map<string, number>()
    const note = ({ status, body }: { status: number; body: { code?: string } }) => {
      const name = status === 500 ? `500 ${body.code}` : String(status)
      became.set(name, (became.get(name) ?? 0) + 1)
    }
    const asking = async (path: () => [method: string, path: string, body?: unknown]) => {
      while (isRunning) note(await ask(...path()))
    }
    let number = 0
    const questions = [
      asking(() => [
        'POST',
        '/forecast',
        {
          page: 'killed',
          number: ++number,
          campaignId: 1,
          lineId: null,
          line: lineDraft({ budget: { dailyMicros: 100_000 + number, totalMicros: null } })
        }
      ]),
      asking(() => ['GET', '/opportunity?hour=1400']),
      asking(() => ['GET', '/reports?by=device&from=2026-02-25&to=2026-03-01'])
    ]
    await run(killed, ask)
    isRunning = false
    await Promise.all(questions)
    const kills = stop()

    expect(kills).toBeGreaterThan(5)
    expect(await booked(killed)).toEqual(wanted)
    expect(killed.deps.runner.status.trouble).toBeNull()
    const known = ['200', '500 records-failed', '500 forecast-failed', '503']
    for (const name of became.keys()) expect(known).toContain(name)
    expect(became.get('200') ?? 0).toBeGreaterThan(20)

    // Once they are left alone, everything answers, and all deaths were counted.
    expect((await ask('GET', '/opportunity?hour=1400')).status).toBe(200)
    const health = (await (await fetch(`${killed.address}/healthz`)).json()) as {
      threads: Record<string, { running: number; deaths: number }>
    }
    const counts = Object.values(health.threads)
    expect(counts.reduce((sum, { deaths }) => sum + deaths, 0)).toBeGreaterThan(5)
    expect(health.threads.forecast.running).toBe(2)
  })

  it('end a run at its whole hour when an hour kills its thread again and again, whatever else the thread answers', async () => {
    const { runner, threads } = (server as TestServer).deps
    const ask = await (server as TestServer).as(TRADER)
    const { hour } = runner.status
    const opened = () => (runner as unknown as { opened: unknown }).opened !== null
    expect((await ask('POST', '/market/run', { hours: 24 })).status).toBe(204)
    while (runner.status.running) {
      if (opened())
        await threads
          .running()
          .find(({ name }) => name === 'market')
          ?.running?.terminate()
      await new Promise((resolve) => setTimeout(resolve, 5))
    }
    expect(runner.status).toMatchObject({ hour, trouble: expect.stringContaining('stopped at a whole hour') })

    expect((await ask('POST', '/market/run', { hours: 1 })).status).toBe(204)
    await runner.idle()
    expect(runner.status).toMatchObject({ hour: hour + 1, trouble: null })
    // The makers of days are the market thread's own; they are counted as well.
    expect(threads.counts().day.running).toBeGreaterThan(0)
  })
})
