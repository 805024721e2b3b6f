import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parseInput } from '../src/input/index.js'
import {
  LANDING_LEVELS,
  landingFor,
  linkOfPreview,
  linksOf,
  offerSchema,
  pageProblem,
  trackerSchema,
  withoutLanding,
  type Landing,
  type LandingStep,
  type PageRule
} from '../src/buying/index.js'
import { Exchange, openEvents, openLog, readLogs, type HourFacts, type ToldInput } from '../src/exchange/index.js'
import { DID } from '../src/response/index.js'
import { areOpen, pivot, termOf, type ReportQuestion } from '../src/results/index.js'
import { newSeen } from '../src/dimensions/index.js'
import { CONNECTIONS, DEVICE_TYPES } from '../src/taxonomy/index.js'
import { zoneIndex } from '../src/time/index.js'
import { START, catalogueOf, lineRules, one, opening, sharedDay, smallWorld } from './support/lines.js'

const world = smallWorld()
const tracker = { advertiser: 1, tracker: 7, kind: 'trial' as const, clickHours: 24, viewHours: 6, valueMicros: 500_000 }
const line = lineRules(1, { targeting: { restrictions: [] }, price: { model: 'CPM', bidMicros: 6_000_000, maxMicros: null } })
const rules = one(line, { trackers: [tracker] })
const logOf = (facts: HourFacts) => openLog(facts.log, facts.wins, facts.crc)
const eventsOf = (facts: HourFacts) => {
  const events = openEvents(facts.events, facts.eventCount, facts.eventsCrc)
  return Array.from({ length: events.count }, (_, n) => ({
    by: events.by[n],
    tracker: events.tracker[n],
    hour: events.hour[n],
    index: events.index[n],
    value: events.value[n]
  }))
}
/** Runs an hour, and fails where nobody gave it up. */
function hourOf(exchange: Exchange, told?: ToldInput): HourFacts {
  const facts = exchange.runHour(() => false, told)
  if (!facts) throw new Error('The hour was given up.')
  return facts
}
/** What is told of an impression of an hour. */
function toldOf(facts: HourFacts, index: number): Omit<ToldInput['events'][number], 'event'> {
  const log = logOf(facts)
  return {
    hour: facts.hour,
    index,
    line: log.line[index],
    ad: log.ad[index],
    path: log.path[index],
    device: log.device[index],
    did: log.did[index]
  }
}
const sums = (facts: HourFacts, name: 'clicks' | 'viewable' | 'conversions' | 'valueMicros') =>
  facts.hourTotals.reduce((sum, total) => sum + total[name], 0)

describe('what is told of impressions', () => {
  const begun = () => new Exchange(world, rules, opening(), sharedDay)

  it('counts once, beyond what the log says, and a click that is told earns what is told after it', () => {
    const exchange = begun()
    const first = hourOf(exchange)
    const log = logOf(first)
    const index = Array.from(log.did).findIndex((did) => (did & (DID.clicked | DID.viewable | DID.stayed)) === 0)
    const clicked = Array.from(log.did).findIndex((did) => (did & DID.clicked) !== 0)
    const plain = hourOf(begun())
    expect(plain.log).toEqual(first.log)
    const conversion = { told: 5, tracker: 7, advertiser: 1, person: log.person[index], valueMicros: 123 }
    const events = [
      { ...toldOf(first, index), event: 'click' as const },
      { ...toldOf(first, index), event: 'click' as const },
      { ...toldOf(first, clicked), event: 'click' as const }
    ]
    const second = hourOf(exchange, { events, conversions: [conversion] })
    const own = eventsOf(second)
    expect(own.filter(({ by }) => by === 3)).toEqual([{ by: 3, tracker: 0, hour: first.hour, index, value: 0 }])
    expect(own.find(({ value }) => value === 123)).toEqual({ by: 0, tracker: 7, hour: first.hour, index, value: 123 })
    expect(second.told).toEqual([{ told: 5, by: 'click' }])
    // Beside them the hour is as it would have been.
    const other = begun()
    hourOf(other)
    const untold = hourOf(other)
    expect(second.log).toEqual(untold.log)
    expect(sums(second, 'clicks') - sums(untold, 'clicks')).toBe(1)
    expect(sums(second, 'conversions') - sums(untold, 'conversions')).toBe(1)
    // Told again in a later hour it adds nothing.
    expect(eventsOf(hourOf(exchange, { events, conversions: [] })).filter(({ by }) => by >= 3)).toEqual([])
  })

  it('is earned by a view inside its window, and by nothing outside of it, by nobody’s person or by a tracker that is not there', () => {
    const exchange = begun()
    const first = hourOf(exchange)
    const log = logOf(first)
    const seen = Array.from(log.did).findIndex((did) => (did & DID.viewable) !== 0 && (did & (DID.clicked | DID.stayed)) === 0)
    const told = (number: number, over: object = {}) => ({
      told: number,
      tracker: 7,
      advertiser: 1,
      person: log.person[seen],
      valueMicros: 1,
      ...over
    })
    const by = (facts: HourFacts) => new Map(facts.told.map((one) => [one.told, one.by]))
    const second = by(hourOf(exchange, { events: [], conversions: [told(1), told(2, { tracker: 99 }), told(3, { person: -1 })] }))
    expect([second.get(1), second.get(2), second.get(3)]).toEqual(['view', null, null])
    for (let n = 0; n < 6; n++) hourOf(exchange)
    const late = hourOf(exchange, { events: [], conversions: [told(4)] })
    const others = logOf(late)
    expect(by(late).get(4) === null || Array.from(others.person).includes(log.person[seen])).toBe(true)
  })

  it('makes the same hours of a run that was cut off between them', () => {
    const whole = begun()
    const first = hourOf(whole)
    const events = [0, 1, 2, 3].map((index) => ({ ...toldOf(first, index), event: 'click' as const }))
    const second = hourOf(whole, { events, conversions: [] })
    const conversions = [0, 1, 2, 3].map((n) => ({ told: n, tracker: 7, advertiser: 1, person: logOf(first).person[n], valueMicros: n }))
    const third = hourOf(whole, { events: [], conversions })
    const logs = [first, second].map((facts) => ({ hour: facts.hour, log: logOf(facts) }))
    const again = new Exchange(world, rules, { ...opening(START + 2), ...readLogs(world, rules, START + 2, logs), told: events }, sharedDay)
    const other = hourOf(again, { events: [], conversions })
    expect(other.told).toEqual(third.told)
    expect(eventsOf(other)).toEqual(eventsOf(third))
    expect(third.told.every(({ by }) => by === 'click')).toBe(true)
  })
})

