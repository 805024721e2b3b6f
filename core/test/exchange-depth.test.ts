import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  Exchange,
  HourWins,
  OUTCOME,
  OUTCOMES,
  SHORT_BY,
  benchmarksOf,
  noFacts,
  offeredAt,
  openEvents,
  openLog,
  rollUp,
  viewPointsOf,
  seek,
  shortBin,
  takeHour,
  takePlacement,
  verdictsOn,
  type Knowledge,
  type Sought,
  type HourFacts,
  type LineRules,
  type OpeningState,
  type PublicationRules
} from '../src/exchange/index.js'
import { FIRST_PRICE, SOURCES, makeWorld } from '../src/market/index.js'
import { lossesOf, stairOf, type OutcomeCounts } from '../src/results/index.js'
import { DID, attribute, quartersOf, type Touch } from '../src/response/index.js'
import { compileTargeting, matches } from '../src/targeting/index.js'
import { SHAPES, shapesOf } from '../src/taxonomy/index.js'
import { localDayOf, localHourOf, weekdayOf, dateOfDay, zoneIndex } from '../src/time/index.js'
import { fullLine, fullPublication } from './support/full-lines.js'
import {
  SMALL,
  START,
  catalogueOf,
  lineRules,
  numbers,
  one,
  opening,
  runHours,
  sharedDay,
  smallWorld,
  targetingOf,
  winsOf
} from './support/lines.js'
import { laneValues } from '../src/dimensions/index.js'
import { eventsIn, reopen } from './support/reopen.js'

const world = smallWorld()
const HOURS = 54
const shapes = (format: Parameters<typeof shapesOf>[0]) => shapesOf(format).map((shape) => SHAPES.indexOf(shape))

function run(publication: PublicationRules, hours = HOURS, from: OpeningState = opening()): HourFacts[] {
  return runHours(new Exchange(world, publication, from, sharedDay), hours)
}
const outcome = (hours: readonly HourFacts[], line: number, name: keyof typeof OUTCOME) =>
  hours.reduce((sum, facts) => sum + (facts.outcomes.find((one) => one.line === line)?.counts[OUTCOME[name]] ?? 0), 0)
/** Wins by person, each in order of time. */
function grouped<T extends { person: number }>(wins: readonly T[]): T[][] {
  const byPerson = new Map<number, T[]>()
  for (const win of wins) byPerson.set(win.person, [...(byPerson.get(win.person) ?? []), win])
  return [...byPerson.values()]
}
const sum = (values: readonly number[]) => values.reduce((total, value) => total + value, 0)

