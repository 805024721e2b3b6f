import { describe, expect, it } from 'vitest'
import {
  AGES,
  CATEGORIES,
  DEVICE_TYPES,
  FORMATS,
  GENDERS,
  GRADES,
  INCOMES,
  JOB_FUNCTIONS,
  MOMENTS,
  MUSIC_GENRES,
  PROPERTY_CLASSES,
  SHAPES
} from '../src/taxonomy/index.js'
import { CITIES, POSTALS, POSTAL_COUNTRY, REGIONS, cityCode, postalPlaceCode } from '../src/places/index.js'
import {
  CARRIERS,
  DEVICE_TYPE,
  NO_POP,
  PERSON_WORDS,
  PROVIDERS,
  SOURCES,
  STATES,
  carrierOf,
  fillPeople,
  isBlocked,
  makeWorld,
  opportunityColumns,
  peopleBytes,
  peopleOver,
  placementFormats,
  postalOf,
  propertyOfPage,
  providerOf,
  publishMeasures,
  worldHash
} from '../src/market/index.js'
import { TapeFileError, addDay, buildTape, openTape, openTapeFile, tapeHash, tapePeople, tapePlaces, worldCard } from '../src/tape/index.js'
import { hashColumns } from '../src/random/index.js'
import { SMALL, sharedDay, smallWorld } from './support/lines.js'

