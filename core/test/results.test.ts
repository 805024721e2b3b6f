import { describe, expect, it } from 'vitest'
import { Exchange, catalogueOf, openEvents, openLog, type HourFacts } from '../src/exchange/index.js'
import { DEVICE_TYPE, PERSON_WORDS, SOURCES, demographic, demographicOf, inSegment, postalOf, profileOf } from '../src/market/index.js'
import { COUNTRIES, POSTAL_COUNTRY } from '../src/places/index.js'
import { costRange, countRatioRange, shrunkRate, wilson } from '../src/report/index.js'
import { DID, sharesPlace, shopLift } from '../src/response/index.js'
import { hoursEarning, pivot, shopVisits, type LineDeals, type ReportHour, type ReportQuestion } from '../src/results/index.js'
import { AGES, DEVICE_TYPES, SEGMENTS } from '../src/taxonomy/index.js'
import { localHourOf, zoneIndex } from '../src/time/index.js'
import { fullLine, fullPublication } from './support/full-lines.js'
import { REPORT_DIMENSIONS, REPORT_DIMENSION_NAMES, type ReportDimensionName } from '../src/dimensions/index.js'
import { START, numbers, opening, runHours, sharedDay, smallWorld } from './support/lines.js'

const world = smallWorld()
const market = { ...catalogueOf(world), zone: zoneIndex('Europe/Lisbon') }
const below = numbers(8)
/** Each line has deals of its own. */
const lines = Array.from({ length: 9 }, (_, n) => ({
  ...fullLine(n + 1, world, below),
  limits: { ...fullLine(n + 1, world, below).limits, totalMicros: null }
})).map((line) => ({
  ...line,
  buys: line.buys && { ...line.buys, deals: line.buys.deals.map((deal) => ({ ...deal, deal: 100 + line.line })) }
}))
const HOURS = 60
/** Many kinds of conversion, so that a small market has enough of them. */
const trackers = Array.from({ length: 320 }, (_, n) => ({
  advertiser: 1 + (n % 2),
  tracker: 100 + n,
  kind: 'trial' as const,
  clickHours: 168,
  viewHours: 48,
  valueMicros: 400_000
}))
const facts: HourFacts[] = runHours(
  new Exchange(world, { ...fullPublication(lines, below), trackers }, opening(START, 1e12), sharedDay),
  HOURS
)
const hours: ReportHour[] = facts.map((one) => ({
  hour: one.hour,
  log: openLog(one.log, one.wins, one.crc),
  events: openEvents(one.events, one.eventCount, one.eventsCrc)
}))
const deals: LineDeals[] = lines.flatMap(({ line, buys }) =>
  buys ? [{ line, from: START, to: START + HOURS, deals: buys.deals.map((deal) => deal.deal) }] : []
)
const question = (by: ReportDimensionName, over: Partial<ReportQuestion> = {}): ReportQuestion => ({
  by,
  lines: lines.map((line) => line.line),
  from: START,
  to: START + HOURS,
  windowHours: 720,
  deals,
  ...over
})
const report = (by: ReportDimensionName, over: Partial<ReportQuestion> = {}) =>
  pivot(question(by, over), hours, world.persons.words, market)

/** All wins as plain objects. */
const wins = hours.flatMap(({ hour, log }) =>
  Array.from({ length: log.count }, (_, i) => {
    const words = world.persons.words.subarray(log.person[i] * PERSON_WORDS, log.person[i] * PERSON_WORDS + PERSON_WORDS)
    return {
      hour,
      line: log.line[i],
      person: log.person[i],
      spend: log.media[i] + log.data[i],
      clicked: (log.did[i] & DID.clicked) !== 0,
      deal: log.deal[i],
      device: DEVICE_TYPES[DEVICE_TYPE[log.device[i]]],
      placement: Math.floor(log.path[i] / SOURCES.length),
      source: SOURCES[log.path[i] % SOURCES.length].name,
      country: COUNTRIES[POSTAL_COUNTRY[postalOf(words[0])]].name,
      age: AGES[demographic(demographicOf(words[1])).age],
      profile: profileOf(words[1]),
      nth: log.nth[i],
      fee: (log.price[i] * SOURCES[log.path[i] % SOURCES.length].feePerMille) / 1000
    }
  })
)
const grouped = (keyOf: (win: (typeof wins)[number]) => string) => {
  const found = new Map<string, typeof wins>()
  for (const win of wins) found.set(keyOf(win), [...(found.get(keyOf(win)) ?? []), win])
  return found
}
const sum = (values: readonly number[]) => values.reduce((total, value) => total + value, 0)

