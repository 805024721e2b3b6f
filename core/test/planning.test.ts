import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  Exchange,
  NO_LIMITS,
  NOTHING_SPENT,
  OUTCOME,
  beginDay,
  dayCurve,
  dayWeights,
  emptyPurse,
  hourWeights,
  isLimited,
  nextMonth,
  planCampaignDay,
  planDay,
  plannedAt,
  plannedShare,
  type CampaignRules,
  type HourFacts,
  type LineRules,
  type PublicationRules,
  type SpentSoFar
} from '../src/exchange/index.js'
import { answer, nothingKept, type ForecastQuestion } from '../src/forecast/index.js'
import { PERSON_WORDS, SOURCES, postalOf } from '../src/market/index.js'
import { POSTAL_ZONE } from '../src/places/index.js'
import { ownerOf, fileOf, offersOf, systemOf } from '../src/supply/index.js'
import { buildTape } from '../src/tape/index.js'
import {
  WHOLE_HOUR_ZONES,
  ZONES,
  dateOfDay,
  dayOfDate,
  localDayOf,
  localHourOf,
  offsetMinutes,
  startOfLocalDay,
  weekdayOf,
  zoneIndex
} from '../src/time/index.js'
import { START, campaignRules, lineRules, numbers, opening, runHours, sharedDay, smallWorld, winsOf } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const world = smallWorld()
const owners = (lines: readonly LineRules[]) => lines.map(({ line, zone }) => ({ line, campaign: 1, advertiser: 1, zone }))
const published = (lines: LineRules[], over: Partial<PublicationRules> = {}): PublicationRules => ({
  publication: 1,
  lines,
  campaigns: [campaignRules()],
  owners: owners(lines),
  ...over
})
const run = (lines: LineRules[], hours: number, over: Partial<PublicationRules> = {}): HourFacts[] =>
  runHours(new Exchange(world, published(lines, over), opening(), sharedDay), hours)
const outcomes = (hours: readonly HourFacts[], line: number) =>
  Array.from({ length: Object.keys(OUTCOME).length }, (_, n) =>
    hours.reduce((sum, facts) => sum + (facts.outcomes.find((one) => one.line === line)?.counts[n] ?? 0), 0)
  )
const sum = (values: Iterable<number>) => [...values].reduce((total, value) => total + value, 0)
const zones = fc.constantFrom(...WHOLE_HOUR_ZONES)
const limits = (over: Partial<typeof NO_LIMITS>) => ({ ...NO_LIMITS, ...over })

/** Spends what each day plans, to the micro, over a flight; what was planned, day by day. */
function spendAsPlanned(line: LineRules): number[] {
  const zone = zoneIndex(line.zone)
  const purse = emptyPurse(line.limits)
  const planned: number[] = []
  for (let day = localDayOf(zone, line.startHour); day <= localDayOf(zone, (line.endHour as number) - 1); day++) {
    beginDay(purse, day)
    const plan = planDay({ ...plannedAt(line, Math.max(startOfLocalDay(zone, day), line.startHour), purse.spent), purse }, null, [line])
    planned.push(plan.limitMicros)
    for (const amounts of Object.values(purse.spent)) amounts.micros += plan.limitMicros
  }
  return planned
}

