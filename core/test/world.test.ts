import { describe, expect, it } from 'vitest'
import { PROPERTY_CLASSES, GRADES } from '../src/taxonomy/index.js'
import { REGIONS } from '../src/places/index.js'
import { SOURCES, gradeOf, makeWorld, opportunityColumns, publishMeasures, worldHash } from '../src/market/index.js'
import { buildTape, openTape, tapeHash, tapeHead, tapePeople } from '../src/tape/index.js'
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
        "day": "d11ca65d",
        "tape": "c507e7be",
        "world": "4bf01ac3",
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

  it('shows placements only on the devices of their slot, and never below the floor table', () => {
    const { placements, floors } = world.inventory
    let wrong = 0
    for (let i = 0; i < rows.count; i++) {
      const shown = (placements[rows.placement[i]].devices >> rows.device[i]) & 1
      const floor = floors[rows.placement[i] * SOURCES.length + rows.source[i]]
      if (shown !== 1 || rows.floor[i] !== floor || rows.second[i] > rows.rival[i]) wrong++
    }
    expect(wrong).toBe(0)
  })

  it('costs what the design says: 6,000 to 10,000 a day at full size', () => {
    let micros = 0
    for (let i = 0; i < rows.count; i++) micros += Math.max(rows.floor[i], rows.rival[i])
    const euros = (micros / 1e6) * (2_000_000 / world.people)
    expect(euros).toBeGreaterThan(6000)
    expect(euros).toBeLessThan(10_000)
  })

  it('names every property once, under .example', () => {
    const { properties } = world.inventory
    expect(new Set(properties.map((property) => property.name)).size).toBe(properties.length)
    for (const property of properties) {
      expect(property.domain).toMatch(/(^example\.)|(\.example$)/)
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
    const counts = GRADES.map((grade) => world.inventory.placements.filter((p) => gradeOf(measures.score[p.index], measures.fifths) === grade).length)
    for (const count of counts) expect(Math.abs(count / world.inventory.placements.length - 0.2)).toBeLessThan(0.02)
  })
})

describe('the tape', () => {
  const world = smallWorld()
  const tape = buildTape(world, 60)

  it('holds the same rows that the market makes, for the sampled people', () => {
    const { rows } = sharedDay(world, 60)
    const people = new Set(tapePeople(world))
    const market = new Map<number, number>()
    for (let i = 0; i < rows.count; i++) if (people.has(rows.person[i])) market.set(rows.key[i], rows.placement[i] * 65536 + rows.minute[i])
    let found = 0
    for (let i = 0; i < tape.rowCount; i++) {
      if (tape.minute[i] >= 13 * 1440 && market.get(tape.rows.key[i]) === tape.rows.placement[i] * 65536 + tape.rows.minute[i]) found++
    }
    expect(found).toBe(market.size)
    expect(found).toBe(tape.minute.filter((minute) => minute >= 13 * 1440).length)
  })

  it('is sorted by person, then time, and holds one person in three', () => {
    let unordered = 0
    for (let p = 0; p < tape.peopleCount; p++) {
      for (let i = tape.starts[p] + 1; i < tape.starts[p + 1]; i++) {
        if (tape.rows.person[i] !== tape.rows.person[i - 1] || tape.minute[i] < tape.minute[i - 1]) unordered++
      }
    }
    expect(unordered).toBe(0)
    expect(Math.abs(tape.peopleCount / world.people - 1 / 3)).toBeLessThan(0.02)
  })

  it('opens on another thread over the same memory', () => {
    expect(tapeHash(openTape(tapeHead(tape), tape.buffers))).toBe(tapeHash(tape))
  })
})