describe('lines of all formats and prices', () => {
  it('keep every limit, cap, flight and hour; what they matched adds up; the ledger is the log', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const below = numbers(seed)
        const lines = Array.from({ length: 7 }, (_, n) => fullLine(n + 1, world, below))
        const publication = fullPublication(lines, below)
        const hours = run(publication, HOURS, opening(START, 2_500_000))
        const wins = winsOf(hours)
        expect(sum(wins.map((win) => win.price))).toBe(sum(hours.map((facts) => facts.spendMicros)))
        expect(sum(wins.map((win) => win.price))).toBeLessThanOrEqual(2_500_000)
        for (const line of lines) {
          const own = wins.filter((win) => win.line === line.line)
          expect(own.length).toBe(outcome(hours, line.line, 'won'))
          expect(own.every((win) => win.hour >= line.startHour && win.hour < (line.endHour ?? Infinity))).toBe(true)
          const dearest = Math.max(0, ...own.map((win) => win.price)) + 1
          const zone = zoneIndex(line.zone)
          const per = (period: (day: number) => string) => {
            const sums = new Map<string, { micros: number; shown: number }>()
            for (const win of own) {
              const name = period(localDayOf(zone, win.hour))
              const known = sums.get(name) ?? { micros: 0, shown: 0 }
              sums.set(name, { micros: known.micros + win.price, shown: known.shown + 1 })
            }
            return [...sums.values()]
          }
          const { limits } = line
          const held = (period: (day: number) => string, micros: number | null, shown: number | null) => {
            for (const one of per(period)) {
              if (micros !== null) expect(one.micros).toBeLessThan(micros + dearest)
              if (shown !== null) expect(one.shown).toBeLessThanOrEqual(shown)
            }
          }
          held((day) => String(day), limits.dailyMicros, limits.dailyImpressions)
          held((day) => String(day - weekdayOf(day)), limits.weeklyMicros, limits.weeklyImpressions)
          held((day) => dateOfDay(day).slice(0, 7), limits.monthlyMicros, limits.monthlyImpressions)
          held(() => '', limits.totalMicros, limits.totalImpressions)
          const heldBy = (limit: number | null | undefined, place: (win: (typeof own)[number]) => number) => {
            if (limit == null) return
            const places = new Map<string, number>()
            for (const win of own) {
              const name = `${localDayOf(zone, win.hour)}.${place(win)}`
              places.set(name, (places.get(name) ?? 0) + win.price)
            }
            for (const micros of places.values()) expect(micros).toBeLessThan(limit + dearest)
          }
          heldBy(limits.placementDailyMicros, (win) => win.placement)
          heldBy(limits.sourceDailyMicros, (win) => win.source)
          const capped = new Map(line.ads.filter((ad) => ad.caps).map((ad) => [ad.ad, ad.caps ?? []]))
          const holds = (minutes: number[], times: number, window: number) =>
            minutes.every((minute, n) => n < times || minute - minutes[n - times] >= window * 60)
          const byPerson = (some: typeof own) => grouped(some).map((list) => list.map((win) => win.minute))
          for (const cap of line.caps)
            for (const minutes of byPerson(own.filter((win) => !capped.has(win.ad))))
              expect(holds(minutes, cap.times, cap.hours)).toBe(true)
          for (const [ad, caps] of capped)
            for (const cap of caps)
              for (const minutes of byPerson(own.filter((win) => win.ad === ad))) expect(holds(minutes, cap.times, cap.hours)).toBe(true)
          if (line.gapMinutes)
            for (const minutes of byPerson(own))
              expect(minutes.every((minute, n) => n === 0 || minute - minutes[n - 1] >= (line.gapMinutes ?? 0))).toBe(true)
        }
        for (const campaign of publication.campaigns) {
          const own = wins.filter((win) => lines[win.line - 1].campaign === campaign.campaign)
          if (campaign.limits.totalMicros !== null)
            expect(sum(own.map((win) => win.price))).toBeLessThan(
              campaign.limits.totalMicros + Math.max(0, ...own.map((win) => win.price)) + 1
            )
          for (const cap of campaign.caps ?? []) {
            for (const list of grouped(own))
              list.forEach((win, n) => expect(n < cap.times || win.minute - list[n - cap.times].minute >= cap.hours * 60).toBe(true))
          }
        }
      }),
      { numRuns: 8 }
    )
  })

  it('give the facts of a run never cut off when they are reopened from what was stored, at any hour', () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer({ min: 1, max: HOURS - 2 }), (seed, cut) => {
        const below = numbers(seed)
        const publication = fullPublication(
          Array.from({ length: 6 }, (_, n) => fullLine(n + 1, world, below)),
          below
        )
        const whole = run(publication, HOURS, opening(START, 1e9))
        const again = run(publication, HOURS - cut, reopen(world, publication, whole.slice(0, cut), 1e9))
        expect(again.map((facts) => [facts.crc, facts.eventsCrc, facts.lineStates])).toEqual(
          whole.slice(cut).map((facts) => [facts.crc, facts.eventsCrc, facts.lineStates])
        )
        expect(again.map((facts) => facts.outcomes)).toEqual(whole.slice(cut).map((facts) => facts.outcomes))
        // The first: a line whose day begins at another hour than its campaign's.
      }),
      { numRuns: 8, examples: [[-7, 24]] }
    )
  })

  it('buy only what matches, in slots of their format, by the prices of source and deal', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const below = numbers(seed)
        const lines = Array.from({ length: 5 }, (_, n) => ({ ...fullLine(n + 1, world, below), zone: 'UTC' }))
        const hours = run(fullPublication(lines, below), 30)
        const compiled = lines.map((line) => compileTargeting(line.targeting, catalogueOf(world)))
        for (const facts of hours) {
          const { rows, hourStart } = sharedDay(world, Math.floor(facts.hour / 24))
          const byKey = new Map<number, number>()
          for (let i = hourStart[facts.hour % 24]; i < hourStart[(facts.hour % 24) + 1]; i++) byKey.set(rows.key[i], i)
          const log = openLog(facts.log, facts.wins, facts.crc)
          for (let w = 0; w < log.count; w++) {
            const i = byKey.get(log.key[w]) as number
            const line = lines[log.line[w] - 1]
            expect([rows.person[i], rows.path[i], rows.device[i], rows.page[i], rows.state[i]]).toEqual([
              log.person[w],
              log.path[w],
              log.device[w],
              log.page[w],
              log.state[w]
            ])
            expect(matches(compiled[log.line[w] - 1], laneValues(world.persons.words, rows.person[i], rows, i))).toBe(true)
            const placement = Math.floor(rows.path[i] / SOURCES.length)
            expect(line.shapes).toContain(world.inventory.placements[placement].shape)
            const deal = log.deal[w] > 0 ? line.buys?.deals[log.deal[w] - 1] : undefined
            const floor = deal?.kind === 'floor' ? deal.price : world.inventory.floors[rows.path[i]]
            if (deal?.kind === 'fixed') expect(log.price[w]).toBe(deal.price)
            else {
              if (FIRST_PRICE[rows.path[i] % SOURCES.length] === 0) expect(log.price[w]).toBe(Math.max(floor, rows.rival[i]))
              else expect(log.price[w]).toBeGreaterThan(rows.rival[i])
              expect(log.price[w]).toBeGreaterThanOrEqual(floor)
            }
            expect(log.data[w]).toBe(line.dataMicros ?? 0)
            const { model, bidMicros } = line.price
            if (model === 'CPM' || model === 'visit') expect(log.media[w]).toBe(log.price[w])
            else if ((log.did[w] & (model === 'CPC' ? DID.clicked : DID.viewed)) === 0) expect(log.media[w]).toBe(0)
            // An aim pays what an event is worth to it, up to the maximum, which a draft of one must have.
            else expect(log.media[w]).toBeLessThanOrEqual(line.aim ? (line.price.maxMicros ?? Infinity) : bidMicros * 3 + 1000)
          }
        }
      }),
      { numRuns: 5 }
    )
  })

  it('roll-ups are made from log and events, and the view points of the lines', () => {
    const below = numbers(31)
    const publication = fullPublication(
      Array.from({ length: 6 }, (_, n) => ({ ...fullLine(n + 1, world, below), ...(n % 2 ? { viewPoint: 300 } : {}) })),
      below
    )
    const hours = run(publication)
    for (const facts of hours) {
      const again = rollUp(
        openLog(facts.log, facts.wins, facts.crc),
        openEvents(facts.events, facts.eventCount, facts.eventsCrc),
        world.persons.words,
        benchmarksOf(world),
        viewPointsOf(publication.lines)
      )
      expect(again).toEqual({ hourTotals: facts.hourTotals, placementTotals: facts.placementTotals })
    }
  })
})