describe('the plan of a flight', () => {
  it('gives all of a total to its days by their open hours, whatever the zone and the change of its clock', () => {
    fc.assert(
      fc.property(
        zones,
        fc.integer({ min: 0, max: 60 }),
        fc.integer({ min: 1, max: 400 }),
        fc.integer({ min: 1, max: 1e9 }),
        fc.integer({ min: 0, max: 0xffffff }),
        (name, startDay, length, totalMicros, off) => {
          const zone = zoneIndex(name)
          const startHour = startOfLocalDay(zone, startDay)
          const hours = {
            clock: 'line' as const,
            perMille: Array.from({ length: 168 }, (_, hour) => ((off >> (hour % 24)) & 1 ? 0 : 1000))
          }
          const endHour = startOfLocalDay(zone, startDay + Math.min(60, length))
          const line = lineRules(1, { zone: name, startHour, endHour, liveFromHour: startHour, hours, limits: limits({ totalMicros }) })
          const planned = spendAsPlanned(line)
          if (off === 0xffffff) expect(sum(planned)).toBe(0)
          else expect(sum(planned) / totalMicros).toBeCloseTo(1, 6)
          const open = (day: number) =>
            Array.from({ length: startOfLocalDay(zone, day + 1) - startOfLocalDay(zone, day) }, (_, n) =>
              localHourOf(zone, startOfLocalDay(zone, day) + n)
            ).filter((hour) => !((off >> hour) & 1)).length
          const usual = planned.map((micros, n) => ({ micros, open: open(startDay + n) })).filter((one) => one.open > 0)
          // Each day gets by its open hours, on days on which the clock changes too.
          for (const { micros, open: hoursOpen } of usual) expect(micros / hoursOpen / (usual[0].micros / usual[0].open)).toBeCloseTo(1, 6)
        }
      ),
      { numRuns: 60 }
    )
  })

  it.each([
    ['2026-03-29', 23],
    ['2026-10-25', 25],
    ['2026-06-01', 24]
  ])('on %s, a day of %i hours, reaches all of the day by its end', (date, hours) => {
    const zone = zoneIndex('Europe/Lisbon')
    const day = dayOfDate(date)
    const startHour = startOfLocalDay(zone, day)
    const evenings = { clock: 'line' as const, perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 >= 20 ? 1000 : 0)) }
    const line = lineRules(1, {
      zone: 'Europe/Lisbon',
      startHour: startHour - 240,
      endHour: startHour + 240,
      liveFromHour: startHour - 240,
      hours: evenings,
      limits: limits({ dailyMicros: 1_000_000 })
    })
    const plan = planDay(plannedAt(line, startHour, NOTHING_SPENT), null, [line])
    expect(plan.curve).toHaveLength(hours + 1)
    expect(plannedShare(plan, 'even', (hours - 4) * 60)).toBe(0)
    expect(plannedShare(plan, 'even', hours * 60)).toBeCloseTo(1, 9)
    const all = planCampaignDay(
      plannedAt(campaignRules({ limits: limits({ dailyMicros: 1_000_000 }), zone: 'Europe/Lisbon' }), startHour, NOTHING_SPENT)
    )
    expect(plannedShare(all, 'even', hours * 60)).toBe(1)
    expect(plannedShare(all, 'even', hours * 30)).toBeCloseTo(0.5, 9)
  })

  it('never plans more than is left of day, week, month and total', () => {
    const amount = fc.integer({ min: 0, max: 1_000_000 })
    fc.assert(
      fc.property(
        zones,
        fc.integer({ min: 24 * 40, max: 24 * 100 }),
        fc.record({
          dailyMicros: fc.option(amount),
          weeklyMicros: fc.option(amount),
          monthlyMicros: fc.option(amount),
          totalMicros: fc.option(amount)
        }),
        fc.tuple(amount, amount, amount, amount),
        fc.constantFrom('even' as const, 'fast' as const),
        (zone, hour, money, [day, week, month, total], pacing) => {
          const spent: SpentSoFar = {
            day: { micros: 0, impressions: 0 },
            week: { micros: week, impressions: 0 },
            month: { micros: month, impressions: 0 },
            total: { micros: total, impressions: day }
          }
          const line = lineRules(1, {
            zone,
            pacing,
            startHour: hour - 48,
            endHour: hour + 24 * 20,
            liveFromHour: hour - 48,
            limits: limits(money)
          })
          const { limitMicros, openFrom, openTo } = planDay(plannedAt(line, hour, spent), null, [line])
          const left = [
            money.dailyMicros ?? Infinity,
            (money.weeklyMicros ?? Infinity) - week,
            (money.monthlyMicros ?? Infinity) - month,
            (money.totalMicros ?? Infinity) - total
          ].map((value) => Math.max(0, value))
          expect(limitMicros).toBeLessThanOrEqual(Math.min(...left) + 1e-6)
          if (pacing === 'fast') expect(limitMicros).toBe(Math.min(...left))
          expect(openFrom).toBeLessThan(openTo)
        }
      )
    )
  })

  it('begins periods with the calendar of the line', () => {
    const cleared = (date: string) => {
      const purse = emptyPurse(NO_LIMITS)
      for (const amounts of Object.values(purse.spent)) Object.assign(amounts, { micros: 7, impressions: 3 })
      beginDay(purse, dayOfDate(date))
      return Object.entries(purse.spent)
        .filter(([, total]) => total.micros + total.impressions === 0)
        .map(([name]) => name)
    }
    expect(['2026-03-03', '2026-03-09', '2026-04-01', '2026-06-01'].map(cleared)).toEqual([
      ['day'],
      ['day', 'week'],
      ['day', 'month'],
      ['day', 'week', 'month']
    ])
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 3000 }), (day) => {
        const next = nextMonth(day)
        expect([dateOfDay(next).slice(8), next > day && next - day <= 31]).toEqual(['01', true])
        for (let between = day; between < next; between++) expect(dateOfDay(between).slice(0, 7)).toBe(dateOfDay(day).slice(0, 7))
      })
    )
  })

  it('weighs what is left of week and month from the day on', () => {
    const calendar = { zone: zoneIndex('UTC'), startHour: 0, endHour: null, weights: hourWeights('even', null, undefined) }
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2000 }), (day) => {
        const weights = dayWeights({ ...calendar }, day, day * 24)
        expect(weights).toEqual({ day: 1440, week: 1440 * (7 - weekdayOf(day)), month: 1440 * (nextMonth(day) - day), flight: Infinity })
      })
    )
  })

  it('follows a curve where hours are off, and rises to all of it', () => {
    const weights = hourWeights(
      'even',
      { clock: 'line', perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 >= 18 ? 1000 : 0)) },
      undefined
    )
    expect(dayCurve(hourWeights('even', null, undefined), 3)).toBeNull()
    const plan = { limitMicros: 100, openFrom: 0, openTo: 1440, curve: dayCurve(weights, 3) }
    expect([6, 18, 20, 21, 24].map((hour) => plannedShare(plan, 'even', hour * 60))).toEqual(
      [0, 0, 1 / 3, 1 / 2, 1].map((share) => expect.closeTo(share, 12) as number)
    )
    const traffic = hourWeights(
      'traffic',
      null,
      Array.from({ length: 168 }, (_, hour) => (hour % 24) + 1)
    )
    const shares = Array.from({ length: 25 }, (_, hour) => plannedShare({ ...plan, curve: dayCurve(traffic, 0) }, 'traffic', hour * 60))
    shares.forEach((share, hour) => expect(share).toBeCloseTo((hour * (hour + 1)) / 600, 9))
  })
})