describe('reports', () => {
  it.each<[ReportDimensionName, (win: (typeof wins)[number]) => string]>([
    ['country', (win) => win.country],
    ['device', (win) => win.device],
    ['age', (win) => win.age],
    ['source', (win) => win.source],
    ['hour', (win) => `${String(localHourOf(market.zone, win.hour)).padStart(2, '0')}:00`]
  ])('by %s are what a plain count of the log says', (by, keyOf) => {
    const plain = grouped(keyOf)
    const { rows } = report(by)
    expect(new Set(rows.map((row) => row.label))).toEqual(new Set(plain.keys()))
    for (const row of rows) {
      const own = plain.get(row.label as string) as typeof wins
      expect([row.wins, row.people, row.spendMicros, row.clicks]).toEqual([
        own.length,
        new Set(own.map((win) => win.person)).size,
        sum(own.map((win) => win.spend)),
        own.filter((win) => win.clicked).length
      ])
      expect(row.feeMicros).toBe(Math.round(sum(own.map((win) => win.fee))))
    }
  })

  it('add up to one total by every dimension, which names each of its values', () => {
    const { total } = report('line')
    expect(total.wins).toBe(wins.length)
    for (const by of REPORT_DIMENSION_NAMES) {
      const { rows, total: same } = report(by)
      expect(same, by).toEqual(total)
      if (by !== 'audience')
        for (const measure of ['wins', 'spendMicros', 'views', 'conversions', 'assists', 'valueMicros', 'unmutes'] as const)
          expect(sum(rows.map((row) => row[measure])), `${by} ${measure}`).toBe(total[measure])
      for (const row of rows)
        expect(
          by === 'line' || by === 'ad' || (by === 'deal' && row.key > 0)
            ? row.label === null
            : typeof row.label === 'string' && row.label.length > 0,
          `${by} ${row.key}`
        ).toBe(true)
      expect(rows.map((row) => row.spendMicros)).toEqual([...rows.map((row) => row.spendMicros)].sort((a, b) => b - a))
    }
  })

  it('by deal tell apart deals that lie at the same place in the rules of different lines', () => {
    const { rows } = report('deal')
    const plain = grouped((win) => String(win.deal === 0 ? 0 : 100 + win.line))
    expect(plain.size).toBeGreaterThan(3)
    expect(new Map(rows.map((row) => [String(row.key), row.wins]))).toEqual(new Map([...plain].map(([key, own]) => [key, own.length])))
    expect(() => report('deal', { deals: [] })).toThrow('had no deal at place')
  })

  it('count a win for every audience its person is in', () => {
    const { rows } = report('audience')
    for (const row of rows.slice(0, 20))
      expect(row.wins).toBe(
        wins.filter((win) =>
          inSegment(
            world.profiles,
            win.profile,
            SEGMENTS.findIndex((segment) => segment.name === row.label)
          )
        ).length
      )
  })

  it('are of the lines and days asked about', () => {
    const { total } = report('line', { lines: [2, 3], from: START + 10, to: START + 20 })
    expect(total.wins).toBe(wins.filter((win) => [2, 3].includes(win.line) && win.hour >= START + 10 && win.hour < START + 20).length)
    expect(report('line', { lines: [] })).toMatchObject({ rows: [], total: { wins: 0, people: 0 } })
  })

  it('count conversions that come inside the window, with the impression that earned them, though it was before the days asked about', () => {
    const all = hours
      .flatMap(({ hour, events }) =>
        Array.from({ length: events.count }, (_, e) => ({
          hour,
          minute: events.minute[e],
          by: events.by[e],
          earnedIn: events.hour[e],
          index: events.index[e]
        }))
      )
      .filter((event) => event.by < 2)
    expect(all.length).toBeGreaterThan(0)
    for (const windowHours of [1, 3, 24, 720]) {
      const inside = all.filter(
        (event) =>
          event.hour * 60 + event.minute - (event.earnedIn * 60 + hours[event.earnedIn - START].log.minute[event.index]) < windowHours * 60
      )
      expect(report('device', { windowHours }).total.conversions).toBe(inside.length)
    }
    // From the hour of one that was earned in an hour before.
    const from = all.find((event) => event.earnedIn < event.hour)?.hour ?? NaN
    expect(report('device', { from }).total.conversions).toBe(all.filter((event) => event.hour >= from).length)
    const late = hours.filter((one) => one.hour >= from)
    const needed = hoursEarning(late.map((one) => one.events))
    expect(needed.some((hour) => hour < from)).toBe(true)
    expect(() => pivot(question('device', { from }), late, world.persons.words, market)).toThrow('was not read')
    const read = pivot(
      question('device', { from }),
      hours.filter((one) => one.hour >= from || needed.includes(one.hour)),
      world.persons.words,
      market
    )
    expect(read).toEqual(report('device', { from }))
  })

  it('words for the nth exposure', () => {
    const { label } = REPORT_DIMENSIONS['nth exposure']
    expect([1, 2, 3, 4, 11, 12].map((n) => label(n, market))).toEqual(['1st', '2nd', '3rd', '4th', '11th', '12th and later'])
  })
})