describe('prices', () => {
  it('a fixed deal is won without asking rivals, charges its price, and comes before the open market', () => {
    const line = lineRules(1, { shapes: shapes('display'), price: { model: 'CPM', bidMicros: 900_000, maxMicros: null } })
    const all = world.inventory.placements.map((placement) => placement.index)
    const deal = { deal: 5, kind: 'fixed' as const, price: 900, placements: all }
    const hours = run(one({ ...line, buys: { open: true, deals: [deal] } }), 6)
    expect(winsOf(hours).every((win) => win.deal === 1 && win.price === 900)).toBe(true)
    expect(outcome(hours, 1, 'outbid') + outcome(hours, 1, 'below_floor')).toBe(0)
    expect(winsOf(hours).length).toBeGreaterThan(winsOf(run(one(line), 6)).length)
    const closed = run(one({ ...line, buys: { open: false, deals: [{ ...deal, placements: all.slice(0, 50) }] } }), 6)
    expect(winsOf(closed).every((win) => win.placement < 50)).toBe(true)
    expect(winsOf(run(one({ ...line, price: { ...line.price, bidMicros: 899_000 }, buys: { open: false, deals: [deal] } }), 6))).toEqual([])
  })

  it('per click and per view only what happened is paid, never over the bid; per thousand all of it', () => {
    const click = run(one(lineRules(1, { shapes: shapes('display'), price: { model: 'CPC', bidMicros: 900_000, maxMicros: null } })), 24)
    const clicked = winsOf(click).filter((win) => (win.did & DID.clicked) !== 0)
    expect(clicked.length).toBeGreaterThan(0)
    expect(clicked.every((win) => win.price > 0 && win.price <= 900_000)).toBe(true)
    expect(winsOf(click).every((win) => (win.did & DID.clicked) !== 0 || win.price === 0)).toBe(true)
    const view = run(
      one(
        lineRules(1, {
          shapes: shapes('video'),
          ads: shapes('video').map((shape) => ({ ad: shape, shape, weight: 1 })),
          price: { model: 'view', bidMicros: 12_000, maxMicros: null }
        })
      ),
      24
    )
    expect(winsOf(view).some((win) => win.price > 0)).toBe(true)
    for (const win of winsOf(view)) {
      expect(win.price > 0).toBe((win.did & DID.viewed) !== 0)
      expect(quartersOf(win.did) === 4).toBe((win.did & DID.viewed) !== 0)
    }
  })

  it('a repeat discount loses what a lower bid would lose, and bid steps by impressions begin when they are shown', () => {
    const line = lineRules(1, { price: { model: 'CPM', bidMicros: 2_500_000, maxMicros: null } })
    const hours = run(one({ ...line, price: { ...line.price, repeatDiscount: 500 } }), 24)
    expect(outcome(hours, 1, 'outbid_after_discount')).toBeGreaterThan(5)
    const dearest = (nth: number) =>
      Math.max(
        ...winsOf(hours)
          .filter((win) => win.nth === nth)
          .map((win) => win.clearing)
      )
    expect([dearest(1), dearest(2)]).toEqual([2500, 1250])
    const stepped = run(one({ ...line, price: { ...line.price, steps: [{ after: 'impressions', from: 50, bidMicros: 5_000_000 }] } }), 12)
    const paid = winsOf(stepped).map((win) => win.clearing)
    expect(Math.max(...paid.slice(0, 40))).toBe(2500)
    expect(Math.max(...paid)).toBe(5000)
  })

  it('data is paid on top of the bid, and counts towards every limit', () => {
    const hours = run(one(lineRules(1, { dataMicros: 700, totalMicros: 90_000, pacing: 'fast' })), 24)
    expect(winsOf(hours).every((win) => win.price === win.clearing + 700)).toBe(true)
    expect(sum(winsOf(hours).map((win) => win.price))).toBeGreaterThanOrEqual(90_000)
    expect(sum(winsOf(hours).map((win) => win.price))).toBeLessThan(90_000 + 3200)
  })

  it('in turn everybody sees the ads one after the other; those that are off are not seen', () => {
    const ads = [1, 2, 3, 4].map((ad) => ({ ad, shape: 0, weight: ad, ...(ad === 4 ? { off: true } : {}) }))
    const hours = run(one(lineRules(1, { shapes: [0], ads, rotation: 'even', caps: [] })), 24)
    let next = 0
    for (const list of grouped(winsOf(hours)))
      list.forEach((win, n) => {
        if (n === 0) return
        expect(win.ad).toBe((list[n - 1].ad % 3) + 1)
        next++
      })
    expect(next).toBeGreaterThan(100)
    expect(new Set(winsOf(hours).map(({ ad }) => ad))).toEqual(new Set([1, 2, 3]))
  })

  it('an ad of its own price and its own targeting is shown where it fits', () => {
    const ads = [
      { ad: 1, shape: 0, weight: 1, targeting: targetingOf([], ['phone']), bidMicros: 4_000_000 },
      { ad: 2, shape: 0, weight: 1, targeting: targetingOf([], ['desktop']) }
    ]
    const hours = run(one(lineRules(1, { shapes: [0], ads })), 24)
    for (const facts of hours) {
      const log = openLog(facts.log, facts.wins, facts.crc)
      for (let i = 0; i < log.count; i++) expect(log.price[i]).toBeLessThanOrEqual(log.ad[i] === 1 ? 4000 : 2500)
    }
    expect(new Set(winsOf(hours).map((win) => win.ad))).toEqual(new Set([1, 2]))
    expect(outcome(hours, 1, 'no_ad')).toBeGreaterThan(0)
  })
})