describe('lines that share a campaign', () => {
  const campaign = (over: Partial<typeof NO_LIMITS>): CampaignRules => ({ ...campaignRules(), limits: limits(over) })
  const plans = (rules: CampaignRules, lines: LineRules[]) =>
    lines.map((line) => planDay(plannedAt(line, START, NOTHING_SPENT), plannedAt(rules, START, NOTHING_SPENT), lines))

  it('part its day by what each could spend, and no part is lost', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 1e7 }), { minLength: 1, maxLength: 9 }),
        fc.integer({ min: 1, max: 1e9 }),
        fc.integer({ min: 1, max: 1e6 }),
        (demands, dailyMicros, dailyImpressions) => {
          const lines = demands.map((demandMicros, n) => lineRules(n + 1, { demandMicros }))
          const all = plans(campaign({ dailyMicros, dailyImpressions }), lines)
          // In whole micros and impressions.
          expect(sum(all.map((plan) => plan.limitMicros))).toBe(dailyMicros)
          expect(sum(all.map((plan) => plan.limitShown ?? 0))).toBe(dailyImpressions)
          const demand = sum(demands)
          if (demand > 0 && lines.length > 1)
            all.forEach((plan, n) =>
              expect(Math.abs(plan.limitMicros - (dailyMicros * demands[n]) / demand)).toBeLessThan(lines.length + 1)
            )
        }
      )
    )
  })

  it('whose flight is another do not share, and a line’s own limit holds inside its part', () => {
    const later = lineRules(2, { startHour: START + 48, endHour: START + 96, demandMicros: 1000 })
    const [first] = plans(campaign({ dailyMicros: 900 }), [lineRules(1, { demandMicros: 1 }), later])
    expect(first.limitMicros).toBe(900)
    const [own, other] = plans(campaign({ dailyMicros: 900 }), [lineRules(1, { limits: limits({ dailyMicros: 100 }) }), lineRules(2)])
    // What the first cannot use is the other's.
    expect([own.limitMicros, other.limitMicros]).toEqual([100, 800])
    expect(isLimited(limits({ placementDailyMicros: 5 }))).toBe(false)
    expect(planCampaignDay(plannedAt(campaign({ totalMicros: 7000 }), START, NOTHING_SPENT)).limitMicros).toBeGreaterThan(0)
  })

  it('spend within what it has, in money and in impressions, over many hours', () => {
    const rules = campaign({ dailyMicros: 150_000, weeklyImpressions: 400 })
    const hours = run(
      [lineRules(1, { pacing: 'fast' }), lineRules(2, { pacing: 'fast', price: { model: 'CPM', bidMicros: 1_500_000, maxMicros: null } })],
      72,
      { campaigns: [rules] }
    )
    const wins = winsOf(hours)
    expect(wins.length).toBeLessThanOrEqual(400)
    const zone = zoneIndex(rules.zone)
    const byDay = new Map<number, number>()
    for (const win of wins) byDay.set(localDayOf(zone, win.hour), (byDay.get(localDayOf(zone, win.hour)) ?? 0) + win.price)
    for (const spent of byDay.values()) expect(spent).toBeLessThan(150_000 + 2500)
    expect(outcomes(hours, 1)[OUTCOME.period_budget] + outcomes(hours, 2)[OUTCOME.period_budget]).toBeGreaterThan(0)
  })
})

