import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { TENTH } from '@tin-harbor/core/market'
import {
  NOTHING_SPENT,
  NO_LIMITS,
  answer,
  forecastMarket,
  type ForecastPart,
  type ForecastQuestion,
  type MainFigures
} from '@tin-harbor/core/forecast'
import { OPEN_MARKET } from '@tin-harbor/core/pricing'
import { makeBenchmarks } from '@tin-harbor/core/response'
import { makeGiven, makeWorld, publishMeasures } from '@tin-harbor/core/market'
import { buildTape, openTape, tapeHash } from '@tin-harbor/core/tape'
import { ForecastPool } from '../src/forecasts/forecast-pool.js'
import { TapeBuilder } from '../src/tape/tape-builder.js'
import type { SharedTape } from '../src/threads/shared-world.js'
import { CancelWord } from '../src/threads/cancel-word.js'
import { Threads } from '../src/threads/threads.js'

const SIZE = { ...TENTH, people: 30_000 }

function question(over: Partial<ForecastQuestion> = {}): ForecastQuestion {
  return {
    targeting: { restrictions: [] },
    shapes: [0, 1, 2, 3],
    price: { model: 'CPM', bidMicros: 1_500_000, maxMicros: null },
    hours: null,
    caps: [{ times: 3, hours: 24 }],
    gapMinutes: 0,
    campaignCaps: [],
    buys: OPEN_MARKET,
    dataMicros: 0,
    pacing: 'even',
    limits: NO_LIMITS,
    spent: NOTHING_SPENT,
    campaignLimits: NO_LIMITS,
    campaignSpent: NOTHING_SPENT,
    sharers: [],
    zone: 'UTC',
    startHour: 1440,
    endHour: 1440 + 20 * 24,
    nowHour: 1440,
    exposures: { person: [], minute: [] },
    ...over
  }
}

const threads = new Threads()
let tapes: TapeBuilder
let pool: ForecastPool
let tape: SharedTape
const world = makeWorld(SIZE)
const market = forecastMarket(
  { inventory: world.inventory, profiles: world.profiles, measures: publishMeasures(world.seed, world.inventory) },
  makeBenchmarks(world.inventory)
)
const built = (builder: TapeBuilder) => new Promise<SharedTape>((resolve) => builder.once('tape', resolve))
/** The main figures alone. */
const asker = (page: string, person = 'somebody', word = new CancelWord()) => ({ person, page, word })
async function askOf(pool: ForecastPool, page: string, asked: ForecastQuestion, number = 0, word = new CancelWord()) {
  const found: { forecast: MainFigures; milliseconds: number }[] = []
  await pool.stream(asker(page, 'somebody', word), asked, 'wins', number, (part, milliseconds) => {
    if (part.part === 'figures') found.push({ forecast: part.figures, milliseconds })
  })
  return found[found.length - 1]
}
const workers = () =>
  threads
    .running()
    .filter(({ name }) => name === 'forecast')
    .map(({ running }) => running)

beforeAll(async () => {
  tapes = new TapeBuilder(threads, SIZE, makeGiven(SIZE.seed))
  pool = new ForecastPool(threads, tapes.world)
  await tapes.ready
})
afterAll(async () => {
  await pool.close()
  await tapes.close()
})

