import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DISPLAY_SIZES } from '../src/taxonomy/index.js'
import { SOURCES } from '../src/market/index.js'
import {
  Exchange,
  ExposureBook,
  OUTCOME,
  Pacer,
  dayAllowance,
  plannedBy,
  stoppedBy,
  type Cap,
  type LineRules
} from '../src/exchange/index.js'
import { ExposureList } from '../src/forecast/exposure-list.js'
import { holds, factsOf } from './support/plain.js'
import { STREAM, draw } from '../src/random/index.js'
import {
  START,
  campaignRules,
  numbers,
  opening,
  randomLine,
  runHours,
  sharedDay,
  smallWorld,
  winsOf,
  catalogueOf,
  reading
} from './support/lines.js'

const world = smallWorld()

/**
 * The exchange once more, slow and plain: every line looked at for every opportunity, windows counted from lists, no
 * bit sets, no chains. Lines spend as fast as they can, since pacing has a test of its own.
 */
function plainExchange(lines: readonly LineRules[], hours: number, balance: number) {
  const spent = lines.map(() => ({ today: 0, total: 0, day: -1 }))
  const exposures = lines.map(() => new Map<number, number[]>())
  const wins: { line: number; person: number; minute: number; price: number }[] = []
  const outcomes = lines.map(() => new Map<string, number>())
  for (let hour = START; hour < START + hours; hour++) {
    const { rows, hourStart } = sharedDay(world, Math.floor(hour / 24))
    const read = reading(world, rows)
    for (let i = hourStart[hour % 24]; i < hourStart[(hour % 24) + 1]; i++) {
      const minute = Math.floor(hour / 24) * 1440 + rows.minute[i]
      const able: number[] = []
      const note = (l: number, outcome: string) => outcomes[l].set(outcome, (outcomes[l].get(outcome) ?? 0) + 1)
      const facts = factsOf(catalogueOf(world), world.persons.words, rows.person[i], rows, i)
      lines.forEach((line, l) => {
        if (hour < line.startHour || hour >= (line.endHour ?? Infinity)) return
        if (line.targeting.restrictions.some((restriction) => !holds(restriction, facts))) return
        const bid = line.price.bidMicros / 1000
        if (!line.ads.some((ad) => ad.shape === read.shape(i))) note(l, 'no_ad')
        else if (bid < read.floor(i)) note(l, 'below_floor')
        else if (bid <= rows.rival[i]) note(l, 'outbid')
        else able.push(l)
      })
      able.sort(
        (a, b) =>
          lines[b].price.bidMicros - lines[a].price.bidMicros ||
          draw(rows.key[i] ^ lines[a].line, STREAM.order) - draw(rows.key[i] ^ lines[b].line, STREAM.order)
      )
      let sold = false
      for (const l of able) {
        if (sold) {
          note(l, 'own_line')
          continue
        }
        const line = lines[l]
        const bid = line.price.bidMicros / 1000
        const price = SOURCES[read.source(i)].auction === 'first price' ? bid : Math.max(read.floor(i), rows.rival[i])
        if (spent[l].day !== Math.floor(hour / 24)) Object.assign(spent[l], { today: 0, day: Math.floor(hour / 24) })
        const seen = exposures[l].get(rows.person[i]) ?? []
        if (balance < price) note(l, 'no_money')
        else if (line.limits.totalMicros !== null && spent[l].total >= line.limits.totalMicros) note(l, 'total_budget')
        else if (line.limits.dailyMicros !== null && spent[l].today >= line.limits.dailyMicros) note(l, 'period_budget')
        else if (line.caps.some((cap) => seen.filter((other) => other > minute - cap.hours * 60).length >= cap.times)) note(l, 'capped')
        else {
          note(l, 'won')
          sold = true
          balance -= price
          spent[l].today += price
          spent[l].total += price
          exposures[l].set(rows.person[i], [...seen, minute])
          wins.push({ line: line.line, person: rows.person[i], minute, price })
        }
      }
    }
  }
  return { wins, outcomes }
}