describe('the auction among our lines', () => {
  it('sells each opportunity once, to the dearest; lines that are apart buy as if alone', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const below = numbers(seed)
        const lines = Array.from({ length: 5 }, (_, n) =>
          lineRules(n + 1, { pacing: 'fast', price: { model: 'CPM', bidMicros: 500_000 + below(8) * 250_000, maxMicros: null } })
        )
        const keyed = (hours: readonly HourFacts[]) =>
          winsOf(hours).map((win) => `${win.hour}.${win.minute}.${win.person}.${win.placement}`)
        const together = run(lines, 5)
        expect(new Set(keyed(together)).size).toBe(keyed(together).length)
        const best = Math.max(...lines.map((line) => line.price.bidMicros ?? 0))
        const dearest = new Set(lines.filter((line) => line.price.bidMicros === best).map((line) => line.line))
        // Nothing limits the dearest, so that no other line ever gets anything that it wanted.
        expect(winsOf(together).every((win) => dearest.has(win.line))).toBe(true)
        for (const line of lines) if (!dearest.has(line.line)) expect(outcomes(together, line.line)[OUTCOME.own_line]).toBeGreaterThan(0)
        const apart = run(lines, 5, { apart: true })
        for (const line of lines)
          expect(
            winsOf(apart)
              .filter((win) => win.line === line.line)
              .map((win) => [win.minute, win.price])
          ).toEqual(winsOf(run([line], 5)).map((win) => [win.minute, win.price]))
      }),
      { numRuns: 6 }
    )
  })

  it('goes to the next when the dearest is capped or out of money', () => {
    const dear = lineRules(1, { pacing: 'fast', caps: [{ times: 1, hours: 24 }] })
    const cheap = lineRules(2, { pacing: 'fast', price: { model: 'CPM', bidMicros: 2_400_000, maxMicros: null } })
    const hours = run([dear, cheap], 12)
    const persons = (line: number) =>
      winsOf(hours)
        .filter((win) => win.line === line)
        .map((win) => win.person)
    expect(new Set(persons(1)).size).toBe(persons(1).length)
    expect(persons(2).length).toBeGreaterThan(0)
    const first = new Set(persons(1))
    // Whoever the cheap line reached had seen the dear one, unless its bid alone was enough for what the dear one's was.
    expect(persons(2).filter((person) => first.has(person)).length).toBe(persons(2).length)
    const poor = run([{ ...dear, caps: [], limits: limits({ totalMicros: 20_000 }) }, cheap], 12)
    expect([outcomes(poor, 1)[OUTCOME.total_budget] > 0, winsOf(poor).some((win) => win.line === 2)]).toEqual([true, true])
  })

  it('sells the same however many candidates were gathered before', () => {
    // Twelve hundred lines have more candidates in an hour than are gathered at once.
    const lines = Array.from({ length: 1200 }, (_, n) =>
      lineRules(n + 1, { pacing: 'fast', price: { model: 'CPM', bidMicros: 1_000_000 + n * 1000, maxMicros: null } })
    )
    const many = run(lines, 1)
    const last = lines[lines.length - 1]
    expect(winsOf(many).map((win) => [win.line, win.minute, win.person, win.price])).toEqual(
      winsOf(run([last], 1)).map((win) => [win.line, win.minute, win.person, win.price])
    )
    const [counts] = [outcomes(many, lines[0].line)]
    expect(counts[OUTCOME.won]).toBe(0)
    expect(counts[OUTCOME.own_line]).toBe(outcomes(run([lines[0]], 1), lines[0].line)[OUTCOME.won])
  })

  it('buys by a deal until it ends, to the hour', () => {
    const placements = world.inventory.placements.map((placement) => placement.index)
    const deal = { deal: 5, kind: 'fixed' as const, price: 900, placements, untilHour: START + 3 }
    const hours = run([lineRules(1, { pacing: 'fast', buys: { open: false, deals: [deal] } })], 8)
    expect([...new Set(winsOf(hours).map((win) => win.hour - START))]).toEqual([0, 1, 2])
    const open = run([lineRules(1, { pacing: 'fast', buys: { open: true, deals: [deal] } })], 8)
    expect(
      winsOf(open)
        .map((win) => [win.hour - START < 3, win.deal > 0])
        .every(([isDuring, isByDeal]) => isDuring === isByDeal)
    ).toBe(true)
    expect(winsOf(open).some((win) => win.hour - START >= 3)).toBe(true)
  })

  it('keeps hours of the viewer by where each viewer is', () => {
    const perMille = Array.from({ length: 168 }, (_, hour) => (hour % 24 >= 20 ? 1000 : 0))
    const hours = run([lineRules(1, { pacing: 'fast', targeting: { restrictions: [] }, hours: { clock: 'viewer', perMille } })], 24)
    const wins = winsOf(hours)
    const zoneOf = (person: number) => POSTAL_ZONE[postalOf(world.persons.words[person * PERSON_WORDS])]
    expect(wins.length).toBeGreaterThan(100)
    // To the minute: some zones lie by half hours.
    for (const win of wins) {
      const local = (win.minute + offsetMinutes(zoneOf(win.person), win.hour)) % 1440
      expect(Math.floor(local / 60)).toBeGreaterThanOrEqual(20)
    }
    expect(new Set(wins.map((win) => ZONES[zoneOf(win.person)].offset)).size).toBeGreaterThan(1)
  })
})