const codes = ['DE', 'AT', 'FR', 'NL']
const devices = DEVICE_TYPES.slice(0, 3)
const landings: fc.Arbitrary<Landing[]> = fc
  .uniqueArray(fc.tuple(fc.subarray(codes), fc.subarray([...devices])), {
    maxLength: 5,
    selector: ([where, on]) => `${where.join()} ${on.join()}`
  })
  .map((all) => all.map(([countries, on], n) => ({ countries, devices: on, link: `https://shop.example/${n}` })))
const steps: fc.Arbitrary<LandingStep[]> = fc
  .tuple(
    ...LANDING_LEVELS.map((level) =>
      landings.map((own) => ({ level, landings: own.map((landing) => ({ ...landing, link: `${landing.link}/${level}` })) }))
    )
  )
  .map((all) => all.filter((step) => step.landings.length > 0))

describe('where somebody lands', () => {
  it('is said by the nearest place that has a link for them, and there by the one that is most closely theirs', () => {
    fc.assert(
      fc.property(steps, fc.constantFrom(...codes, 'ES', null), fc.constantFrom(...devices, null), (all, country, device) => {
        const fits = ({ countries, devices: on }: Landing) =>
          (countries.length === 0 || (country !== null && countries.includes(country))) &&
          (on.length === 0 || (device !== null && on.includes(device)))
        const level = all.find((step) => step.landings.some(fits))
        const found = landingFor(all, { country, device })
        if (!level) return void expect(found).toBeNull()
        expect(found?.level).toBe(level.level)
        const chosen = level.landings.find(({ link }) => link === found?.link) as Landing
        expect(fits(chosen)).toBe(true)
        const said = ({ countries, devices: on }: Landing) => (countries.length > 0 ? 2 : 0) + (on.length > 0 ? 1 : 0)
        for (const other of level.landings.filter(fits)) expect(said(other)).toBeLessThanOrEqual(said(chosen))
        expect(linksOf(all)).toContain(found?.link)
      })
    )
  })

  it('is known of everybody whom a line buys, or it is said of whom not', () => {
    fc.assert(
      fc.property(steps, fc.subarray(codes), fc.subarray([...devices], { minLength: 1 }), (all, countries, on) => {
        const bare = withoutLanding(all, countries, on)
        for (const country of countries.length > 0 ? countries : [null])
          for (const device of on)
            expect(bare.some((one) => one.country === country && one.device === device)).toBe(landingFor(all, { country, device }) === null)
        expect(linkOfPreview(all) === '').toBe(all.length === 0)
      })
    )
  })
})

