import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Exchange, type OwnHistory } from '../src/exchange/index.js'
import {
  CancelledError,
  MEASURES,
  NO_LIMITS,
  NOTHING_SPENT,
  answer,
  changed,
  isLimit,
  mainFigures,
  matchTape,
  nothingKept,
  quantiles,
  replay,
  shapesOf,
  weekTimeline,
  workOut,
  type ForecastPart,
  type ForecastQuestion,
  type MoneyCalendar
} from '../src/forecast/index.js'
import { generalReplay } from '../src/forecast/general-replay.js'
import { makeWorld } from '../src/market/index.js'
import { RATE_KINDS } from '../src/response/index.js'
import { buildTape } from '../src/tape/index.js'
import { SHAPES, shapesOf as shapesOfFormat } from '../src/taxonomy/index.js'
import {
  SMALL,
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
  winsOf
} from './support/lines.js'
import { DISPLAY, marketOf, question, randomHours, randomQuestion } from './support/questions.js'

const world = smallWorld()
const tape = buildTape(world, 59)
const market = marketOf(world)
const never = () => false
const figures = (q: ForecastQuestion, recorded = tape, on = market) => mainFigures(workOut(q, recorded, on, never), never)
const parts = (q: ForecastQuestion, kept = nothingKept()): ForecastPart[] => [...answer(q, 'wins', tape, market, never, kept)]
const part = <K extends ForecastPart['part']>(all: ForecastPart[], name: K) =>
  all.find((one) => one.part === name) as Extract<ForecastPart, { part: K }>