describe('a forecast among lines of a campaign', () => {
  const tape = buildTape(world, 59)
  const market = marketOf(world)
  const never = () => false
  const bid = (bidMicros: number, over: Partial<ForecastQuestion> = {}) =>
    question({ price: { model: 'CPM', bidMicros, maxMicros: null }, ...over })
  const together = (q: ForecastQuestion, kept = nothingKept()) =>
    [...answer(q, 'wins', tape, market, never, kept)].find((one) => one.part === 'together')

  it('answers the same with what was kept of the mates as without', () => {
    const kept = nothingKept()
    const mates = [
      { line: 7, question: bid(1_500_000, { limits: limits({ dailyMicros: 90_000 }) }) },
      { line: 8, question: bid(900_000) }
    ]
    for (const micros of [1_200_000, 1_400_000, 1_600_000])
      expect(together({ ...bid(micros), mates }, kept)).toEqual(together({ ...bid(micros), mates }))
    const first = [...kept.mates.values()]
    together({ ...bid(1_100_000), mates }, kept)
    expect([...kept.mates.values()].every((work, n) => work === first[n])).toBe(true)
  })

  it('works out a mate that was changed again, and forgets one that is gone', () => {
    const kept = nothingKept()
    const oneLine = (micros: number) => [{ line: 7, question: bid(micros) }]
    together({ ...bid(1_200_000), mates: [...oneLine(1_500_000), { line: 8, question: bid(700_000) }] }, kept)
    expect(kept.mates.size).toBe(2)
    const dearer = together({ ...bid(1_200_000), mates: oneLine(1_100_000) }, kept)
    expect(dearer).toEqual(together({ ...bid(1_200_000), mates: oneLine(1_100_000) }))
    expect(kept.mates.size).toBe(1)
    const other = buildTape(world, 60)
    const fresh = [...answer({ ...bid(1_200_000), mates: oneLine(1_100_000) }, 'wins', other, market, never)]
    expect([...answer({ ...bid(1_200_000), mates: oneLine(1_100_000) }, 'wins', other, market, never, kept)]).toEqual(fresh)
  })
})