describe('the exchange and its plain twin', () => {
  it('buy the same impressions at the same prices, with the same outcomes, on random lines', () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer({ min: 100_000, max: 5_000_000 }), (seed, balance) => {
        const below = numbers(seed)
        const lines = Array.from({ length: 5 }, (_, n): LineRules => ({
          ...randomLine(n + 1, below),
          pacing: 'fast',
          zone: 'UTC',
          ads: DISPLAY_SIZES.flatMap((_, size) => (below(4) ? [{ ad: n * 10 + size, shape: size, weight: 1 }] : []))
        }))
        lines[1].endHour = START + 9
        const plain = plainExchange(lines, 16, balance)
        const hours = runHours(
          new Exchange(world, { publication: 1, lines, campaigns: [campaignRules()] }, opening(START, balance), sharedDay),
          16
        )
        expect(winsOf(hours).map(({ line, person, minute, price }) => ({ line, person, minute, price }))).toEqual(plain.wins)
        lines.forEach((line, l) => {
          const counts = new Map<string, number>()
          for (const facts of hours) {
            const own = facts.outcomes.find((outcome) => outcome.line === line.line)?.counts ?? []
            for (const [name, outcome] of Object.entries(OUTCOME))
              if (own[outcome]) counts.set(name, (counts.get(name) ?? 0) + own[outcome])
          }
          expect(Object.fromEntries(counts)).toEqual(Object.fromEntries(plain.outcomes[l]))
        })
      }),
      { numRuns: 3 }
    )
  })
})

describe('exposures and their plain twin', () => {
  it('hold caps and gaps over half-open windows, for any line and person, in chains and in lists', () => {
    const step = fc.record({
      line: fc.integer({ min: 1, max: 3 }),
      person: fc.integer({ min: 0, max: 4 }),
      after: fc.integer({ min: 0, max: 900 })
    })
    const cap = fc.record({ times: fc.integer({ min: 1, max: 4 }), hours: fc.integer({ min: 1, max: 48 }) })
    fc.assert(
      fc.property(
        fc.array(step, { maxLength: 120 }),
        fc.array(cap, { maxLength: 3 }),
        fc.constantFrom(0, 0, 7, 90),
        (steps, caps: Cap[], gap) => {
          const book = new ExposureBook()
          const list = new ExposureList(121)
          const plain = new Map<string, number[]>()
          let minute = 0
          for (const { line, person, after } of steps) {
            minute += after
            const times = plain.get(`${line}.${person}`) ?? []
            const capped =
              times.some((other) => other > minute - gap) ||
              caps.some(({ times: most, hours }) => times.filter((other) => other > minute - hours * 60).length >= most)
            list.start(times)
            expect(book.capped(line, person, minute, caps, gap)).toBe(capped)
            expect(stoppedBy(list, minute, caps, gap)).toBe(capped)
            expect(list.remembered(minute)).toBe(times.filter((other) => other > minute - 43_200).length)
            expect(book.count(line, person, minute)).toBe(Math.min(16, times.filter((other) => other > minute - 43_200).length))
            if (capped) continue
            book.add(line, person, minute)
            plain.set(`${line}.${person}`, [...times, minute])
          }
        }
      ),
      { numRuns: 200 }
    )
  })

  it('an exposure exactly one window old is free', () => {
    const book = new ExposureBook()
    book.add(1, 1, 100)
    expect(book.capped(1, 1, 100 + 59, [{ times: 1, hours: 1 }])).toBe(true)
    expect(book.capped(1, 1, 100 + 60, [{ times: 1, hours: 1 }])).toBe(false)
  })

  it('keeps apart many people and lines as it grows', () => {
    const book = new ExposureBook()
    for (let n = 0; n < 20_000; n++) book.add(n % 7, n, n)
    for (let n = 0; n < 20_000; n += 37) {
      expect(book.count(n % 7, n, n + 1)).toBe(1)
      expect(book.count((n % 7) + 1, n, n + 1)).toBe(0)
    }
  })
})