describe('how sure a cost is', () => {
  it('lies round the cost, narrows with events, and has no upper end without any', () => {
    const few = costRange(10_000_000, 4)
    const many = costRange(1_000_000_000, 400)
    expect(few?.low).toBeLessThan(2_500_000)
    expect(few?.high).toBeGreaterThan(2_500_000)
    expect((many?.high ?? 0) / (many?.low ?? 1)).toBeLessThan((few?.high ?? 0) / (few?.low ?? 1))
    expect(costRange(10_000_000, 0)?.high).toBe(Infinity)
    expect(costRange(0, 0)).toBeNull()
    expect(wilson(0, 0)).toEqual({ low: 0, high: 1 })
  })
})

describe('shop visits', () => {
  const places = ['DE', 'FR', 'GB', 'ES', 'IT', 'PL', 'NL']
  const local = (person: number) => places.includes(COUNTRIES[POSTAL_COUNTRY[postalOf(world.persons.words[person * PERSON_WORDS])]].code)
  const people = Array.from({ length: world.persons.words.length / PERSON_WORDS }, (_, person) => person)
  /** An hour in which each of some people saw a line once. */
  const shown = (hour: number, who: readonly number[], line = 1): ReportHour => ({
    hour,
    events: hours[0].events,
    log: { ...hours[0].log, count: who.length, person: Uint32Array.from(who), line: new Uint32Array(who.length).fill(line) }
  })
  const ask = (advertiser: number, read: readonly ReportHour[], days = 28) =>
    shopVisits({ advertiser, places, lines: [1], fromDay: 60, toDay: 60 + days }, read, world.persons.words, world.seed)

  it('count the panel of the place, and expect nothing where nobody saw an ad', () => {
    const panel = people.filter((person) => local(person) && sharesPlace(world.seed, person)).length
    for (const read of [[], [shown(60 * 24, people, 2)]]) {
      const found = ask(1, read)
      expect(found).toMatchObject({
        panel,
        exposed: 0,
        exposedDays: 0,
        exposedVisits: 0,
        otherDays: panel * 28,
        expectedVisits: 0,
        ratio: null
      })
      expect(found.otherVisits / found.otherDays).toBeGreaterThan(0.003)
      expect(found.otherVisits / found.otherDays).toBeLessThan(0.009)
    }
  })

  it('find the hidden lift: its range holds it for nearly all advertisers, and an exposure lasts a week', () => {
    const half = people.filter((person) => person % 2 === 0)
    const read = [0, 7, 14, 21].map((day) => shown((60 + day) * 24 + 12, half))
    let held = 0
    for (let advertiser = 1; advertiser <= 20; advertiser++) {
      const found = ask(advertiser, read)
      expect(found.exposedDays).toBe(found.exposed * 28)
      const { value, low, high } = found.ratio as NonNullable<typeof found.ratio>
      expect(low <= value && value <= high).toBe(true)
      if (low <= shopLift(world.seed, advertiser) && shopLift(world.seed, advertiser) <= high) held++
    }
    expect(held).toBeGreaterThanOrEqual(15)
    const [before, late] = [ask(1, [shown(57 * 24, half)], 10), ask(1, [shown(65 * 24 + 5, half)], 10)]
    expect([before.exposedDays / before.exposed, late.exposedDays / late.exposed]).toEqual([4, 5])
  })

  it('a rate begins at what the trade knows, and comes to be our own', () => {
    expect(shrunkRate(0.001, 0, 0).value).toBeCloseTo(0.001, 12)
    const [some, much] = [shrunkRate(0.001, 40, 10_000), shrunkRate(0.001, 4000, 1_000_000)]
    expect(some.value).toBeCloseTo((20 + 40) / (20_000 + 10_000), 12)
    expect(Math.abs(much.value - 0.004)).toBeLessThan(0.0002)
    expect(much.high - much.low).toBeLessThan(some.high - some.low)
    expect(shrunkRate(0, 5, 100)).toEqual({ value: 0, low: 0, high: 0 })
  })

  it('of a few are wide, and of none begin at nothing', () => {
    expect(countRatioRange(0, 3, 1000)).toMatchObject({ value: 0, low: 0 })
    const [few, many] = [countRatioRange(3, 2, 1000), countRatioRange(300, 200, 100_000)]
    expect(few.high - few.low).toBeGreaterThan(5 * (many.high - many.low))
    expect(many.low).toBeGreaterThan(1)
  })
})
