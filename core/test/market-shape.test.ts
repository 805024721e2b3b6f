import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { COUNTRIES, POSTAL_COUNTRY, REGIONS } from '../src/places/index.js'
import { marksOf, parseMoney, plainMoney } from '../src/money/index.js'
import { PERSON_WORDS, SOURCES, isBot, makeDay, postalOf, rateOf, valueOf, type Opportunities } from '../src/market/index.js'
import { hash } from '../src/random/index.js'
import { DID, Responses, type Shown } from '../src/response/index.js'
import { ZONES, dayOfDate } from '../src/time/index.js'
import { reading, sharedDay, smallWorld } from './support/lines.js'

const world = smallWorld()
const { rows } = sharedDay(world, 60)
const { placements, properties } = world.inventory
const read = reading(world, rows)
const countryOf = (i: number) => COUNTRIES[REGIONS[read.region(i)].country]

/** Mean of a figure over the rows that are wanted. */
function mean(wanted: (i: number) => boolean, figure: (i: number) => number, among: Opportunities = rows): number {
  let sum = 0
  let n = 0
  for (let i = 0; i < among.count; i++) {
    if (!wanted(i)) continue
    sum += figure(i)
    n++
  }
  return n > 0 ? sum / n : NaN
}

describe('people', () => {
  it('live where the weights say', () => {
    const counts = new Array<number>(COUNTRIES.length).fill(0)
    for (let person = 0; person < world.people; person++) counts[POSTAL_COUNTRY[postalOf(world.persons.words[person * PERSON_WORDS])]]++
    const total = COUNTRIES.reduce((sum, country) => sum + country.weight, 0)
    COUNTRIES.forEach((country) => {
      const expected = (country.weight / total) * world.people
      expect(Math.abs(counts[country.index] - expected)).toBeLessThan(5 * Math.sqrt(expected))
    })
  })

  it('are of 128 kinds of activity and 64 of value, both rising', () => {
    for (let kind = 1; kind < 128; kind++) expect(rateOf(kind)).toBeGreaterThanOrEqual(rateOf(kind - 1))
    for (let kind = 1; kind < 64; kind++) expect(valueOf(kind)).toBeGreaterThan(valueOf(kind - 1))
    expect(valueOf(31) * valueOf(32)).toBeCloseTo(1, 2)
  })

  it('come back to the same places', () => {
    const byPerson = new Map<number, number[]>()
    for (let i = 0; i < rows.count; i++) byPerson.set(rows.person[i], [...(byPerson.get(rows.person[i]) ?? []), read.placement(i)])
    let [repeats, pairs] = [0, 0]
    for (const seen of byPerson.values()) {
      for (let n = 1; n < seen.length; n++) {
        pairs++
        if (seen.slice(0, n).includes(seen[n])) repeats++
      }
    }
    expect(repeats / pairs).toBeGreaterThan(0.12)
  })
})

describe('a day of the market', () => {
  it('is busiest in the evening of the people themselves', () => {
    const peak = (zone: string) => {
      const index = ZONES.findIndex((one) => one.name === zone)
      const hours = new Array<number>(24).fill(0)
      for (let i = 0; i < rows.count; i++) if (REGIONS[read.region(i)].zone === index) hours[Math.floor(rows.minute[i] / 60)]++
      return hours.reduce((best, n, hour) => (n > hours[best] ? hour : best), 0)
    }
    // 19 to 22 o'clock local time: 10 to 13 UTC in Tokyo, 0 to 3 UTC in New York.
    expect(peak('Asia/Tokyo')).toBeGreaterThanOrEqual(9)
    expect(peak('Asia/Tokyo')).toBeLessThanOrEqual(13)
    expect([23, 0, 1, 2, 3]).toContain(peak('America/New_York'))
  })

  it('is larger on Sundays and smaller on holidays', () => {
    const size = (date: string) => makeDay(world, dayOfDate(date)).rows.count
    expect(size('2026-03-01')).toBeGreaterThan(size('2026-02-24') * 1.02)
    expect(size('2026-12-25')).toBeLessThan(size('2026-12-18') * 0.96)
  })

  it('costs more where people have more money, and where more rivals bid', () => {
    const price = (code: string) =>
      mean(
        (i) => countryOf(i).code === code,
        (i) => Math.max(read.floor(i), rows.rival[i])
      )
    expect(price('CH')).toBeGreaterThan(price('PT') * 1.3)
    expect(price('PT')).toBeGreaterThan(price('IN') * 1.3)
    const among = (share: (rank: number) => boolean) => {
      const display = placements.filter(({ shape }) => shape < 8).sort((a, b) => a.price - b.price)
      const own = new Set(display.filter((_, n) => share(n / display.length)).map(({ index }) => index))
      return mean(
        (i) => own.has(read.placement(i)),
        (i) => (rows.second[i] > 0 ? 1 : 0)
      )
    }
    expect(rows.rival.every((rival) => rival > 0)).toBe(true)
    expect(among((rank) => rank < 0.25)).toBeLessThan(0.9)
    expect(among((rank) => rank > 0.75)).toBeGreaterThan(0.97)
  })

  it('is shown to those it is made for: a property is read most at home', () => {
    const atHome = mean(
      () => true,
      (i) => (properties[placements[read.placement(i)].property].home === countryOf(i).index ? 1 : 0)
    )
    expect(atHome).toBeGreaterThan(0.25)
  })

  it('has more robots in some sources than in others, as their figures say', () => {
    const bots = (name: string) =>
      mean(
        (i) => SOURCES[read.source(i)].name === name,
        (i) => (isBot(rows.state[i]) ? 1 : 0)
      )
    expect(bots('Sluice')).toBeGreaterThan(bots('Pennant'))
    expect(bots('Pennant')).toBeGreaterThan(bots('Graven'))
    for (const source of SOURCES)
      expect(rows.path.some((_, i) => read.source(i) === source.index && read.floor(i) >= source.leastBid)).toBe(true)
  })
})

