import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  Exchange,
  LogDamageError,
  OUTCOME,
  OUTCOMES,
  WIN_LAYOUT,
  WinLog,
  crc32,
  openLog,
  packLog,
  type HourFacts,
  type LineRules,
  type OpeningState,
  type WinRow
} from '../src/exchange/index.js'
import { failures, compileTargeting } from '../src/targeting/index.js'
import { effectiveBid } from '../src/pricing/index.js'
import { hashBytes } from '../src/random/index.js'
import { reopen } from './support/reopen.js'
import { PERSON_WORDS, SOURCES, codeAt, postalOf } from '../src/market/index.js'
import { COUNTRIES, POSTAL_COUNTRY } from '../src/places/index.js'
import { laneValues } from '../src/dimensions/index.js'
import {
  START,
  campaignRules,
  lineRules,
  numbers,
  opening,
  randomLine,
  runHours,
  sharedDay,
  smallWorld,
  targetingOf,
  winsOf,
  catalogueOf,
  reading
} from './support/lines.js'

const world = smallWorld()

function exchangeOf(lines: LineRules[], from: OpeningState = opening(), campaign = campaignRules()): Exchange {
  return new Exchange(world, { publication: 1, lines, campaigns: [campaign] }, from, sharedDay)
}

const allWords = (hours: readonly HourFacts[]) =>
  hours.map((facts) => [facts.hour, facts.crc, facts.wins, JSON.stringify(facts.outcomes), JSON.stringify(facts.lineStates)])

describe('the exchange, on random lines', () => {
  it('passes no money limit by a whole charge, no cap in any rolling window, and buys only what matches and is open', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const below = numbers(seed)
        const lines = Array.from({ length: 6 }, (_, n) => randomLine(n + 1, below))
        lines[0].endHour = START + 30
        lines[1].startHour = lines[1].liveFromHour = START + 10
        const campaign = campaignRules({ dailyMicros: 600_000, totalMicros: 1_500_000 })
        const hours = runHours(exchangeOf(lines, opening(), campaign), 72)
        const wins = winsOf(hours)
        const sum = (some: typeof wins) => some.reduce((total, win) => total + win.price, 0)
        const dearest = Math.max(...lines.map((line) => effectiveBid(line.price)))
        expect(sum(wins)).toBeLessThan(1_500_000 + dearest)
        for (let day = 60; day < 63; day++)
          expect(sum(wins.filter((win) => Math.floor(win.hour / 24) === day))).toBeLessThan(600_000 + dearest)
        for (const line of lines) {
          const own = wins.filter((win) => win.line === line.line)
          const bid = effectiveBid(line.price)
          expect(own.every((win) => win.price <= bid && win.hour >= line.startHour && win.hour < (line.endHour ?? Infinity))).toBe(true)
          if (line.limits.totalMicros !== null) expect(sum(own)).toBeLessThan(line.limits.totalMicros + bid)
          for (let day = 60; line.limits.dailyMicros !== null && day < 63; day++) {
            expect(sum(own.filter((win) => Math.floor(win.hour / 24) === day))).toBeLessThan(line.limits.dailyMicros + bid)
          }
          for (const cap of line.caps) {
            const times = new Map<number, number[]>()
            for (const win of own) times.set(win.person, [...(times.get(win.person) ?? []), win.minute])
            for (const minutes of times.values()) {
              for (let i = cap.times; i < minutes.length; i++)
                expect(minutes[i] - minutes[i - cap.times]).toBeGreaterThanOrEqual(cap.hours * 60)
            }
          }
        }
      }),
      { numRuns: 12 }
    )
  })

  it('counts outcomes that add up to the matched opportunities, won ones to the log', () => {
    const below = numbers(5)
    const lines = Array.from({ length: 40 }, (_, n) => randomLine(n + 1, below))
    const hours = runHours(exchangeOf(lines), 24)
    const { rows } = sharedDay(world, 60)
    for (const line of lines) {
      const compiled = compileTargeting(line.targeting, catalogueOf(world))
      let matched = 0
      for (let i = 0; i < rows.count; i++) if (failures(compiled, laneValues(world.persons.words, rows.person[i], rows, i)) === 0) matched++
      const counts = hours.flatMap((facts) => facts.outcomes.filter((outcome) => outcome.line === line.line))
      expect(counts.reduce((sum, { counts }) => sum + counts.reduce((a, b) => a + b, 0), 0)).toBe(matched)
      const won = counts.reduce((sum, { counts }) => sum + counts[OUTCOME.won], 0)
      expect(won).toBe(winsOf(hours).filter((win) => win.line === line.line).length)
    }
  })

  it('gives equal facts for one seed, and after being cut off and reopened at any hour', () => {
    const lines = Array.from({ length: 8 }, (_, n) => randomLine(n + 1, numbers(n + 77)))
    const campaign = campaignRules({ zone: 'America/New_York', dailyMicros: 500_000, totalMicros: 1_200_000 })
    const whole = runHours(exchangeOf(lines, opening(START, 1e9), campaign), 60)
    expect(allWords(runHours(exchangeOf(lines, opening(START, 1e9), campaign), 60))).toEqual(allWords(whole))
    const publication = { publication: 1, lines, campaigns: [campaign] }
    for (const cut of [1, 5, 23, 24, 29, 47])
      expect(allWords(runHours(exchangeOf(lines, reopen(world, publication, whole.slice(0, cut), 1e9), campaign), 60 - cut))).toEqual(
        allWords(whole.slice(cut))
      )
  })

  it('keeps its golden day', () => {
    const lines = Array.from({ length: 12 }, (_, n) => randomLine(n + 1, numbers(n + 900)))
    const log = runHours(exchangeOf(lines), 24).map((facts) => hashBytes(facts.log))
    expect(log.reduce((a, b) => (a ^ b) >>> 0).toString(16)).toMatchInlineSnapshot(`"5302ab67"`)
  })
})

