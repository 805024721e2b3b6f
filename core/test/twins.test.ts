import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DISPLAY_SIZES } from '../src/taxonomy/index.js'
import { SOURCES } from '../src/market/index.js'
import { Exchange, ExposureBook, OUTCOME, Pacer, dayLimit, plannedBy, type Cap, type LineRules } from '../src/exchange/index.js'
import { flightTimeline, forecast, replay, rowPrice, scanTape, weekTimeline, cappedAt } from '../src/forecast/index.js'
import { buildTape } from '../src/tape/index.js'
import { compileTargeting, explain } from '../src/targeting/index.js'
import { STREAM, draw } from '../src/random/index.js'
import { START, campaignRules, lineRules, numbers, opening, randomLine, runHours, sharedDay, smallWorld, winsOf } from './support/lines.js'

const world = smallWorld()
const tape = buildTape(world, 59)

/**
 * The exchange once more, slow and plain: every line looked at for every opportunity, windows counted from lists, no
 * bit sets, no chains. Lines spend as fast as they can, since pacing has a test of its own.
 */
function plainExchange(lines: readonly LineRules[], hours: number, balance: number) {
  const compiled = lines.map((line) => compileTargeting(line.targeting, world.inventory))
  const spent = lines.map(() => ({ today: 0, total: 0, day: -1 }))
  const exposures = lines.map(() => new Map<number, number[]>())
  const wins: { line: number; person: number; minute: number; price: number }[] = []
  const outcomes = lines.map(() => new Map<string, number>())
  for (let hour = START; hour < START + hours; hour++) {
    const { rows, hourStart } = sharedDay(world, Math.floor(hour / 24))
    for (let i = hourStart[hour % 24]; i < hourStart[(hour % 24) + 1]; i++) {
      const minute = Math.floor(hour / 24) * 1440 + rows.minute[i]
      const able: number[] = []
      const note = (l: number, outcome: string) => outcomes[l].set(outcome, (outcomes[l].get(outcome) ?? 0) + 1)
      lines.forEach((line, l) => {
        if (hour < line.startHour || hour >= (line.endHour ?? Infinity)) return
        if (explain(compiled[l], rows.region[i], rows.device[i], rows.placement[i], rows.source[i]).length > 0) return
        const size = world.inventory.placements[rows.placement[i]].size
        const bid = line.price.bidMicros / 1000
        if (!line.ads.some((ad) => ad.size === size)) note(l, 'no_ad')
        else if (bid < rows.floor[i]) note(l, 'below_floor')
        else if (bid <= rows.rival[i]) note(l, 'outbid')
        else able.push(l)
      })
      able.sort((a, b) => lines[b].price.bidMicros - lines[a].price.bidMicros
        || draw(rows.key[i] ^ lines[a].line, STREAM.order) - draw(rows.key[i] ^ lines[b].line, STREAM.order))
      let sold = false
      for (const l of able) {
        if (sold) {
          note(l, 'own_line')
          continue
        }
        const line = lines[l]
        const bid = line.price.bidMicros / 1000
        const price = SOURCES[rows.source[i]].auction === 'first price' ? bid : Math.max(rows.floor[i], rows.rival[i])
        if (spent[l].day !== Math.floor(hour / 24)) Object.assign(spent[l], { today: 0, day: Math.floor(hour / 24) })
        const seen = exposures[l].get(rows.person[i]) ?? []
        if (balance < price) note(l, 'no_money')
        else if (line.totalMicros !== null && spent[l].total >= line.totalMicros) note(l, 'total_budget')
        else if (line.dailyMicros !== null && spent[l].today >= line.dailyMicros) note(l, 'period_budget')
        else if (line.caps.some((cap) => seen.filter((at) => at > minute - cap.hours * 60).length >= cap.times)) note(l, 'capped')
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
    fc.assert(fc.property(fc.integer(), fc.integer({ min: 100_000, max: 5_000_000 }), (seed, balance) => {
      const below = numbers(seed)
      const lines = Array.from({ length: 5 }, (_, n): LineRules => ({
        ...randomLine(n + 1, below), pacing: 'fast', zone: 'UTC', ads: DISPLAY_SIZES.flatMap((_, size) => (below(4) ? [{ ad: n * 10 + size, size, weight: 1 }] : []))
      }))
      lines[1].endHour = START + 9
      const plain = plainExchange(lines, 30, balance)
      const hours = runHours(new Exchange(world, { publication: 1, lines, campaigns: [campaignRules()] }, opening(START, balance), sharedDay), 30)
      expect(winsOf(hours).map(({ line, person, minute, price }) => ({ line, person, minute, price }))).toEqual(plain.wins)
      lines.forEach((line, l) => {
        const counts = new Map<string, number>()
        for (const facts of hours) {
          const own = facts.outcomes.find((outcome) => outcome.line === line.line)?.counts ?? []
          for (const [name, at] of Object.entries(OUTCOME)) if (own[at]) counts.set(name, (counts.get(name) ?? 0) + own[at])
        }
        expect(Object.fromEntries(counts)).toEqual(Object.fromEntries(plain.outcomes[l]))
      })
    }), { numRuns: 15 })
  })
})