describe('pacing', () => {
  it('plans nothing before it opens, all of it by the end, and never falls', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1400 }),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 1e9 }),
        (openFrom, length, limitMicros) => {
          const plan = { limitMicros, openFrom, openTo: openFrom + length }
          let last = 0
          for (let minute = 0; minute <= 1440; minute += 5) {
            const planned = plannedBy(plan, 'even', minute)
            expect(planned).toBeGreaterThanOrEqual(last)
            last = planned
          }
          expect(plannedBy(plan, 'even', openFrom)).toBe(0)
          expect(plannedBy(plan, 'even', plan.openTo)).toBeCloseTo(limitMicros, 3)
          expect(plannedBy(plan, 'fast', openFrom + 1)).toBe(limitMicros)
        }
      )
    )
  })

  it('day limits never exceed what is left, nor the daily limit, and spread the rest evenly', () => {
    fc.assert(
      fc.property(
        fc.option(fc.integer({ min: 1, max: 1e6 })),
        fc.option(fc.integer({ min: -1000, max: 1e6 })),
        fc.integer({ min: 1, max: 1440 }),
        fc.integer({ min: 0, max: 28 }),
        (daily, left, minutes, days) => {
          for (const pacing of ['even', 'fast'] as const) {
            const limit = dayAllowance(
              { daily, weekly: null, monthly: null, total: left },
              { day: 0, week: 0, month: 0, total: 0 },
              { day: minutes, week: minutes, month: minutes, flight: minutes + days * 1440 },
              pacing === 'fast'
            )
            if (daily !== null) expect(limit).toBeLessThanOrEqual(daily)
            if (left !== null) expect(limit).toBeLessThanOrEqual(Math.max(0, left))
            expect(limit).toBeGreaterThanOrEqual(0)
            if (pacing === 'fast' && left !== null && daily === null) expect(limit).toBe(Math.max(0, left))
          }
        }
      )
    )
  })

  it('keeps to the plan within five minutes of supply, whatever the supply does', () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer({ min: 200, max: 4000 }), (seed, limit) => {
        const below = numbers(seed)
        const plan = { limitMicros: limit * 100, openFrom: 0, openTo: 1440 }
        const pacer = new Pacer()
        let spent = 0
        let key = seed
        for (let minute = 0; minute < 1440; minute++) {
          for (let n = below(12); n > 0; n--) {
            key = (Math.imul(key, 69069) + 1) | 0
            if (!pacer.passes(plan, 'even', { micros: spent, impressions: spent / 100 }, { minute, priceMicros: 100, key, line: 1 }))
              continue
            spent += 100
            pacer.booked({ micros: spent, impressions: spent / 100 })
          }
          expect(spent).toBeLessThan(plannedBy(plan, 'even', Math.floor(minute / 5) * 5 + 5) + 100)
        }
        // Supply is about eighty times what the smallest plan wants and twice what the largest does.
        expect(spent).toBeGreaterThan(plan.limitMicros * 0.98)
      }),
      { numRuns: 40 }
    )
  })

  it('goes on from its stored estimate as if it had not been interrupted', () => {
    const plan = { limitMicros: 50_000, openFrom: 0, openTo: 1440 }
    const play = (pacer: Pacer, from: number, spent: number) => {
      let key = 17
      for (let minute = 0; minute < from + 60; minute++) {
        for (let n = 0; n < 5; n++) {
          key = (Math.imul(key, 69069) + 1) | 0
          if (
            minute < from ||
            !pacer.passes(plan, 'even', { micros: spent, impressions: spent / 100 }, { minute, priceMicros: 100, key, line: 1 })
          )
            continue
          spent += 100
          pacer.booked({ micros: spent, impressions: spent / 100 })
        }
      }
      pacer.learn()
      return spent
    }
    const whole = new Pacer()
    const after = play(whole, 0, 0)
    const again = new Pacer(whole.supply)
    whole.restart()
    expect(play(again, 60, after)).toBe(play(whole, 60, after))
    expect(again.supply).toEqual(whole.supply)
  })
})