describe('the tape thread', () => {
  it('until there is a tape, a question is told to wait', async () => {
    expect(pool.isReady).toBe(false)
    await expect(askOf(pool, 'p', question())).rejects.toMatchObject({ status: 503, code: 'not-ready' })
  })

  it('builds what core builds, tells how far it is, and builds nothing twice', async () => {
    const shares: number[] = []
    tapes.on('progress', (share: number) => shares.push(share))
    const ready = built(tapes)
    tapes.build(59)
    tape = await ready
    expect(tapeHash(openTape(tape.buffer))).toBe(tapeHash(buildTape(world, 59)))
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

describe('a tape thread that dies', () => {
  it('is started anew and builds what it was at; one that dies again and again stays away, and says so', { timeout: 300_000 }, async () => {
    const deaths: boolean[] = []
    const ownThreads = new Threads((_, __, isAway) => deaths.push(isAway))
    const own = new TapeBuilder(ownThreads, SIZE, makeGiven(SIZE.seed))
    const kill = () =>
      ownThreads
        .running()
        .find(({ name }) => name === 'tape')
        ?.running?.terminate()
    let troubles = 0
    own.on('trouble', () => troubles++)
    await own.ready
    const ready = built(own)
    own.build(59)
    await kill()
    expect((await ready).head.firstDay).toBe(46)
    expect(deaths).toEqual([false])
    // The tape is told before the request ends.
    while (ownThreads.running()[0]?.deathsInTurn !== 0) await new Promise((resolve) => setTimeout(resolve, 10))
    const trouble = new Promise((resolve) => own.once('trouble', resolve))
    own.build(60)
    for (let n = 0; n < 4; n++) {
      await kill()
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    expect(await trouble).toMatchObject({ name: 'ThreadDiedError' })
    expect([deaths, troubles]).toEqual([[false, false, false, false, true], 1])
    expect(ownThreads.counts().tape).toEqual({ running: 0, deaths: 5 })
    own.build(61)
    await new Promise((resolve) => setTimeout(resolve, 20))
    expect(troubles).toBe(2)
    await own.close()
    expect(own.current?.head.firstDay).toBe(46)
  })
})

describe('the forecast workers', () => {
  it('answer as core does', async () => {
    const { forecast: told, milliseconds } = await askOf(pool, 'a', question())
    const [first] = answer(question(), 'wins', openTape(tape.buffer), market, () => false)
    expect({ part: 'figures', figures: told }).toEqual(first)
    expect(milliseconds).toBeGreaterThan(0)
  })

  it('give a page its newest answer only, and other pages theirs', async () => {
    const older = Array.from({ length: 6 }, (_, n) =>
      askOf(pool, 'busy', question(), n + 1).then(
        () => 'answered',
        (error: { code: string }) => error.code
      )
    )
    const other = askOf(pool, 'other', question(), 1)
    const newest = askOf(pool, 'busy', question(), 7)
    expect(await Promise.all(older)).toEqual(Array(6).fill('superseded'))
    expect((await newest).forecast.day.wins.value).toBe((await other).forecast.day.wins.value)
  })

  it('refuse a question that was overtaken on its way', async () => {
    await askOf(pool, 'late', question(), 5)
    await expect(askOf(pool, 'late', question(), 4)).rejects.toMatchObject({ code: 'superseded' })
    await askOf(pool, 'late', question(), 5)
  })

  it('stop when nobody waits any more', async () => {
    const word = new CancelWord()
    const asked = askOf(pool, 'gone', question(), 1, word)
    word.set()
    await expect(asked).rejects.toMatchObject({ code: 'superseded' })
  })

  it('do not begin what was given up while it waited, and hold nobody up with it', async () => {
    const words = Array.from({ length: 60 }, () => new CancelWord())
    const gone = words.map((word, n) =>
      askOf(pool, `gone ${n}`, question(), 1, word).then(
        () => 'answered',
        (error: { code: string }) => error.code
      )
    )
    for (const word of words) word.set()
    expect(pool.waiting).toBe(0)
    expect((await askOf(pool, 'stays', question(), 1)).forecast.day.wins.value).toBeGreaterThan(0)
    expect(new Set(await Promise.all(gone))).toEqual(new Set(['superseded']))
    const before = new CancelWord()
    before.set()
    await expect(askOf(pool, 'gone before', question(), 1, before)).rejects.toMatchObject({ code: 'superseded' })
  })

  it('give everybody their main figures before anybody the rest, and each page all its parts once', async () => {
    const told: string[] = []
    const pages = Array.from({ length: 12 }, (_, n) => `many ${n}`)
    await Promise.all(
      pages.map((page, n) =>
        pool.stream(asker(page, `person ${n % 3}`), question(), 'wins', 1, ({ part }) => told.push(`${part} of ${page}`))
      )
    )
    for (const page of pages)
      expect(told.filter((one) => one.endsWith(` of ${page}`)).map((one) => one.split(' ')[0])).toEqual([
        'figures',
        'ladder',
        'sieve',
        'breakdowns',
        'advice'
      ])
    const lastFigures = Math.max(...told.map((one, n) => (one.startsWith('figures') ? n : -1)))
    // Two began before the others came; one of the rests goes after a dozen firsts.
    expect(told.slice(0, lastFigures).filter((one) => one.startsWith('advice')).length).toBeLessThanOrEqual(5)
  })

  it('work for nobody’s page once nobody has asked for a while', async () => {
    const slow = new ForecastPool(threads, tapes.world, tape, 12, 700)
    const asked = performance.now()
    const page = askOf(slow, 'just opened', question(), 1).then(() => performance.now())
    const leisure = slow.adviceAtLeisure(question(), 'wins').then(() => performance.now())
    expect(await leisure).toBeGreaterThan(Math.max(await page, asked + 700))
    await slow.close()
  })

  it('work for nobody’s page only when nobody else asks', async () => {
    const done: string[] = []
    const pages = Array.from({ length: 6 }, (_, n) => askOf(pool, `asks ${n}`, question(), 1).then(() => done.push('a page')))
    const leisure = pool.adviceAtLeisure(question(), 'wins').then(({ possible }) => (done.push('nobody'), possible))
    await Promise.all(pages)
    expect(done).not.toContain('nobody')
    expect(await leisure).toBeGreaterThan(0)
  })

  it('refuse with a sentence what is too much, of whoever asks most', async () => {
    const small = new ForecastPool(threads, tapes.world, tape, 12)
    const flood = Array.from({ length: 40 }, (_, n) =>
      small
        .stream(asker(`flood ${n}`, 'flooder'), question(), 'wins', 1, () => undefined)
        .then(
          () => 'answered',
          (error: { code: string }) => error.code
        )
    )
    const other = small
      .stream(asker('calm', 'another'), question(), 'wins', 1, () => undefined)
      .then(
        () => 'answered',
        (error: { code: string }) => error.code
      )
    expect(await other).toBe('answered')
    const became = await Promise.all(flood)
    expect(became.filter((one) => one === 'too-busy').length).toBeGreaterThanOrEqual(26)
    expect(became.filter((one) => one === 'answered').length).toBeGreaterThanOrEqual(12)
    await small.close()
  })

  it('are started anew when one dies, and the question is asked once more', async () => {
    const before = workers()
    const asked = askOf(pool, 'dies', question(), 1)
    await Promise.all(before.map((worker) => worker?.terminate()))
    expect((await asked).forecast.day.wins.value).toBeGreaterThan(0)
    expect(workers().some((worker) => before.includes(worker))).toBe(false)
  })

  it('tell the parts of an answer in order, main figures first, and keep what does not change', async () => {
    const parts: ForecastPart[] = []
    await pool.stream(asker('parts'), question(), 'wins', 1, (part) => parts.push(part))
    expect(parts.map((part) => part.part)).toEqual(['figures', 'ladder', 'sieve', 'breakdowns', 'advice'])
    expect(parts).toEqual([...answer(question(), 'wins', openTape(tape.buffer), market, () => false)])
  })

  it('name what cannot be computed instead of dying of it', async () => {
    await expect(askOf(pool, 'odd', question({ zone: 'Nowhere/Land' }))).rejects.toMatchObject({
      status: 500,
      message: 'The forecast failed; change something and try again.',
      cause: { message: expect.stringContaining('Nowhere/Land'), cause: { stack: expect.stringContaining('dist/bundled') } }
    })
    expect((await askOf(pool, 'odd', question())).forecast.day.wins.value).toBeGreaterThan(0)
  })

  it('go on with the old tape until the new one is there', async () => {
    const asked = askOf(pool, 'swap', question())
    const ready = built(tapes)
    tapes.build(64)
    pool.setTape(await ready)
    expect((await asked).forecast.tape.firstDay).toBe(tape.head.firstDay)
    expect((await askOf(pool, 'swap', question())).forecast.tape.firstDay).toBe(51)
  })

  it('count the market', async () => {
    const sentence = {
      formats: ['native' as const],
      targeting: { restrictions: [{ dimension: 'where' as const, mode: 'include' as const, values: ['JP'] }] },
      hours: null
    }
    const count = (page: string, zone = 'Europe/Lisbon') =>
      pool.survey(asker(page), { sentence, by: ['property'], without: null, bidMicros: 1_000_000, deals: [] }, zone)
    const found = await count('m')
    const {
      groups: [{ rows }],
      total
    } = found
    expect(rows.length).toBeGreaterThan(10)
    expect(rows.reduce((sum, row) => sum + row.opportunitiesADay, 0)).toBeCloseTo(total.opportunitiesADay, 6)
    // Whoever asks the same is told the same, until there is another tape; one that was given up leaves nothing.
    expect(await count('another')).toBe(found)
    const given = asker('n')
    const asked = pool.survey(given, { sentence, by: ['country'], without: null, bidMicros: 0, deals: [] }, 'Europe/Lisbon')
    given.word.set()
    await expect(asked).rejects.toMatchObject({ code: 'superseded' })
    const whole = await pool.survey(asker('o'), { sentence, by: ['country'], without: null, bidMicros: 0, deals: [] }, 'Europe/Lisbon')
    expect(whole.groups[0].rows.length).toBeGreaterThan(0)
    pool.setTape(tape)
    expect((await count('m')).total).not.toEqual(found.total)
  })
})