describe('a flight replayed, and its plain twin', () => {
  /** Every day of the flight in turn: which rows of which tape week fall on it, by the local calendar. */
  function plainFlight(line: LineRules, startDay: number, days: number, firstMinute: number, offset: number) {
    const compiled = compileTargeting(line.targeting, world.inventory)
    const bid = line.price.bidMicros / 1000
    const seen = new Map<number, number[]>()
    const people = new Map<number, { minute: number; order: number; row: number }[]>()
    for (let day = 0; day < days; day++) {
      const week = Math.floor(day / 7) % 2
      const weekday = (startDay + day + 3) % 7
      for (let row = 0; row < tape.rowCount; row++) {
        if (Math.floor(tape.minute[row] / 10_080) !== week) continue
        // The tape begins on a Monday at 00:00 UTC, so its minute of the week is the minute since Monday.
        const local = (((tape.minute[row] % 10_080) + offset) % 10_080 + 10_080) % 10_080
        if (Math.floor(local / 1440) !== weekday) continue
        const minute = day * 1440 + (local % 1440)
        if (minute < firstMinute) continue
        const { region, device, placement, source, person, floor, rival } = tape.rows
        if (explain(compiled, region[row], device[row], placement[row], source[row]).length > 0 || bid < floor[row] || bid <= rival[row]) continue
        people.set(person[row], [...(people.get(person[row]) ?? []), { minute, order: row, row }])
      }
    }
    let wins = 0
    let spend = 0
    for (const [person, rows] of people) {
      for (const { minute, row } of rows.sort((a, b) => a.minute - b.minute || a.order - b.order)) {
        const times = seen.get(person) ?? []
        if (line.caps.some((cap) => times.filter((at) => at > minute - cap.hours * 60).length >= cap.times)) continue
        seen.set(person, [...times, minute])
        wins++
        spend += rowPrice(tape, row, bid)
      }
    }
    return { wins, spend, reach: seen.size }
  }

  it.each([[60, 3, 0, 0], [62, 7, 480, 60], [65, 10, 0, -300], [61, 16, 90, 540], [64, 23, 0, 0]])('from day %d over %d days, from minute %d, at offset %d', (startDay, days, firstMinute, offset) => {
    const line = lineRules(1, { targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: ['PT', 'IE', 'NL'] }] }, caps: [{ times: 2, hours: 30 }, { times: 5, hours: 300 }] })
    const plain = plainFlight(line, startDay, days, firstMinute, offset)
    const scan = scanTape(tape, compileTargeting(line.targeting, world.inventory), 2500, () => false)
    const played = replay(scan, tape, 2500, line.caps, flightTimeline(tape, startDay, days, firstMinute, offset), () => false)
    expect([played.wins, played.spendMicros, played.reach]).toEqual([plain.wins, plain.spend, plain.reach])
    expect(played.slotWins.reduce((a, b) => a + b, 0)).toBe(played.wins)
    expect(played.slotSpend.reduce((a, b) => a + b, 0)).toBe(played.spendMicros)
    expect(played.frequency.reduce((a, b) => a + b, 0)).toBe(played.reach)
  })

  it('a week as it stands takes each of its rows once, whatever the zone', () => {
    for (const offset of [-480, 0, 330, 600]) {
      for (const week of [0, 1] as const) {
        const timeline = weekTimeline(tape, week, offset)
        let taken = 0
        for (let row = 0; row < tape.rowCount; row++) {
          const minute = timeline.minuteOf(tape.minute[row], 0)
          if (minute >= 0) taken++
          if (minute >= 10_080) throw new Error('outside the week')
        }
        expect(taken).toBe(tape.minute.filter((minute) => Math.floor(minute / 10_080) === week).length)
      }
    }
  })
})