describe('one line', () => {
  it('stops at the balance and never takes it below zero', () => {
    const hours = runHours(exchangeOf([lineRules(1)], opening(START, 50_000)), 6)
    const spent = hours.reduce((sum, facts) => sum + facts.spendMicros, 0)
    expect(spent).toBeLessThanOrEqual(50_000)
    expect(spent).toBeGreaterThan(47_000)
    expect(hours[5].outcomes[0].counts[OUTCOME.no_money]).toBeGreaterThan(0)
  })

  it('spends a reachable day evenly: near the plan at every hour, within 2 % at the end', () => {
    const line = lineRules(1, { dailyMicros: 400_000, targeting: targetingOf(['ES', 'PT', 'FR', 'DE', 'IT']) })
    const hours = runHours(exchangeOf([line]), 24)
    let spent = 0
    hours.forEach((facts, hour) => {
      spent += facts.spendMicros
      if (hour > 6) expect(Math.abs(spent / ((400_000 * (hour + 1)) / 24) - 1)).toBeLessThan(0.1)
    })
    expect(Math.abs(spent / 400_000 - 1)).toBeLessThan(0.02)
  })

  it('spends as fast as it can when told so', () => {
    const runWith = (pacing: 'even' | 'fast') =>
      runHours(exchangeOf([lineRules(1, { pacing, dailyMicros: 60_000 })]), 24).findIndex(
        (_, hour, all) => all.slice(0, hour + 1).reduce((sum, facts) => sum + facts.spendMicros, 0) > 54_000
      )
    expect(runWith('fast')).toBeLessThan(12)
    expect(runWith('even')).toBeGreaterThan(18)
  })

  it('pays its bid in first-price sources and what it had to beat in second-price ones', () => {
    const hours = runHours(exchangeOf([lineRules(1)]), 5)
    const { rows } = sharedDay(world, 60)
    const read = reading(world, rows)
    for (const facts of hours) {
      const log = openLog(facts.log, facts.wins, facts.crc)
      for (let i = 0; i < log.count; i++) {
        const row = Array.from({ length: rows.count }, (_, n) => n).find(
          (n) =>
            rows.person[n] === log.person[i] && rows.minute[n] === (facts.hour % 24) * 60 + log.minute[i] && rows.path[n] === log.path[i]
        ) as number
        const first = [0, 1, 4, 5].includes(log.path[i] % SOURCES.length)
        expect(log.price[i]).toBe(first ? 2500 : Math.max(read.floor(row), rows.rival[row]))
        if (i > 20) break
      }
    }
  })

  it('left-out placements, sizes without an ad and a low bid each have their outcome', () => {
    const all = runHours(exchangeOf([lineRules(1)]), 24)
    const busiest = winsOf(all).map((win) => win.placement)[0]
    const without = lineRules(1, {
      targeting: {
        restrictions: [
          ...targetingOf(['PT', 'ES']).restrictions,
          { dimension: 'placement', mode: 'exclude', values: [codeAt(world.inventory, 'placement', busiest) ?? ''] }
        ]
      }
    })
    expect(winsOf(runHours(exchangeOf([without]), 24)).some((win) => win.placement === busiest)).toBe(false)
    const count = (over: Partial<LineRules>, outcome: keyof typeof OUTCOME) =>
      runHours(exchangeOf([lineRules(1, over)]), 24).reduce((sum, facts) => sum + (facts.outcomes[0]?.counts[OUTCOME[outcome]] ?? 0), 0)
    expect(count({ ads: [] }, 'no_ad')).toBeGreaterThan(100)
    expect(count({ price: { model: 'CPM', bidMicros: 10_000, maxMicros: null } }, 'below_floor')).toBeGreaterThan(100)
    expect(count({ price: { model: 'CPM', bidMicros: 600_000, maxMicros: null } }, 'outbid')).toBeGreaterThan(100)
    expect(count({ caps: [{ times: 1, hours: 24 }] }, 'capped')).toBeGreaterThan(10)
  })

  it('never bids against itself: of two equal lines one wins and pays as if alone', () => {
    const alone = runHours(exchangeOf([lineRules(1)]), 24).reduce((sum, facts) => sum + facts.spendMicros, 0)
    const pair = runHours(exchangeOf([lineRules(1), lineRules(2)]), 24)
    expect(pair.reduce((sum, facts) => sum + facts.spendMicros, 0)).toBe(alone)
    const shares = [1, 2].map((line) => winsOf(pair).filter((win) => win.line === line).length)
    expect(Math.min(...shares) / (shares[0] + shares[1])).toBeGreaterThan(0.45)
  })

  it('gives up an hour when told to stop', () => {
    expect(exchangeOf([lineRules(1)]).runHour(() => true)).toBeNull()
  })
})