describe('responses', () => {
  it('a blocked pop is paid and never seen; robots click and never stay', () => {
    const hours = run(
      one(
        lineRules(1, {
          shapes: shapes('pop'),
          targeting: { restrictions: [] },
          ads: shapes('pop').map((shape) => ({ ad: shape, shape, weight: 1 })),
          price: { model: 'visit', bidMicros: 2500, maxMicros: null }
        })
      ),
      24
    )
    let blocked = 0
    for (const facts of hours) {
      const log = openLog(facts.log, facts.wins, facts.crc)
      for (let i = 0; i < log.count; i++) {
        if ((log.state[i] & 1) !== 0) {
          blocked++
          expect([log.did[i], log.media[i] > 0]).toEqual([0, true])
        } else expect(log.did[i] & DID.visited).not.toBe(0)
        if ((log.state[i] & 4) !== 0) expect(log.did[i] & DID.stayed).toBe(0)
      }
    }
    expect(blocked).toBeGreaterThan(20)
  })

  it('conversions come later, each once, to the last click or else the last view inside its window, and bring their value', () => {
    const line = lineRules(1, { targeting: { restrictions: [] }, price: { model: 'CPM', bidMicros: 6_000_000, maxMicros: null } })
    const tracker = { advertiser: 1, tracker: 7, kind: 'trial' as const, clickHours: 24, viewHours: 6, valueMicros: 500_000 }
    const hours = run(one(line, { trackers: Array.from({ length: 12 }, (_, n) => ({ ...tracker, tracker: 7 + n })) }), 96)
    const events = eventsIn(hours)
    const earned = events.filter((event) => event.by < 2)
    expect(earned.length).toBeGreaterThan(5)
    const byHour = new Map(hours.map((facts) => [facts.hour, openLog(facts.log, facts.wins, facts.crc)]))
    let later = 0
    for (const event of events) {
      const log = byHour.get(event.hour)
      if (!log) throw new Error('An event points to an hour that was not run.')
      const shown = event.hour * 60 + log.minute[event.index]
      expect([log.line[event.index], log.ad[event.index]]).toEqual([event.line, event.ad])
      expect(event.landed - shown).toBeGreaterThanOrEqual(0)
      if (event.by === 0) expect(event.landed - shown).toBeLessThan(24 * 60)
      if (event.by === 1) expect([log.did[event.index] & DID.viewable, event.landed - shown < 6 * 60]).toEqual([1, true])
      if (Math.floor(event.landed / 60) > event.hour) later++
    }
    expect(later).toBeGreaterThan(0)
    expect(sum(earned.map((event) => event.value))).toBe(sum(hours.flatMap((facts) => facts.hourTotals.map((total) => total.valueMicros))))
    expect(eventsIn(run(one(line, { trackers: [] }), 48))).toEqual([])
  })

  it('attribution takes the last click, else the last view if views count, over half-open windows', () => {
    const touch = (minute: number, clicked: boolean, viewable = true): Touch => ({ minute, clicked, viewable, hour: 0, index: minute })
    const windows = { clickHours: 2, viewHours: 1 }
    expect(attribute([touch(0, true), touch(50, false)], 100, windows)).toMatchObject({ by: 'click', touch: { minute: 0 }, assists: [] })
    expect(attribute([touch(10, false), touch(20, true), touch(30, false)], 40, windows)).toMatchObject({
      by: 'click',
      touch: { minute: 20 },
      assists: [{ minute: 10 }]
    })
    expect(attribute([touch(0, true), touch(70, false)], 120, windows)).toMatchObject({ by: 'view', touch: { minute: 70 } })
    expect(attribute([touch(70, false)], 120, { ...windows, viewHours: null })).toBeNull()
    expect(attribute([touch(60, false, false)], 100, windows)).toBeNull()
    expect(attribute([touch(60, false)], 120, windows)).toBeNull()
    expect(attribute([], 120, windows)).toBeNull()
  })
})