describe('exposures and their plain twin', () => {
  it('hold caps over half-open windows, for any line and person', () => {
    const step = fc.record({ line: fc.integer({ min: 1, max: 3 }), person: fc.integer({ min: 0, max: 4 }), after: fc.integer({ min: 0, max: 900 }) })
    const cap = fc.record({ times: fc.integer({ min: 1, max: 4 }), hours: fc.integer({ min: 1, max: 48 }) })
    fc.assert(fc.property(fc.array(step, { maxLength: 120 }), fc.array(cap, { maxLength: 3 }), (steps, caps: Cap[]) => {
      const book = new ExposureBook()
      const plain = new Map<string, number[]>()
      let minute = 0
      for (const { line, person, after } of steps) {
        minute += after
        const times = plain.get(`${line}.${person}`) ?? []
        const capped = caps.some(({ times: most, hours }) => times.filter((at) => at > minute - hours * 60).length >= most)
        expect(book.capped(line, person, minute, caps)).toBe(capped)
        expect(cappedAt(times, times.length, minute, caps)).toBe(capped)
        expect(book.count(line, person, minute)).toBe(Math.min(16, times.filter((at) => at > minute - 43_200).length))
        if (capped) continue
        book.add(line, person, minute)
        plain.set(`${line}.${person}`, [...times, minute])
      }
    }), { numRuns: 200 })
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
    fc.assert(fc.property(fc.integer({ min: 0, max: 1400 }), fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 1e9 }), (openFrom, length, limitMicros) => {
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
    }))
  })

  it('day limits never exceed what is left, nor the daily limit, and spread the rest evenly', () => {
    fc.assert(fc.property(fc.option(fc.integer({ min: 1, max: 1e6 })), fc.option(fc.integer({ min: -1000, max: 1e6 })), fc.integer({ min: 1, max: 1440 }), fc.integer({ min: 0, max: 28 }), (daily, left, minutes, days) => {
      for (const pacing of ['even', 'fast'] as const) {
        const limit = dayLimit(daily, left, pacing, minutes, minutes + days * 1440)
        if (daily !== null) expect(limit).toBeLessThanOrEqual(daily)
        if (left !== null) expect(limit).toBeLessThanOrEqual(Math.max(0, left))
        expect(limit).toBeGreaterThanOrEqual(0)
        if (pacing === 'fast' && left !== null && daily === null) expect(limit).toBe(Math.max(0, left))
      }
    }))
  })

  it('keeps to the plan within five minutes of supply, whatever the supply does', () => {
    fc.assert(fc.property(fc.integer(), fc.integer({ min: 200, max: 4000 }), (seed, limit) => {
      const below = numbers(seed)
      const plan = { limitMicros: limit * 100, openFrom: 0, openTo: 1440 }
      const pacer = new Pacer()
      let spent = 0
      let key = seed
      for (let minute = 0; minute < 1440; minute++) {
        for (let n = below(12); n > 0; n--) {
          key = (Math.imul(key, 69069) + 1) | 0
          if (!pacer.passes(plan, 'even', minute, spent, 100, key, 1)) continue
          spent += 100
        }
        expect(spent).toBeLessThan(plannedBy(plan, 'even', Math.floor(minute / 5) * 5 + 5) + 100)
      }
      // Supply is about eighty times what the smallest plan wants and twice what the largest does.
      expect(spent).toBeGreaterThan(plan.limitMicros * 0.98)
    }), { numRuns: 40 })
  })

  it('goes on from its stored estimate as if it had not been interrupted', () => {
    const plan = { limitMicros: 50_000, openFrom: 0, openTo: 1440 }
    const play = (pacer: Pacer, from: number, spent: number) => {
      let key = 17
      for (let minute = 0; minute < from + 60; minute++) {
        for (let n = 0; n < 5; n++) {
          key = (Math.imul(key, 69069) + 1) | 0
          if (minute >= from && pacer.passes(plan, 'even', minute, spent, 100, key, 1)) spent += 100
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
    expect(again.supply).toBe(whole.supply)
  })
})

describe('forecast and exchange', () => {
  it('give one verdict on every row: what the scan matches and wins is what the exchange would', () => {
    const below = numbers(3)
    for (let n = 0; n < 20; n++) {
      const { targeting, price } = randomLine(1, below)
      const compiled = compileTargeting(targeting, world.inventory)
      const bid = price.bidMicros / 1000
      const scan = scanTape(tape, compiled, bid, () => false)
      const { region, device, placement, source, floor, rival, second } = tape.rows
      const counts = { matched: 0, eligible: 0, first: 0, second: 0 }
      for (let i = 0; i < tape.rowCount; i++) {
        if (explain(compiled, region[i], device[i], placement[i], source[i]).length > 0) continue
        counts.matched++
        if (bid >= floor[i]) counts.eligible++
        if (bid >= floor[i] && bid > rival[i]) counts.first++
        else if (bid > second[i] && bid <= rival[i]) counts.second++
      }
      expect({ matched: scan.matched, eligible: scan.eligible, first: scan.first, second: scan.second }).toEqual(counts)
    }
  })

  it('a budget of its own or of its campaign is never forecast to be passed', () => {
    fc.assert(fc.property(fc.integer(), fc.integer({ min: 5_000, max: 3_000_000 }), fc.boolean(), (seed, limit, ofCampaign) => {
      const { targeting, price, caps, pacing } = randomLine(1, numbers(seed))
      const money = { dailyMicros: ofCampaign ? null : limit, totalMicros: null, pacing, campaignDailyMicros: ofCampaign ? limit : null, campaignTotalMicros: limit * 3 }
      const { day, flight } = forecast({ targeting, price, caps, money, matesDemandMicros: 0, zone: 'Europe/Lisbon', startHour: START, endHour: START + 12 * 24, nowHour: START }, tape, world.inventory)
      expect(day.spendMicros).toBeLessThanOrEqual(limit * 1.000001)
      expect(flight.spendMicros).toBeLessThanOrEqual(limit * 3 * 1.000001)
      expect(flight.reach).toBeLessThanOrEqual(flight.wins + 1e-6)
    }), { numRuns: 40 })
  })
})