describe('the delivery log', () => {
  const row = {
    person: 9,
    line: 7,
    ad: 70,
    key: 4_000_000_001,
    price: 1234,
    media: 1234,
    data: 20,
    predicted: 0,
    path: 19,
    device: 2,
    page: 301,
    state: 44,
    deal: 0,
    did: 3,
    minute: 59,
    nth: 1
  }

  it('gathers wins in the columns of the log, as many as there are', () => {
    const below = numbers(77)
    const rows = Array.from(
      { length: 5000 },
      () => Object.fromEntries(WIN_LAYOUT.map(([name, bytes]) => [name, below(2 ** (8 * bytes))])) as WinRow
    )
    const log = new WinLog()
    for (const one of rows) log.push(one)
    expect(log.packed()).toEqual(packLog(rows))
    expect([log.length, log.spendMicros]).toEqual([5000, rows.reduce((sum, one) => sum + one.media + one.data, 0)])
    expect(new WinLog().packed()).toEqual(new Uint8Array())
  })

  it('gives back what was packed', () => {
    const data = packLog([row, { ...row, person: 10, did: 0x1fff, nth: 255 }])
    const log = openLog(data, 2, crc32(data))
    expect([log.person[1], log.price[0], log.minute[1], log.did[0], log.did[1], log.key[0], log.nth[1]]).toEqual([
      10, 1234, 59, 3, 0x1fff, 4_000_000_001, 255
    ])
  })

  it('is checked alike wherever its bytes lie, and though there be none', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 40 }), fc.integer({ min: 0, max: 9 }), (bytes, before) => {
        const inside = new Uint8Array(before + bytes.length)
        inside.set(bytes, before)
        // Bit by bit, as the standard tells it.
        let plain = -1
        for (const byte of bytes)
          for (let bit = 0; bit < 8; bit++) plain = ((plain ^ (byte >> bit)) & 1) !== 0 ? (plain >>> 1) ^ 0xedb88320 : plain >>> 1
        expect(crc32(inside.subarray(before))).toBe((plain ^ -1) >>> 0)
      })
    )
  })

  it('refuses damage instead of guessing', () => {
    const data = packLog([row])
    const crc = crc32(data)
    data[4] ^= 1
    expect(() => openLog(data, 1, crc)).toThrow(LogDamageError)
    expect(() => openLog(data.slice(1), 1, crc)).toThrow('1 rows')
    expect(crc32(Uint8Array.from('123456789', (digit) => digit.charCodeAt(0)))).toBe(0xcbf43926)
    expect(OUTCOMES).toHaveLength(13)
  })
})

describe('hours where the viewer is', () => {
  it('end on the minute in zones that lie by half hours', () => {
    const perMille = Array.from({ length: 168 }, (_, hour) => (hour % 24 >= 20 ? 0 : 1000))
    const line = lineRules(1, { targeting: targetingOf(['IN', 'DE']), hours: { clock: 'viewer', perMille }, zone: 'UTC' })
    const wins = winsOf(
      runHours(new Exchange(world, { publication: 1, lines: [line], campaigns: [campaignRules()] }, opening(), sharedDay), 24)
    )
    // India is five and a half hours before UTC: twenty o'clock there is half past two.
    const inIndia = wins.filter(
      ({ person }) => COUNTRIES[POSTAL_COUNTRY[postalOf(world.persons.words[person * PERSON_WORDS])]].code === 'IN'
    )
    const between = (from: number, to: number) => inIndia.filter(({ minute }) => minute % 1440 >= from && minute % 1440 < to)
    expect(between(14 * 60, 14 * 60 + 30).length).toBeGreaterThan(0)
    expect(between(14 * 60 + 30, 18 * 60 + 30)).toEqual([])
    expect(between(18 * 60 + 30, 19 * 60).length).toBeGreaterThan(0)
  })
})