describe('an exchange that runs on', () => {
  it('forgets what no cap can see, and buys the same', () => {
    const line = lineRules(1, { caps: [{ times: 2, hours: 48 }], endHour: null })
    const publication = one(line)
    const exchange = new Exchange(world, publication, opening(), sharedDay)
    const whole = runHours(exchange, 24 * 6)
    expect(run(publication, 24 * 2, reopen(world, publication, whole.slice(0, 24 * 4), 1e12)).map((facts) => facts.crc)).toEqual(
      whole.slice(24 * 4).map((facts) => facts.crc)
    )
  })
})

describe('the trace', () => {
  const countsOf = (hours: readonly HourFacts[]) =>
    Object.fromEntries(OUTCOMES.map((name) => [name, outcome(hours, 1, name)])) as unknown as OutcomeCounts
  const bigWorld = makeWorld({ ...SMALL, people: 40_000 })
  const runBig = (line: LineRules) => runHours(new Exchange(bigWorld, one(line), opening(), sharedDay), 72)
  const wide = lineRules(1, {
    targeting: { restrictions: [] },
    shapes: shapes('display'),
    zone: 'UTC',
    price: { model: 'CPM', bidMicros: 1_400_000, maxMicros: null }
  })
  it('is a stair that falls from what was matched to what was won, and takes every outcome once', () => {
    const counts = countsOf(runBig({ ...wide, caps: [{ times: 1, hours: 24 }] }))
    const stair = stairOf(counts)
    expect(stair[0].left).toBe(sum(Object.values(counts)))
    expect(stair[stair.length - 1].left).toBe(counts.won)
    stair.slice(1).forEach((step, n) => expect(step.left + step.lost).toBe(stair[n].left))
    const losses = lossesOf(counts)
    expect(losses[0].loss).toBe('caps')
    expect(sum(losses.map(({ lost }) => lost)) + counts.won + counts.outbid_after_discount).toBe(stair[0].left)
    expect(stair.flatMap((step) => step.outcomes).sort()).toEqual(OUTCOMES.filter((name) => name !== 'won').sort())
  })

  it('bins lost bids by how far they fell short', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5000 }), fc.integer({ min: 1, max: 100_000 }), (bid, over) => {
        expect(shortBin(bid + over, bid)).toBe(SHORT_BY.findIndex((end) => (bid + over) * 20 <= bid * Math.round(end * 20)))
      })
    )
    expect(
      [
        [110, 100],
        [111, 100],
        [125, 100],
        [149, 100],
        [200, 100],
        [201, 100],
        [301, 100],
        [5, 0]
      ].map(([need, bid]) => shortBin(need, bid))
    ).toEqual([0, 1, 1, 2, 3, 4, 5, 5])
  })

  it('one opportunity: every verdict agrees with what the exchange did', () => {
    const below = numbers(77)
    const lines = Array.from({ length: 8 }, (_, n) => ({ ...fullLine(n + 1, world, below), aim: null, caps: [], gapMinutes: 0 }))
    const publication = { publication: 1, lines, campaigns: [], owners: [], trackers: [] }
    const hours = run(publication, 20)
    const { rows, hourStart } = sharedDay(world, 60)
    for (const facts of hours) {
      const log = openLog(facts.log, facts.wins, facts.crc)
      const wonBy = new Map(Array.from({ length: log.count }, (_, i) => [log.key[i], log.line[i]]))
      for (let i = hourStart[facts.hour % 24]; i < hourStart[(facts.hour % 24) + 1]; i += 7) {
        const verdicts = verdictsOn(world, lines, { rows, i, hour: facts.hour })
        const winner = wonBy.get(rows.key[i])
        if (winner !== undefined) expect(verdicts.find((verdict) => verdict.line === winner)?.verdict).toBe('could win')
        verdicts.forEach((verdict) => {
          expect(
            verdict.failing.length === 0 ||
              verdict.verdict === 'does not match' ||
              verdict.verdict === 'out of hours' ||
              verdict.verdict === 'not in flight'
          ).toBe(true)
          expect(verdict.steps[verdict.steps.length - 1].micros).toBe(verdict.bidMicros)
        })
      }
    }
  })

  it('of lines that learn and aim: verdicts are what the auction did, to the micro, hour after hour', () => {
    const plain = { caps: [], gapMinutes: 0, targeting: { restrictions: [] } }
    const cpm = { model: 'CPM' as const, bidMicros: 0, maxMicros: 9_000_000 }
    const adjustments = [{ dimension: 'device' as const, value: 'phone', perMille: 1300, ownMicros: null }]
    const lines = [
      lineRules(1, { ...plain, price: cpm, aim: { event: 'click', micros: 900_000 } }),
      lineRules(2, { ...plain, price: { ...cpm, adjustments }, aim: { event: 'stay', micros: 1_600_000 } }),
      lineRules(3, { ...plain, price: cpm, aim: { event: 'value', micros: 1500 } }),
      lineRules(4, { ...plain, price: { model: 'CPC', bidMicros: 700_000, maxMicros: null, adjustments } }),
      lineRules(5, { ...plain, price: { model: 'view', bidMicros: 3000, maxMicros: 2900 } }),
      lineRules(6, { ...plain, price: { model: 'CPC', bidMicros: 0, maxMicros: 900_000 }, aim: { event: 'stay', micros: 1_200_000 } }),
      lineRules(7, {
        ...plain,
        price: { model: 'view', bidMicros: 0, maxMicros: 9000, adjustments },
        aim: { event: 'page', micros: 700_000 }
      }),
      lineRules(8, { ...plain, price: cpm, aim: { event: 'person', micros: 1400 } })
    ]
    const owners = lines.map(({ line }) => ({ line, advertiser: 1, campaign: 1, zone: 'Europe/Lisbon' }))
    const trackers = [{ tracker: 1, advertiser: 1, kind: 'purchase' as const, valueMicros: 30_000_000, clickHours: 168, viewHours: 24 }]
    const zone = zoneIndex(lines[0].zone)
    const learned = new Map(lines.map(({ line }) => [line, { facts: noFacts(), correction: 1000, trackers }]))
    let firstPrices = 0
    let events = 0
    for (const hour of run({ publication: 1, lines, campaigns: [], owners, trackers }, 30)) {
      if (hour.hour % 6 === 5) {
        const { rows, hourStart } = sharedDay(world, Math.floor(hour.hour / 24))
        const log = openLog(hour.log, hour.wins, hour.crc)
        const rowOf = new Map(Array.from({ length: log.count }, (_, i) => [log.key[i], i]))
        // What is known is told anew each hour, as a stored fact would be.
        const known = new Map([...learned].map(([line, one]) => [line, { ...one }]))
        const outbid = new Map(lines.map(({ line }) => [line, 0]))
        for (let i = hourStart[hour.hour % 24]; i < hourStart[(hour.hour % 24) + 1]; i++) {
          const verdicts = verdictsOn(world, lines, { rows, i, hour: hour.hour }, known)
          for (const { line, verdict } of verdicts) if (verdict === 'outbid') outbid.set(line, (outbid.get(line) as number) + 1)
          const n = rowOf.get(rows.key[i])
          if (n === undefined || log.person[n] !== rows.person[i]) continue
          const winner = verdicts.find((verdict) => verdict.line === log.line[n])
          expect(winner?.verdict).toBe('could win')
          if (offeredAt(world, rows, i).isFirstPrice) {
            expect(winner?.bidMicros).toBe(log.price[n])
            firstPrices++
          } else expect(winner?.bidMicros).toBeGreaterThanOrEqual(log.price[n])
          expect(winner?.steps.at(-1)?.micros).toBe(winner?.bidMicros)
        }
        for (const { line } of lines) {
          const counts = hour.outcomes.find((one) => one.line === line)?.counts ?? []
          expect([line, outbid.get(line)]).toEqual([line, (counts[OUTCOME.below_floor] ?? 0) + (counts[OUTCOME.outbid] ?? 0)])
        }
      }
      for (const total of hour.hourTotals)
        takeHour((learned.get(total.line) as Knowledge).facts, total, localHourOf(zone, hour.hour), localDayOf(zone, hour.hour))
      for (const total of hour.placementTotals) takePlacement((learned.get(total.line) as Knowledge).facts, total)
      for (const { line, correction } of hour.lineStates) (learned.get(line) as Knowledge).correction = correction
      events = sum([...learned.values()].map(({ facts }) => facts.total.visits))
    }
    expect(firstPrices).toBeGreaterThan(200)
    expect(events).toBeGreaterThan(20)
    expect([...learned.values()].some(({ correction }) => correction !== 1000)).toBe(true)
  })

  it('the opportunities of a line are found one after the other, as many of each kind as were counted', () => {
    const below = numbers(78)
    const lines = Array.from({ length: 2 }, (_, n) => ({
      ...fullLine(n + 1, world, below),
      aim: null,
      follow: undefined,
      price: { ...fullLine(n + 1, world, below).price, steps: [] }
    }))
    const [facts] = run({ publication: 1, lines, campaigns: [], owners: [], trackers: [] }, 1)
    const { rows, hourStart } = sharedDay(world, 60)
    const [from, to] = [hourStart[facts.hour % 24], hourStart[(facts.hour % 24) + 1]]
    const wins = new HourWins(openLog(facts.log, facts.wins, facts.crc))
    let all = 0
    for (const line of lines) {
      const found = (sought: Sought) => {
        let n = 0
        for (
          let i = seek(world, line, { rows, after: from - 1, to, hour: facts.hour }, sought, wins);
          i >= 0;
          i = seek(world, line, { rows, after: i, to, hour: facts.hour }, sought, wins)
        )
          n++
        return n
      }
      const counts = facts.outcomes.find((one) => one.line === line.line)?.counts ?? OUTCOMES.map(() => 0)
      const countOf = (...names: (typeof OUTCOMES)[number][]) => sum(names.map((name) => counts[OUTCOME[name]]))
      expect([found('matched'), found('won')]).toEqual([sum(counts), countOf('won')])
      expect([found('outbid'), found('stopped')]).toEqual([
        countOf('below_floor', 'outbid'),
        sum(counts) - countOf('below_floor', 'outbid', 'won', 'no_ad')
      ])
      all += sum(counts)
    }
    expect(all).toBeGreaterThan(100)
  })
})