describe('the forecast', () => {
  it('never falls with a higher bid, a looser restriction or a looser cap, before budgets, at any moment', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const below = numbers(seed)
        const { targeting, price } = randomLine(1, below)
        const caps = [{ times: 1 + below(3), hours: [6, 24, 72][below(3)] }]
        const base = workOut(question({ targeting, price, caps }), tape, market, never)
        const more = [
          question({ targeting, caps, price: { ...price, bidMicros: price.bidMicros + 200_000 } }),
          question({ price, caps, targeting: { restrictions: targeting.restrictions.slice(0, -1) } }),
          question({ targeting, price, caps: [{ ...caps[0], times: caps[0].times + 1 }] })
        ].map((q) => workOut(q, tape, market, never))
        const byHour = (work: typeof base) => {
          const sums = new Float64Array(work.flightReplay.slots)
          work.flightReplay.slotWins.forEach((wins, slot) => (sums[slot % sums.length] += wins))
          return sums
        }
        for (const { flightReplay } of more) {
          expect(flightReplay.wins).toBeGreaterThanOrEqual(base.flightReplay.wins)
          expect(flightReplay.reach).toBeGreaterThanOrEqual(base.flightReplay.reach)
        }
        // A person's k-th win never comes later: wins up to any hour are at least as many.
        const first = byHour(base)
        for (const work of more) {
          let [had, has] = [0, 0]
          byHour(work).forEach((wins, hour) => {
            had += first[hour]
            has += wins
            expect(has).toBeGreaterThanOrEqual(had)
          })
        }
        expect(more[2].flightReplay.reach).toBe(base.flightReplay.reach)
      }),
      { numRuns: 12 }
    )
  })

  it('a cap or gap never raises wins and leaves reach unchanged', () => {
    const below = numbers(4)
    for (let n = 0; n < 25; n++) {
      const q = {
        ...randomQuestion(below, 1200),
        price: { model: 'CPM' as const, bidMicros: (200 + below(3000)) * 1000, maxMicros: null },
        limits: NO_LIMITS,
        endHour: START + 240
      }
      const free = figures({ ...q, caps: [], campaignCaps: [], gapMinutes: 0 })
      const capped = figures({ ...q, caps: [{ times: 1 + below(3), hours: 24 }], campaignCaps: [], gapMinutes: below(2) * 300 })
      expect(capped.flight.wins.value).toBeLessThanOrEqual(free.flight.wins.value)
      expect(capped.flight.reach.value).toBe(free.flight.reach.value)
    }
  })

  it('a higher bid may spend less: it wins an earlier row, and the cap then lets a cheaper one through later', () => {
    const q = question({ caps: [{ times: 1, hours: 24 }] })
    // Hours 1, 5, 26 and 30 of one person, sold by second price; only a bid of 1,001 wins the first.
    const four = {
      ...matchTape(q, tape, market, never),
      people: Uint32Array.of(0),
      starts: Uint32Array.of(0, 4),
      rows: Uint32Array.of(0, 1, 2, 3),
      need: Uint32Array.of(1001, 991, 11, 991),
      pay: Uint32Array.of(1000, 990, 10, 990),
      minute: Uint16Array.of(60, 300, 1560, 1800),
      visits: new Uint32Array(4),
      group: new Uint8Array(4)
    }
    const spendAt = (base: number) =>
      replay({ tape, market, question: q, matched: four, base }, weekTimeline(tape, 0, 0), { full: false }, never).byGroup.spend[0]
    expect([spendAt(1000), spendAt(1001)]).toEqual([990 + 990, 1000 + 10])
  })

  it('with a budget a tighter cap may raise reach, and that is its purpose', () => {
    const limits = { ...NO_LIMITS, dailyMicros: 400_000 }
    const loose = figures(question({ limits }))
    const tight = figures(question({ limits, caps: [{ times: 1, hours: 168 }] }))
    expect([loose.binding, tight.binding].map(isLimit)).toEqual([true, true])
    expect(tight.flight.reach.value).toBeGreaterThan(loose.flight.reach.value * 1.1)
  })

  it('gives equal answers in the order of time and person by person, without budgets', () => {
    const below = numbers(21)
    for (let n = 0; n < 12; n++) {
      const q = { ...randomQuestion(below, 1200), limits: NO_LIMITS }
      const work = workOut(q, tape, market, never)
      const endless = { plans: Array.from({ length: work.replayedDays }, () => ({ micros: Infinity, impressions: Infinity })) }
      const [shape] = shapesOf(
        [{ play: work.play, money: endless as never, calendar: { firstMinute: work.firstMinute } as never }],
        work.flight,
        never
      )
      expect([shape.wins, shape.reach, shape.frequency]).toEqual([
        work.flightReplay.wins,
        work.flightReplay.reach,
        work.flightReplay.frequency
      ])
      expect(shape.spend).toBeCloseTo(
        work.flightReplay.byGroup.spend.reduce((a, b) => a + b, 0),
        3
      )
    }
  })

  it('answers the compiled loops, their plain twin and the general replay alike, on the way through the match or after it', () => {
    fc.assert(
      fc.property(fc.integer(), fc.constantFrom('UTC', 'Asia/Kolkata', 'America/New_York'), (seed, zone) => {
        const below = numbers(seed)
        const { targeting, shapes, startHour } = randomQuestion(below, world.inventory.placements.length)
        // From what buys next to nothing to more than the loop in whole numbers takes.
        const bidMicros = Math.round(10 ** (4.5 + below(45) / 10)) * 1000
        const q = question({
          targeting: below(3) ? targeting : { restrictions: [] },
          shapes,
          startHour,
          endHour: startHour + 24 * (1 + below(20)),
          zone,
          price: { model: 'CPM', bidMicros, maxMicros: null },
          dataMicros: below(2) * 250,
          caps: below(2) ? [{ times: 1 + below(3), hours: 24 }] : [],
          gapMinutes: below(3) ? 0 : 40
        })
        const { play, flight, weeks } = workOut(q, tape, market, never)
        const matched = matchTape(q, tape, market, never)
        for (const full of [true, false]) {
          for (const timeline of [flight, ...weeks]) {
            const { won, ...general } = generalReplay(play, timeline, { full, keep: true }, never)
            expect(won.rows).toHaveLength(general.wins)
            const onTheWay = matchTape(q, tape, market, never, { timelines: weeks, full, base: play.base })
            for (const fast of [
              replay({ ...play, matched: onTheWay }, timeline, { full }, never),
              replay({ ...play, matched }, timeline, { full }, never)
            ]) {
              for (const key of ['wins', 'reach', 'frequency', 'slotWins', 'slotSpend'] as const)
                expect([key, fast[key]]).toEqual([key, general[key]])
              // Squares of large charges pass what a number holds to the unit.
              expect(Math.abs(fast.squares - general.squares)).toBeLessThanOrEqual(1e-12 * general.squares)
              for (const measure of MEASURES)
                if (full || measure in { wins: 1, spend: 1, reach: 1, clearing: 1 })
                  fast.byGroup[measure].forEach((value, g) => expect(value).toBeCloseTo(general.byGroup[measure][g], 6))
            }
          }
        }
      }),
      { numRuns: 10 }
    )
  })

  it('a longer flight reaches more; beyond 28 days reach stays and the answer says how far it looked', () => {
    const flightOf = (days: number) => figures(question({ endHour: START + days * 24 })).flight
    expect(flightOf(14).reach.value).toBeGreaterThan(flightOf(3).reach.value)
    expect(flightOf(40).reach.value).toBe(flightOf(28).reach.value)
    expect(flightOf(40).replayedDays).toBe(28)
    expect(flightOf(40).wins.value / flightOf(28).wins.value).toBeCloseTo(40 / 28, 1)
    expect(figures(question({ endHour: null })).flight.open).toBe(true)
  })

  it("shares the campaign's day with its other lines in proportion to what each could spend", () => {
    const campaignLimits = { ...NO_LIMITS, dailyMicros: 300_000 }
    const alone = figures(question({ campaignLimits }))
    const shared = figures(question({ campaignLimits, sharers: [{ demandMicros: alone.demandMicros, dailyMicros: null }] }))
    expect(shared.day.spend.value / alone.day.spend.value).toBeCloseTo(0.5, 2)
  })

  it('lines that compete for the same people: the dearer one is served first, neither is bought twice', () => {
    const works = [1_500_000, 1_200_000].map((bidMicros) =>
      workOut(question({ price: { model: 'CPM', bidMicros, maxMicros: null } }), tape, market, never)
    )
    const money = (limit: number) => ({ plans: Array.from({ length: 7 }, () => ({ micros: limit, impressions: Infinity })) }) as never
    const calendar = { firstMinute: 0 } as MoneyCalendar
    const [dear, cheap] = shapesOf(
      works.map((work) => ({ play: work.play, money: money(Infinity), calendar })),
      works[0].flight,
      never
    )
    expect(dear.wins).toBe(works[0].flightReplay.wins)
    expect(cheap.wins).toBe(0)
    const [bounded, second] = shapesOf(
      works.map((work, n) => ({ play: work.play, money: money(n === 0 ? 60_000 * tape.sample : Infinity), calendar })),
      works[0].flight,
      never
    )
    expect(bounded.wins + second.wins).toBeLessThanOrEqual(works[0].flightReplay.wins)
    expect(second.wins).toBeGreaterThan(0)
  })

  it('answers a question among mates with what all win together: the dearer one nearly all, the cheaper what is left', () => {
    const own = question({ price: { model: 'CPM', bidMicros: 1_200_000, maxMicros: null } })
    const lineOf = (bidMicros: number, dailyMicros: number | null = null) => ({
      line: 7,
      question: question({ price: { model: 'CPM', bidMicros, maxMicros: null }, limits: { ...NO_LIMITS, dailyMicros } })
    })
    const asked = (mates: ForecastQuestion['mates']) => part(parts({ ...own, mates }), 'together').together
    expect(parts(own).some((one) => one.part === 'together')).toBe(false)
    const day = figures(own).day.wins.value
    const below = asked([lineOf(1_500_000)])
    expect(below.lines.map(({ line }) => line)).toEqual([null, 7])
    expect(below.lines[0].alone.wins).toBeCloseTo(day, 6)
    expect(below.lines[0].together.wins).toBe(0)
    const above = asked([lineOf(1_100_000)])
    expect(above.lines[0].together).toEqual(above.lines[0].alone)
    const bounded = asked([lineOf(1_500_000, 100_000)])
    expect(bounded.lines[1].together.spendMicros).toBeLessThan(100_000 + tape.sample * 1500)
    expect(bounded.lines[0].together.wins).toBeGreaterThan(0)
    const [first, second] = bounded.lines
    expect(first.together.wins + second.together.wins).toBeLessThan(first.alone.wins + second.alone.wins)
  })

  it('a flight under way counts from the clock on, and what people saw already counts against their caps', () => {
    const whole = figures(question()).flight
    const late = figures(question({ nowHour: START + 12 })).flight
    expect(late.wins.value).toBeLessThan(whole.wins.value)
    expect(late.wins.value).toBeGreaterThan(whole.wins.value * 0.85)
    const caps = [{ times: 1, hours: 720 }]
    const everybody = { person: [...tape.numbers], minute: [...tape.numbers].map(() => START * 60 - 5) }
    expect(figures(question({ caps, exposures: everybody })).flight.wins.value).toBe(0)
    const half = {
      person: [...tape.numbers].filter((_, n) => n % 2 === 0),
      minute: [...tape.numbers].filter((_, n) => n % 2 === 0).map(() => START * 60 - 5)
    }
    const rest = figures(question({ caps, exposures: half })).flight.wins.value / figures(question({ caps })).flight.wins.value
    expect(rest).toBeGreaterThan(0.4)
    expect(rest).toBeLessThan(0.6)
  })

  it('what is spent already is taken off totals and off the first day', () => {
    const limits = { ...NO_LIMITS, dailyMicros: 500_000, totalMicros: 2_000_000 }
    const fresh = figures(question({ limits })).flight.spend.value
    const spent = { ...NOTHING_SPENT, total: { micros: 1_500_000, impressions: 0 } }
    expect(fresh).toBeCloseTo(2_000_000, -4)
    expect(figures(question({ limits, spent })).flight.spend.value).toBeCloseTo(500_000, -4)
  })

  it('follows steps of the bid by date and by impressions', () => {
    const steps = (after: 'date' | 'impressions', from: number) =>
      question({ price: { model: 'CPM', bidMicros: 800_000, maxMicros: null, steps: [{ after, from, bidMicros: 2_400_000 }] } })
    const low = figures(question({ price: { model: 'CPM', bidMicros: 800_000, maxMicros: null } })).flight.wins.value
    const high = figures(question({ price: { model: 'CPM', bidMicros: 2_400_000, maxMicros: null } })).flight.wins.value
    for (const q of [steps('date', 60 + 3), steps('impressions', Math.round(low / 2))]) {
      const { value } = figures(q).flight.wins
      expect(value).toBeGreaterThan(low * 1.05)
      expect(value).toBeLessThan(high)
    }
  })

  it('stops when its cancel word is set, in every part', () => {
    expect(() => workOut(question(), tape, market, () => true)).toThrow(CancelledError)
    let looks = 0
    const later = () => ++looks > 40
    expect(() => [...answer(question(), 'wins', tape, market, later)]).toThrow(CancelledError)
  })

  it('matches nothing without an error, says which restriction empties it, and ranges over what was not seen', () => {
    const all = parts(question({ targeting: targetingOf(['PT'], ['phone'], ['300x600']) }))
    const { figures: none } = part(all, 'figures')
    expect(none).toMatchObject({
      tapeWins: 0,
      tooFew: true,
      day: { matched: { value: 0 }, wins: { value: 0, low: 0 }, cpm: { value: 0 }, frequency: { value: 0 } }
    })
    expect(none.day.wins.high * 7).toBeCloseTo(1.15 * tape.sample * 1.5, 6)
    expect(part(all, 'sieve').sieve.emptiedBy).toBe(2)
    expect(part(all, 'advice').advice.length).toBeLessThan(4)
  })

  it('a bid of nothing wins nothing, and all hours off match nothing', () => {
    expect(figures(question({ price: { model: 'CPM', bidMicros: 0, maxMicros: null } })).day.wins.value).toBe(0)
    expect(figures(question({ hours: { clock: 'line', perMille: new Array<number>(168).fill(0) } })).day.matched.value).toBe(0)
  })

  it('of every format and price: what is paid per event is never more than the bid', () => {
    for (const [format, model, bidMicros] of [
      ['native', 'CPC', 300_000],
      ['video', 'view', 9_000],
      ['audio', 'view', 6_000],
      ['pop', 'visit', 900]
    ] as const) {
      const shapes = shapesOfFormat(format).map((shape) => SHAPES.indexOf(shape))
      const { day } = figures(question({ shapes, price: { model, bidMicros, maxMicros: null } }))
      expect(day.wins.value).toBeGreaterThan(0)
      const events = model === 'CPC' ? day.visits.value : model === 'view' ? day.views.value : day.wins.value
      expect(day.spend.value).toBeLessThanOrEqual(events * bidMicros * 1.0000001)
    }
  })
})