describe('response', () => {
  const keys = Array.from({ length: 60_000 }, (_, n) => hash(5, n) | 0)
  const share = (isIn: (key: number) => boolean) => keys.filter(isIn).length / keys.length
  const busy = { ...placements[0], clicks: Math.round(0.02 * 65536), viewable: Math.round(0.6 * 65536), completes: 0, blocked: 0 }
  const responses = new Responses(world.seed)
  const plain = Array.from({ length: 2000 }, (_, ad) => ad).reduce((best, ad) =>
    Math.abs(responses.factors(ad).appeal - 1) < Math.abs(responses.factors(best).appeal - 1) ? ad : best
  )
  const shown = (key: number, over: Partial<Shown> = {}): Shown => ({
    key,
    line: 1,
    ad: plain,
    placement: busy,
    branch: 0,
    television: false,
    person: 0,
    profile: 0,
    postal: 0,
    device: 0,
    country: 0,
    bot: false,
    blocked: false,
    seen: 0,
    viewPoint: 1000,
    hour: 12,
    ...over
  })
  const did = (key: number, bit: number, over: Partial<Shown> = {}) => (responses.immediate(shown(key, over)) & bit) !== 0

  it('is drawn by the hidden rates of the placement', () => {
    expect(share((key) => did(key, DID.viewable))).toBeCloseTo(0.6, 1)
    expect(share((key) => did(key, DID.clicked))).toBeCloseTo(0.012, 2)
  })

  it('tires with each exposure, differs by device, and robots click without end', () => {
    const rate = (device: number, bot: boolean, seen: number) => share((key) => did(key, DID.clicked, { device, bot, seen, country: 3 }))
    expect(rate(0, false, 0)).toBeGreaterThan(rate(0, false, 3))
    expect(rate(0, false, 3)).toBeGreaterThan(rate(0, false, 50))
    expect(rate(0, false, 0)).toBeGreaterThan(rate(2, false, 0))
    expect(rate(0, true, 0)).toBeGreaterThan(rate(0, false, 0) * 4)
  })

  it('two lines draw apart for one impression, and ads differ in appeal around one', () => {
    expect(keys.filter((key) => did(key, DID.viewable) === did(key, DID.viewable, { line: 2 })).length / keys.length).toBeLessThan(0.6)
    const appeals = Array.from({ length: 999 }, (_, ad) => responses.factors(ad).appeal).sort((a, b) => a - b)
    expect(appeals[499]).toBeCloseTo(1, 1)
    expect(appeals[949]).toBeGreaterThan(1.3)
  })
})

describe('amounts', () => {
  it('are read back as they were written, in any locale’s marks', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 9_999_999_999 }), fc.constantFrom('en-GB', 'de-DE', 'fr-FR', 'pt-PT'), (micros, locale) => {
        const text = plainMoney(micros)
        // One point and three decimals can be read as thousands where the point groups; only there may it differ.
        const marks = marksOf(locale)
        if (marks.group === '.' && /\.\d{3}$/.test(text)) return
        expect(parseMoney(text, marks)).toBe(micros)
      })
    )
  })
})