describe('the stand-in market', () => {
  const world = smallWorld()
  const { rows, hourStart } = sharedDay(world, 60)
  const tape = buildTape(world, 59)

  it('is equal to the bit for one seed, and another for another', () => {
    expect(worldHash(makeWorld(SMALL))).toBe(worldHash(world))
    expect(worldHash(makeWorld({ ...SMALL, seed: 1 }))).not.toBe(worldHash(world))
  })

  it('keeps its golden hashes', () => {
    expect({ world: worldHash(world), tape: tapeHash(tape), day: hashColumns(opportunityColumns(rows)) }).toMatchInlineSnapshot(`
      {
        "day": "cf7911f3",
        "tape": "b201008a",
        "world": "ecc509c9",
      }
    `)
  })

  it('makes a day in market order: by minute, then person', () => {
    let unordered = 0
    for (let i = 1; i < rows.count; i++) {
      const step = rows.minute[i] - rows.minute[i - 1]
      if (step < 0 || (step === 0 && rows.person[i] < rows.person[i - 1])) unordered++
    }
    expect(unordered).toBe(0)
    for (let hour = 0; hour < 24; hour++) {
      expect(Math.floor(rows.minute[hourStart[hour]] / 60)).toBe(hour)
      expect(Math.floor(rows.minute[hourStart[hour + 1] - 1] / 60)).toBe(hour)
    }
    expect(hourStart[24]).toBe(rows.count)
  })

  it('has about two opportunities a person and day, the busiest tenth making 40 to 45 %', () => {
    const counts = Array.from({ length: tape.peopleCount }, (_, p) => tape.starts[p + 1] - tape.starts[p]).sort((a, b) => b - a)
    const top = counts.slice(0, counts.length / 10).reduce((a, b) => a + b, 0) / tape.rowCount
    expect(top).toBeGreaterThan(0.4)
    expect(top).toBeLessThan(0.45)
    expect(tape.rowCount / tape.peopleCount / 14).toBeGreaterThan(1.9)
    expect(tape.rowCount / tape.peopleCount / 14).toBeLessThan(2.4)
  })

  it('shows placements only on the devices of their slot, in the country of the person, and never a rival out of order', () => {
    const { placements, pages } = world.inventory
    let wrong = 0
    for (let i = 0; i < rows.count; i++) {
      const placement = placements[Math.floor(rows.path[i] / SOURCES.length)]
      const [word0, , word2] = world.persons.words.subarray(rows.person[i] * PERSON_WORDS)
      const country = POSTAL_COUNTRY[postalOf(word0)]
      const own = CARRIERS[carrierOf(word2)].country === country && PROVIDERS[providerOf(word2)].country === country
      const shown = ((placement.devices >> DEVICE_TYPE[rows.device[i]]) & 1) === 1
      if (
        !shown ||
        !own ||
        world.inventory.sourceWeights[rows.path[i]] === 0 ||
        rows.second[i] > rows.rival[i] ||
        propertyOfPage(rows.page[i]) !== placement.property ||
        rows.page[i] >= pages.count ||
        rows.state[i] >= STATES
      )
        wrong++
    }
    expect(wrong).toBe(0)
  })

  it("knows how long ago each person's last pop of the day was, without keeping state", () => {
    const formats = placementFormats(world.inventory)
    const last = new Map<number, number>()
    let wrong = 0
    for (let i = 0; i < rows.count; i++) {
      const before = last.get(rows.person[i])
      if (rows.sincePop[i] !== (before === undefined ? NO_POP : rows.minute[i] - before)) wrong++
      if (FORMATS[formats[Math.floor(rows.path[i] / SOURCES.length)]] === 'pop') last.set(rows.person[i], rows.minute[i])
      else if (isBlocked(rows.state[i])) wrong++
    }
    expect(wrong).toBe(0)
    expect(last.size).toBeGreaterThan(1000)
  })

  it('is the same world on one thread or two', () => {
    const halves = peopleOver(new ArrayBuffer(peopleBytes(SMALL.people)), SMALL.people)
    fillPeople(SMALL.seed, halves, 9_001, SMALL.people)
    fillPeople(SMALL.seed, halves, 0, 9_001)
    expect(hashColumns([halves.words])).toBe(hashColumns([world.persons.words]))
  })

  it('is what its card says it is: counts, correlations, prices, activity', () => {
    const card = worldCard(world, tape)
    const least = {
      countries: 24,
      regions: 240,
      'metro areas': 120,
      cities: 1500,
      'postal codes': 10_000,
      publishers: 90,
      properties: 320,
      placements: 1200,
      'supply sources': 6,
      carriers: 70,
      providers: 100,
      segments: 400,
      keywords: 3000,
      'job functions': 25,
      employers: 500,
      moments: 12,
      genres: 25
    }
    for (const [name, count] of Object.entries(least)) expect([name, card.counts[name] >= count]).toEqual([name, true])
    expect(card.correlations.length).toBeGreaterThanOrEqual(10)
    expect(card.correlations.filter((one) => !one.holds)).toEqual([])
    // Every named value of the small vocabularies occurs, none has everything.
    for (const [dimension, values] of Object.entries({
      format: FORMATS,
      device: DEVICE_TYPES,
      age: AGES,
      gender: GENDERS,
      income: INCOMES,
      moment: MOMENTS,
      'music genre': MUSIC_GENRES,
      'job function': JOB_FUNCTIONS,
      class: PROPERTY_CLASSES,
      size: SHAPES
    })) {
      const shares = new Map(card.shares[dimension])
      for (const value of values) expect([dimension, value, (shares.get(value) ?? 0) > 0]).toEqual([dimension, value, true])
      expect(Math.max(...(values as readonly string[]).map((value) => shares.get(value) ?? 0))).toBeLessThan(0.75)
    }
    for (const { byTier } of card.prices) expect(byTier[0] > byTier[1] && byTier[1] > byTier[2]).toBe(true)
    const display = card.prices.find(({ format }) => format === 'display')?.byTier[0] ?? 0
    expect(card.prices.find(({ format }) => format === 'video')?.byTier[0]).toBeGreaterThan(display * 3)
    expect(card.activity.busiestTenth).toBeGreaterThan(0.4)
    expect(card.activity.busiestTenth).toBeLessThan(0.45)
    expect(card.days.swing).toBeGreaterThan(0.05)
    expect(card.days.swing).toBeLessThan(0.3)
    expect(Math.abs(card.days.driftAWeek)).toBeLessThan(0.05)
    const euros = (card.worthADay / 1e6) * (2_000_000 / world.people)
    expect(euros).toBeGreaterThan(12_000)
    expect(euros).toBeLessThan(20_000)
  })

  it('names every property once, under .example', () => {
    const { properties } = world.inventory
    expect(new Set(properties.map((property) => property.name)).size).toBe(properties.length)
    expect(new Set(POSTALS.map((postal) => postalPlaceCode(postal))).size).toBe(POSTALS.length)
    expect(new Set(CITIES.map((city) => cityCode(city))).size).toBe(CITIES.length)
    expect(CATEGORIES.every((category) => category.iab === undefined || /^IAB\d+(-\d+)?$/.test(category.iab))).toBe(true)
    for (const property of properties) {
      expect(property.anonymous ? property.name : property.domain).toMatch(property.anonymous ? /^No\. \d+$/ : /(^example\.)|(\.example$)/)
      expect(PROPERTY_CLASSES).toContain(property.class)
    }
    expect(REGIONS.every((region) => region.code.startsWith(region.code.slice(0, 2)))).toBe(true)
  })

  it('publishes measures near the truth, and grades by fifths', () => {
    const measures = publishMeasures(world.seed, world.inventory)
    const errors = world.inventory.placements.map((p) => measures.viewable[p.index] / 100 / (p.viewable / 65536) - 1)
    const sd = Math.sqrt(errors.reduce((sum, e) => sum + e * e, 0) / errors.length)
    expect(sd).toBeGreaterThan(0.06)
    expect(sd).toBeLessThan(0.13)
    FORMATS.forEach((_, format) => {
      const own = placementFormats(world.inventory).reduce<number[]>((list, other, p) => (other === format ? [...list, p] : list), [])
      for (let grade = 0; grade < GRADES.length; grade++)
        expect(Math.abs(own.filter((p) => measures.grade[p] === grade).length / own.length - 0.2)).toBeLessThan(0.05)
    })
  })
})