describe('kept between questions', () => {
  it('a change of bid, maximum, caps, money or discount answers as if asked anew', () => {
    const below = numbers(12)
    const kept = nothingKept()
    for (let n = 0; n < 2; n++) {
      const q = { ...randomQuestion(below, 1200), endHour: START + 200 }
      parts(q, kept)
      const next = {
        ...q,
        price: {
          ...q.price,
          bidMicros: q.price.bidMicros + 37_000,
          maxMicros: below(2) ? null : q.price.bidMicros + 99_000,
          repeatDiscount: below(300)
        },
        caps: [{ times: 2, hours: 30 }],
        limits: { ...NO_LIMITS, dailyMicros: 90_000 }
      }
      expect(parts(next, kept)).toEqual(parts(next))
    }
  })
})

describe('ladder, sieve, breakdowns and advice', () => {
  const q = question({
    targeting: targetingOf(['ES', 'PT', 'FR', 'DE', 'GB'], ['phone'], []),
    caps: [{ times: 2, hours: 24 }],
    hours: randomHours(numbers(2)),
    limits: { ...NO_LIMITS, dailyMicros: 900_000 }
  })
  const all = parts(q)
  const { figures: main } = part(all, 'figures')

  it('the ladder rises, agrees with the main figures at the bid, and its budget curve is never over the other', () => {
    const { ladder } = part(all, 'ladder')
    const current = ladder.rungs[ladder.current]
    const free = figures({ ...q, limits: NO_LIMITS })
    expect(ladder.rungs.length).toBeGreaterThanOrEqual(16)
    expect(current.wins).toBeCloseTo(free.day.wins.value, 6)
    expect(current.budgetWins).toBeCloseTo(main.day.wins.value, 6)
    ladder.rungs.forEach((rung, n) => {
      expect(rung.budgetWins).toBeLessThanOrEqual(rung.wins + 1e-6)
      if (n > 0) expect(rung.wins).toBeGreaterThanOrEqual(ladder.rungs[n - 1].wins)
      if (n > 0) expect(rung.reach).toBeGreaterThanOrEqual(ladder.rungs[n - 1].reach)
    })
  })

  it('its marks are the bids that win a tenth, half and nine tenths of what matches', () => {
    const { marks } = part(parts({ ...q, hours: null, caps: [] }), 'ladder').ladder
    for (const [mark, share] of [
      ['enters', 0.1],
      ['half', 0.5],
      ['nineInTen', 0.9]
    ] as const) {
      const figuresAt = (bidMicros: number) =>
        figures({ ...q, hours: null, caps: [], limits: NO_LIMITS, price: { ...q.price, bidMicros } }).day.winRate.value
      const bidMicros = marks[mark] as number
      expect(figuresAt(bidMicros)).toBeGreaterThanOrEqual(share)
      expect(figuresAt(bidMicros - 1000)).toBeLessThan(share)
    }
    expect(quantiles(Uint32Array.from([5, 1, 3, 0xffffffff, 200_000]), [0, 0.5, 1])).toEqual([1, 3, 200_000])
    expect(quantiles(new Uint32Array(0), [0.5])).toEqual([null])
  })

  it('a ladder of every n-th person is scaled to agree at the current bid', () => {
    const tenth = makeWorld({ ...SMALL, people: 30_000 })
    const wide = buildTape(tenth, 59)
    const on = marketOf(tenth)
    const every = question({
      targeting: { restrictions: [] },
      shapes: SHAPES.map((_, n) => n),
      price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: null }
    })
    const answers = [...answer(every, 'wins', wide, on, never)]
    const { ladder } = part(answers, 'ladder')
    expect(ladder.every).toBeGreaterThan(1)
    expect(ladder.rungs[ladder.current].wins / part(answers, 'figures').figures.day.wins.value).toBeCloseTo(1, 9)
  })

  it('the sieve ends with what matches, and lifting a restriction gives what it says', () => {
    const { sieve } = part(all, 'sieve')
    expect(sieve.steps.at(-1)?.restriction).toBe('hours')
    expect(sieve.steps.at(-1)?.left).toBeCloseTo(main.day.matched.value, 6)
    sieve.steps.forEach((step, place) => {
      const without = step.restriction === 'hours' ? changed(q, { kind: 'hours' }) : changed(q, { kind: 'restriction', place })
      expect(figures(without).day.matched.value).toBeCloseTo(main.day.matched.value + step.lifted, 6)
    })
  })

  it('breakdowns add up to the day, after budgets', () => {
    const { breakdowns } = part(all, 'breakdowns')
    for (const name of ['hour of week', 'country', 'device', 'source', 'deal'] as const) {
      const rows = breakdowns.by[name]
      expect(rows.reduce((sum, row) => sum + row.wins, 0)).toBeCloseTo(main.day.wins.value, 4)
      expect(rows.reduce((sum, row) => sum + row.spendMicros, 0)).toBeCloseTo(main.day.spend.value, 1)
      expect(rows.reduce((sum, row) => sum + row.matched, 0)).toBeCloseTo(main.day.matched.value, 4)
    }
    expect(breakdowns.days).toHaveLength(7)
    expect(breakdowns.days.reduce((sum, day) => sum + day.spendMicros, 0)).toBeCloseTo(main.flight.spend.value, 1)
  })
})

