import type { Worker } from 'node:worker_threads'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { TENTH } from '@tin-harbor/core/market'
import { forecast, type ForecastQuestion } from '@tin-harbor/core/forecast'
import { makeWorld } from '@tin-harbor/core/market'
import { buildTape, openTape, tapeHash } from '@tin-harbor/core/tape'
import { ForecastPool } from '../src/jobs/forecast-pool.js'
import { TapeBuilder } from '../src/jobs/tape-builder.js'
import type { SharedTape } from '../src/jobs/messages.js'
import type { CancelWord } from '../src/jobs/threads.js'

const SIZE = { ...TENTH, people: 30_000 }

function question(over: Partial<ForecastQuestion> = {}): ForecastQuestion {
  return {
    targeting: { restrictions: [] }, price: { model: 'CPM', bidMicros: 1_500_000, maxMicros: null }, caps: [{ times: 3, hours: 24 }],
    money: { dailyMicros: null, totalMicros: null, pacing: 'even', campaignDailyMicros: null, campaignTotalMicros: null }, matesDemandMicros: 0,
    zone: 'UTC', startHour: 1440, endHour: 1440 + 20 * 24, nowHour: 1440, ...over
  }
}

let tapes: TapeBuilder
let pool: ForecastPool
let tape: SharedTape
const world = makeWorld(SIZE)
const built = (builder: TapeBuilder) => new Promise<SharedTape>((resolve) => builder.once('tape', resolve))
const workers = () => (pool as unknown as { seats: { worker: Worker }[] }).seats.map((seat) => seat.worker)

beforeAll(async () => {
  tapes = new TapeBuilder(SIZE)
  pool = new ForecastPool(await tapes.world)
})
afterAll(async () => {
  await pool.close()
  await tapes.close()
})

describe('the tape thread', () => {
  it('until there is a tape, a question is told to wait', async () => {
    expect(pool.isReady).toBe(false)
    await expect(pool.ask('p', question())).rejects.toMatchObject({ status: 503, code: 'not-ready' })
  })

  it('builds what core builds, tells how far it is, and builds nothing twice', async () => {
    const shares: number[] = []
    tapes.on('progress', (share: number) => shares.push(share))
    const ready = built(tapes)
    tapes.build(59)
    tape = await ready
    expect(tapeHash(openTape(tape.head, tape.buffers))).toBe(tapeHash(buildTape(world, 59)))
    expect(shares.at(-1)).toBe(1)
    expect([...shares].sort((a, b) => a - b)).toEqual(shares)
    let again = 0
    tapes.on('tape', () => again++)
    tapes.build(59)
    await new Promise((resolve) => setTimeout(resolve, 300))
    expect(again).toBe(0)
    pool.setTape(tape)
  })

  it('asked for two more days at once, ends with the last', async () => {
    const days: number[] = []
    const listener = (made: SharedTape) => days.push(made.head.firstDay)
    tapes.on('tape', listener)
    tapes.build(60)
    tapes.build(61)
    tapes.build(62)
    while (days.at(-1) !== 49) await built(tapes)
    tapes.off('tape', listener)
    expect(days).toEqual([47, 49])
  })
})

describe('the forecast workers', () => {
  it('answer as core does', async () => {
    const { forecast: answer, milliseconds } = await pool.ask('a', question())
    expect(answer).toEqual(forecast(question(), openTape(tape.head, tape.buffers), world.inventory))
    expect(milliseconds).toBeGreaterThan(0)
  })

  it('give a page its newest answer only, and other pages theirs', async () => {
    const older = Array.from({ length: 6 }, (_, n) => pool.ask('busy', question(), n + 1).then(() => 'answered', (error: { code: string }) => error.code))
    const other = pool.ask('other', question(), 1)
    const newest = pool.ask('busy', question(), 7)
    expect(await Promise.all(older)).toEqual(Array(6).fill('superseded'))
    expect((await newest).forecast.day.wins).toBe((await other).forecast.day.wins)
  })

  it('refuse a question that was overtaken on its way', async () => {
    await pool.ask('late', question(), 5)
    await expect(pool.ask('late', question(), 4)).rejects.toMatchObject({ code: 'superseded' })
    await pool.ask('late', question(), 5)
  })

  it('stop when nobody waits any more', async () => {
    let word: CancelWord | undefined
    const asked = pool.ask('gone', question(), 1, (given) => (word = given))
    word?.set()
    await expect(asked).rejects.toMatchObject({ code: 'superseded' })
  })

  it('are started anew when one dies, and the question is asked once more', async () => {
    const before = workers()
    const asked = pool.ask('dies', question(), 1)
    await Promise.all(before.map((worker) => worker.terminate()))
    expect((await asked).forecast.day.wins).toBeGreaterThan(0)
    expect(workers().some((worker) => before.includes(worker))).toBe(false)
  })

  it('name what cannot be computed instead of dying of it', async () => {
    await expect(pool.ask('odd', question({ zone: 'Nowhere/Land' }))).rejects.toMatchObject({ status: 500, message: expect.stringContaining('Nowhere/Land') })
    expect((await pool.ask('odd', question())).forecast.day.wins).toBeGreaterThan(0)
  })

  it('go on with the old tape until the new one is there', async () => {
    const asked = pool.ask('swap', question())
    const ready = built(tapes)
    tapes.build(64)
    pool.setTape(await ready)
    expect((await asked).forecast.tape.firstDay).toBe(tape.head.firstDay)
    expect((await pool.ask('swap', question())).forecast.tape.firstDay).toBe(51)
  })

  it('count the market', async () => {
    const rows = await pool.properties('m', { restrictions: [{ dimension: 'where', mode: 'include', values: ['JP'] }] })
    expect(rows.length).toBeGreaterThan(10)
    expect(rows.every((row) => row.opportunitiesADay > 0 && row.viewability <= 1)).toBe(true)
  })
})