describe('the tape', () => {
  const world = smallWorld()
  const tape = buildTape(world, 60)

  it('holds the same rows that the market makes, for the sampled people', () => {
    const { rows } = sharedDay(world, 60)
    const people = new Set(tapePeople(world))
    const wordsOf = (among: typeof rows, i: number) =>
      [among.path[i], among.device[i], among.page[i], among.state[i], among.sincePop[i], among.rival[i], among.second[i]].join(' ')
    const market = new Map<number, string>()
    for (let i = 0; i < rows.count; i++)
      if (people.has(rows.person[i])) market.set(rows.key[i], `${rows.person[i]} ${rows.minute[i]} ${wordsOf(rows, i)}`)
    let found = 0
    let last = 0
    for (let i = 0; i < tape.rowCount; i++) {
      if (tape.rows.minute[i] < 13 * 1440) continue
      last++
      if (
        market.get(tape.rows.key[i]) === `${tape.numbers[tape.rows.person[i]]} ${tape.rows.minute[i] - 13 * 1440} ${wordsOf(tape.rows, i)}`
      )
        found++
    }
    expect([found, last]).toEqual([market.size, market.size])
  })

  it('is sorted by person, then time, and holds one person in three', () => {
    let unordered = 0
    for (let p = 0; p < tape.peopleCount; p++) {
      for (let i = tape.starts[p]; i < tape.starts[p + 1]; i++) {
        if (tape.rows.person[i] !== p || (i > tape.starts[p] && tape.rows.minute[i] < tape.rows.minute[i - 1])) unordered++
      }
    }
    expect(unordered).toBe(0)
    expect(Math.abs(tape.peopleCount / world.people - 1 / 3)).toBeLessThan(0.02)
    expect(tape.traffic.reduce((a, b) => a + b, 0)).toBe(tape.rowCount)
  })

  it('a day later is the old one without its first day and with one more, to the byte', () => {
    const later = addDay(world, tape)
    const whole = buildTape(world, 61)
    expect(tapeHash(later)).toBe(tapeHash(whole))
    expect(hashColumns([new Uint8Array(later.buffer)])).toBe(hashColumns([new Uint8Array(whole.buffer)]))
    expect(tape.firstDay).toBe(47)
  })

  it('is its own file: opened from its bytes, and refused with a reason when anything is wrong with them', () => {
    const wish = { seed: world.seed, people: world.people, sample: world.sample }
    const copy = (edit: (bytes: Uint8Array) => void = () => undefined, size = tape.buffer.byteLength) => {
      const bytes = new Uint8Array(new SharedArrayBuffer(size))
      bytes.set(new Uint8Array(tape.buffer).subarray(0, size))
      edit(bytes)
      return bytes.buffer as SharedArrayBuffer
    }
    expect(tapeHash(openTapeFile(copy(), wish))).toBe(tapeHash(tape))
    expect(tapeHash(openTape(tape.buffer))).toBe(tapeHash(tape))
    const refused = (buffer: SharedArrayBuffer, asked: Parameters<typeof openTapeFile>[1] = wish) => {
      try {
        openTapeFile(buffer, asked)
      } catch (error) {
        return error instanceof TapeFileError ? error.message : `not a tape error: ${String(error)}`
      }
      return 'opened'
    }
    expect(refused(copy((bytes) => (bytes[0] = 88)))).toContain('no tape file')
    expect(refused(copy((bytes) => (bytes[8] = 9)))).toContain('version 9')
    expect(refused(copy((bytes) => (bytes[60] ^= 1)))).toContain('header')
    expect(refused(copy(undefined, tape.buffer.byteLength - 8))).toContain('bytes')
    expect(refused(copy(undefined, 20))).toContain('no tape file')
    expect(refused(copy(), { ...wish, seed: 5 })).toContain('another world')
    expect(refused(copy(), { ...wish, firstDay: 12 })).toContain('firstDay')
    for (const { name, offset, bytes } of tapePlaces(tape).places)
      expect(refused(copy((all) => (all[offset + Math.floor(bytes / 2)] ^= 4)))).toContain(`column ${name} is damaged`)
  })
})