describe('a line that pays by the event', () => {
  it('is less sure of what it wins while its own rates are not known, and as sure of what it matches', () => {
    const rangesOf = (sd: number, model: 'CPC' | 'CPM') => {
      const rates = Object.fromEntries(RATE_KINDS.map((kind) => [kind, { factor: 1, sd }])) as OwnHistory['rates']
      const price = { model, bidMicros: model === 'CPC' ? 500_000 : 1_500_000, maxMicros: null }
      return figures(question({ price, history: { rates, learned: null, paid: null, passed: [] } }), tape, market).day
    }
    const [known, unknown] = [rangesOf(0, 'CPC'), rangesOf(0.2, 'CPC')]
    const width = ({ low, high }: { low: number; high: number }) => high - low
    expect(width(unknown.wins)).toBeGreaterThan(1.05 * width(known.wins))
    expect(width(unknown.spend)).toBeGreaterThan(width(known.spend))
    expect(unknown.matched).toEqual(known.matched)
    expect(rangesOf(0.2, 'CPM').wins).toEqual(rangesOf(0, 'CPM').wins)
  })
})

describe('truth', () => {
  /** A market big enough for lines of a thousand wins; days are made once for all lines. */
  const tenth = makeWorld({ ...SMALL, people: 100_000 })
  const wide = buildTape(tenth, 59)
  const on = marketOf(tenth)

  it('wins of seeded lines over three days run by the exchange: median error at most 15 %', { timeout: 300_000 }, () => {
    // Each buys as if it were alone, all in one run.
    const lines = Array.from({ length: 14 }, (_, n) => ({ ...randomLine(n + 1, numbers(n * 31 + 5)), limits: NO_LIMITS }))
    const exchange = new Exchange(tenth, { publication: 1, lines, campaigns: [campaignRules()], apart: true }, opening(), sharedDay)
    const truth = new Map<number, number>()
    for (const { hourTotals } of runHours(exchange, 72))
      for (const { line, wins } of hourTotals) truth.set(line, (truth.get(line) ?? 0) + wins)
    // Whether a line counts is decided by the truth alone, so that the choice cannot flatter the forecast.
    const counted = lines.filter(({ line }) => (truth.get(line) ?? 0) >= 100).slice(0, 8)
    expect(counted).toHaveLength(8)
    const errors = counted.map(({ line, targeting, price, caps, zone, ads }) => {
      const asked = question({ targeting, price, caps, zone, shapes: ads.map((ad) => ad.shape), endHour: START + 72 })
      return Math.abs(figures(asked, wide, on).flight.wins.value / (truth.get(line) as number) - 1)
    })
    errors.sort((a, b) => a - b)
    expect((errors[3] + errors[4]) / 2).toBeLessThan(0.15)
  })

  it('with a budget and hours: wins and reach of the allocation step agree with a run', () => {
    const hours = { clock: 'line' as const, perMille: Array.from({ length: 168 }, (_, hour) => (hour % 24 < 7 ? 0 : 1000)) }
    const line = lineRules(1, { targeting: targetingOf(['ES', 'DE', 'FR']), dailyMicros: 700_000, caps: [{ times: 2, hours: 24 }], hours })
    const { flight, binding } = figures(
      question({
        targeting: line.targeting,
        price: line.price,
        caps: line.caps,
        zone: line.zone,
        hours,
        shapes: DISPLAY.slice(0, 8),
        limits: { ...NO_LIMITS, dailyMicros: 700_000 }
      }),
      wide,
      on
    )
    const run = runHours(new Exchange(tenth, { publication: 1, lines: [line], campaigns: [campaignRules()] }, opening(), sharedDay), 168)
    const wins = winsOf(run)
    expect(binding).toEqual({ kind: 'limit', whose: 'line', period: 'day', what: 'money' })
    expect(wins.every((win) => win.hour % 24 >= 7)).toBe(true)
    expect(Math.abs(flight.wins.value / wins.length - 1)).toBeLessThan(0.05)
    expect(Math.abs(flight.reach.value / new Set(wins.map((win) => win.person)).size - 1)).toBeLessThan(0.1)
  })
})