describe('who sells a property', () => {
  const { inventory } = world

  it('is every source that has a path to it, each once, under an account of its own', () => {
    for (const property of inventory.properties) {
      const paths = inventory.placements
        .filter((placement) => placement.property === property.index)
        .flatMap((placement) => SOURCES.map((_, source) => placement.index * SOURCES.length + source))
      const selling = [...new Set(paths.filter((path) => inventory.sourceWeights[path] > 0).map((path) => path % SOURCES.length))].sort(
        (a, b) => a - b
      )
      const offers = offersOf(inventory, property)
      expect(offers.map(({ source }) => source)).toEqual(selling)
      for (const { source, offer } of offers) {
        expect(offer.system).toBe(systemOf(source))
        expect(offer.seller.startsWith(offer.relation === 'DIRECT' ? `pub-${1000 + property.publisher}-` : 'res-')).toBe(true)
      }
    }
  })

  it('is said by a file of its domain, of an app by its maker’s', () => {
    const kinds = new Set<string>()
    for (const property of inventory.properties) {
      const isApp = property.class === 'app' || property.class === 'game'
      expect(fileOf(property)).toBe(isApp ? 'app-ads.txt' : 'ads.txt')
      const owner = ownerOf(property)
      if (property.domain === '') expect(owner).toBeNull()
      else if (isApp) expect(property.domain.startsWith((owner as string).split('.').reverse().join('.'))).toBe(true)
      else expect(owner).toBe(property.domain)
      kinds.add(property.class)
    }
    expect(kinds.size).toBeGreaterThan(2)
  })
})