describe('which pages are an event', () => {
  const rule = (over: Partial<PageRule>): PageRule => ({ which: 'any', paths: [], leastPages: 1, leastSeconds: 0, ...over })
  const told = { path: '/guide/2', called: '', pages: 3, seconds: 40 }
  const problem = (pages: PageRule | undefined, over: object = {}) => pageProblem({ name: 'purchase', pages }, { ...told, ...over })

  it('is said by a rule', () => {
    expect(problem(rule({}))).toBeNull()
    expect(problem(rule({ which: 'these', paths: ['/guide/*'] }))).toBeNull()
    expect(problem(rule({ which: 'these', paths: ['/g*e/*2'] }))).toBeNull()
    expect(problem(rule({ which: 'these', paths: ['/guide/2*2'] }))).toBe('not one of its pages')
    expect(problem(rule({ which: 'these', paths: ['/guide'] }))).toBe('not one of its pages')
    expect(problem(rule({ which: 'cart' }))).toBe('no cart')
    expect(problem(rule({ which: 'cart' }), { called: 'cart' })).toBeNull()
    expect(problem(undefined)).toBe('not called “purchase”')
    expect(problem(undefined, { called: 'purchase' })).toBeNull()
    expect(problem(rule({ leastPages: 4 }))).toContain('page 3 of the visit')
    expect(problem(rule({ leastSeconds: 41 }))).toContain('40 s into the visit')
  })

  it('of a wrong form is refused by the field', () => {
    const draft = { name: 'x', kind: 'request', subject: null, reports: 'script', clickHours: 24, viewHours: null, valueMicros: null }
    const fields = (pages: unknown) => {
      try {
        parseInput(trackerSchema, { ...draft, pages })
        return []
      } catch (error) {
        return (error as { issues: { field: string }[] }).issues.map(({ field }) => field)
      }
    }
    expect(fields(rule({}))).toEqual([])
    expect(fields(rule({ which: 'these' }))).toEqual(['pages.paths'])
    expect(fields(rule({ which: 'these', paths: ['/a b'] }))).toEqual(['pages.paths[0]'])
    expect(fields(rule({ leastPages: 0 }))).toEqual(['pages.leastPages'])
    expect(fields(rule({ leastSeconds: 3601 }))).toEqual(['pages.leastSeconds'])
  })
})

describe('what an offer pays for', () => {
  const open = { countries: [], devices: [], systems: [], connections: [], hours: null }
  const draft = (terms: object) =>
    parseInput(offerSchema, {
      name: 'Lessons',
      landings: [{ countries: [], devices: [], link: 'https://kana.example/x' }],
      payouts: [],
      stock: null,
      terms: { ...open, ...terms }
    }).terms

  it('is told of each impression, by the first term that it is outside of', () => {
    const zone = zoneIndex('UTC')
    // Monday 2 March 2026, 00:00.
    const seen = { ...newSeen(), hour: START }
    const hours = Array.from({ length: 168 }, (_, n) => (n === 0 ? 0 : 1))
    expect(areOpen(draft({}))).toBe(true)
    expect(termOf(draft({}), zone)(seen)).toBeNull()
    const only = { hours: termOf(draft({ hours }), zone)(seen), later: termOf(draft({ hours }), zone)({ ...seen, hour: START + 1 }) }
    expect(only).toEqual({ hours: 'hour', later: null })
    const term = (terms: object) => termOf(draft(terms), zone)(seen)
    const without = <T extends string>(values: readonly T[], name: 'devices' | 'connections') =>
      values.filter((value) => term({ [name]: [value] }) === null)
    expect(without(DEVICE_TYPES, 'devices')).toHaveLength(1)
    expect(without(CONNECTIONS, 'connections')).toHaveLength(1)
    expect(term({ countries: ['DE'], devices: ['set-top box'] })).toBe('country')
  })

  it('parts conversions of a report into those that are paid and those that are not, and pays the first alone', () => {
    const many = Array.from({ length: 60 }, (_, n) => ({ ...tracker, tracker: 100 + n }))
    const exchange = new Exchange(world, one(line, { trackers: many }), opening(), sharedDay)
    const hours = Array.from({ length: 48 }, () => {
      const facts = hourOf(exchange)
      return { hour: facts.hour, log: logOf(facts), events: openEvents(facts.events, facts.eventCount, facts.eventsCrc) }
    })
    const market = { ...catalogueOf(world), zone: zoneIndex('UTC') }
    const pays = many.map((own, n) => [own.tracker, n === 0 ? 0 : 2_000_000] as const)
    const ask = (over: Partial<ReportQuestion>) =>
      pivot({ by: 'device', lines: [1], from: START, to: START + 48, windowHours: 720, ...over }, hours, world.persons.words, market)
    const plain = ask({}).total
    expect([plain.unpaid, plain.payMicros]).toEqual([0, 0])
    const terms = draft({ devices: ['phone'] })
    const { rows, total, tracked } = ask({ offers: [{ line: 1, terms, zone: 'UTC', pays }] })
    expect(total.conversions).toBe(plain.conversions)
    for (const row of rows) expect(row.unpaid).toBe(row.label === 'phone' ? 0 : row.conversions)
    expect(rows.reduce((sum, row) => sum + row.unpaid, 0)).toBe(total.unpaid)
    expect(total.unpaid).toBeGreaterThan(0)
    expect(tracked.reduce((sum, { accepted, unpaid }) => sum + accepted + unpaid, 0)).toBe(total.conversions)
    const paid = tracked.filter((own) => own.tracker !== 100).reduce((sum, { accepted }) => sum + accepted, 0)
    expect(total.payMicros).toBe(2_000_000 * paid)
  })
})
