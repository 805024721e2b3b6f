import { describe, expect, it } from 'vitest'
import { TENTH, makeWorld } from '../src/market/index.js'
import { ladder, mainFigures, sieve, workOut, binPrice, priceBin } from '../src/forecast/index.js'
import { buildTape } from '../src/tape/index.js'
import { numbers } from './support/lines.js'
import { plainForecast, plainRows } from './support/plain-forecast.js'
import { RATES_KNOWN, marketOf, randomQuestion } from './support/questions.js'

const never = () => false

/** The fast forecast against its slow twin, on random questions of all formats, prices, rules and caps. */
function compare(people: number, questions: number, seed: number): number {
  const world = makeWorld({ ...TENTH, people })
  const tape = buildTape(world, 59)
  const market = marketOf(world)
  // A large tape's rows are made anew for each question: as objects they would not all fit into memory.
  const kept = tape.rowCount < 100_000 ? [...plainRows(tape, market)] : null
  const { sample } = tape
  let withWins = 0
  for (let n = 0; n < questions; n++) {
    const q = { ...randomQuestion(numbers(seed + n * 7919), world.inventory.placements.length), history: RATES_KNOWN }
    const plain = plainForecast(q, kept ?? plainRows(tape, market), tape)
    const work = workOut(q, tape, market, never)
    const { day, flight, ranks, tapeWins } = mainFigures(work, never)
    const said = JSON.stringify(q)
    const equal = (is: number, wanted: number) =>
      expect(Math.abs(is - wanted), said).toBeLessThanOrEqual(1e-7 * Math.max(1, Math.abs(wanted)))
    const weekly = (pick: (week: (typeof plain.weeks)[0]) => number) => ((pick(plain.weeks[0]) + pick(plain.weeks[1])) / 2) * sample
    equal(day.matched.value, (plain.matched * sample) / 14)
    equal(day.eligible.value, (plain.ranks.eligible * sample) / 14)
    equal(day.winRate.value, plain.matched ? plain.ranks.first / plain.matched : 0)
    equal(ranks.second.value, plain.matched ? plain.ranks.second / plain.matched : 0)
    equal(day.wins.value, weekly((week) => week.wins) / 7)
    equal(day.spend.value, weekly((week) => week.spend) / 7)
    equal(
      day.reach.value,
      weekly((week) => week.reach)
    )
    equal(tapeWins, plain.weeks[0].wins + plain.weeks[1].wins)
    expect(day.people.map(Math.round), said).toEqual(
      plain.weeks[0].frequency.map((count, times) => Math.round(((count + plain.weeks[1].frequency[times]) / 2) * sample))
    )
    if (flight.days <= 28 && !flight.open) {
      equal(flight.wins.value, plain.flight.wins * sample)
      equal(flight.spend.value, plain.flight.spend * sample)
      equal(flight.reach.value, plain.flight.reach * sample)
      equal(flight.cpm.value, plain.flight.wins ? (plain.flight.clearing / plain.flight.wins) * 1000 : 0)
    }
    const sieved = sieve(q, tape, market, never)
    equal(sieved.all, (plain.fitting * sample) / 14)
    q.targeting.restrictions.forEach((_, place) => {
      equal(sieved.steps[place].left, (plain.left[place] * sample) / 14)
      equal(sieved.steps[place].lifted, (plain.lifted[place] * sample) / 14)
    })
    if (plain.flight.wins > 0) withWins++
    if (n % 25 === 0) {
      const rungs = ladder(work, never)
      const rung = rungs.rungs[Math.min(5, rungs.rungs.length - 1)]
      const simple = plainForecast(
        {
          ...q,
          price: {
            ...q.price,
            bidMicros: rung.bidMicros,
            maxMicros: q.price.maxMicros !== null && rung.bidMicros > q.price.maxMicros ? null : q.price.maxMicros
          }
        },
        kept ?? plainRows(tape, market),
        tape
      )
      // Above 100,000 eligible rows a ladder is computed on every n-th person, and scaled to agree at the current bid alone.
      const near =
        plain.ranks.eligible > 100_000 ? (is: number, wanted: number) => expect(Math.abs(is / wanted - 1), said).toBeLessThan(0.05) : equal
      near(rung.wins, ((simple.weeks[0].wins + simple.weeks[1].wins) * sample) / 14)
      near(rung.spendMicros, ((simple.weeks[0].spend + simple.weeks[1].spend) * sample) / 14)
    }
  }
  return withWins
}

describe('the forecast and its plain twin', () => {
  it('give equal answers on 36 random questions over 20,000 rows', { timeout: 300_000 }, () => {
    expect(compare(2000, 36, 11)).toBeGreaterThan(10)
  })

  it.runIf(process.env.TIN_HARBOR_TWIN !== undefined)(
    'give equal answers on 20 random questions at the scale of the demo',
    { timeout: 3_600_000 },
    () => {
      expect(compare(200_000, 20, 77)).toBeGreaterThan(3)
    }
  )

  it.runIf(process.env.TIN_HARBOR_TWIN !== undefined)('give equal answers on four thousand small ones', { timeout: 3_600_000 }, () => {
    expect(compare(2000, 4000, 500_000)).toBeGreaterThan(1200)
  })

  it('price bins are exact where prices are small, in order, and near where they are large', () => {
    let last = -1
    for (let price = 0; price < 300_000; price = Math.max(price + 1, Math.floor(price * 1.003))) {
      const bin = priceBin(price)
      expect(bin).toBeGreaterThanOrEqual(last)
      last = bin
      expect(Math.abs(binPrice(bin) - price)).toBeLessThanOrEqual(price < 256 ? 0 : price / 64)
    }
  })
})
