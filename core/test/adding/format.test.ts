import { describe, expect, it, vi } from 'vitest'
import { CHOOSERS, chooserValue, lineSchema, parseInput, phrasesOf } from '../../src/buying/index.js'
import { Exchange, openEvents, openLog } from '../../src/exchange/index.js'
import { survey } from '../../src/forecast/index.js'
import { KINDS, makeWorld, priceKind } from '../../src/market/index.js'
import { pivot } from '../../src/results/index.js'
import { eventRates, makeBenchmarks } from '../../src/response/index.js'
import { buildTape, worldCard } from '../../src/tape/index.js'
import { FORMATS, MODELS_OF, SHAPES, SHAPE_FORMAT, isWatched, shapesOf, type Format, type Shape } from '../../src/taxonomy/index.js'
import { zoneIndex } from '../../src/time/index.js'
import { longWording, plainLine, readQuick, readWording, schemeName, unsaid } from '../../src/wording/index.js'
import { START, SMALL, lineRules, numbers, one, opening, runHours, sharedDay } from '../support/lines.js'
import { marketOf } from '../support/questions.js'
import { randomLine } from '../support/random-lines.js'

/** One more format, said once: panels that people pass by with their phones. */
vi.mock('../../src/taxonomy/formats/table.js', async (original) => {
  const { TABLE } = await original<typeof import('../../src/taxonomy/formats/table.js')>()
  const { shape, slot } = await import('../../src/taxonomy/formats/format.js')
  return {
    TABLE: {
      ...TABLE,
      panel: {
        shapes: { 'hall panel': shape(['phone'], 1200, 0.004, 1, 1, ['in the hall']) },
        models: ['CPM', 'CPC'],
        usualModel: 'CPM',
        slots: { newsletter: [slot('hall panel', 1)], app: [slot('hall panel', 0.6)] },
        onDevices: { phone: 6 },
        carriedBy: { Tidewater: 10, Sluice: 5 },
        kinds: { panel: { price: 900, viewable: 0.6, clicks: 0.004, stays: 0.7 } },
        kindOf: () => 'panel',
        converts: { purchase: 0.5, booking: 0.5, trial: 0.5 },
        lifts: 0.1
      }
    }
  }
})

const PANEL = 'panel' as Format
const number = FORMATS.indexOf(PANEL)
const shape = SHAPES.indexOf('hall panel' as Shape)
const world = makeWorld(SMALL)
const market = marketOf(world)
const tape = buildTape(world, 59)
const draft = {
  ...randomLine(numbers(5)),
  format: PANEL,
  viewSeconds: undefined,
  price: { model: 'CPC' as const, bidMicros: 100_000, maxMicros: null }
}

describe('a format that is added as one object', () => {
  it('has its number, its shapes and its ways of paying, after all that were there', () => {
    expect([number, shape, SHAPE_FORMAT[shape]]).toEqual([FORMATS.length - 1, SHAPES.length - 1, number])
    expect([shapesOf(PANEL), MODELS_OF[PANEL], isWatched(PANEL)]).toEqual([['hall panel'], ['CPM', 'CPC'], false])
  })

  it('is sold: placements of its shape, where and by whom it says, at its own price', () => {
    const own = world.inventory.placements.filter((placement) => placement.shape === shape)
    expect(own.length).toBeGreaterThan(20)
    expect(new Set(own.map(({ property }) => world.inventory.properties[property].class))).toEqual(new Set(['newsletter', 'app']))
    expect(own.every(({ position, devices }) => position === 'in the hall' && devices === 1)).toBe(true)
    expect(priceKind(own[0], world.inventory.properties[own[0].property])).toBe('panel')
    expect(KINDS.panel.price).toBe(900)
    const share = new Map(worldCard(world, tape).shares.format).get('panel') ?? 0
    expect(share).toBeGreaterThan(0.02)
    expect(share).toBeLessThan(0.06)
    const { prices } = worldCard(world, tape)
    expect(prices.find(({ format }) => format === 'panel')?.byTier.every((price) => price > 0)).toBe(true)
  })

  it('is answered: what the trade expects of it is its own', () => {
    const benchmarks = makeBenchmarks(world.inventory)
    expect(benchmarks.viewable[number]).toBeGreaterThan(0.3)
    const counted = [{ kind: 'purchase' as const, clickHours: 0, viewHours: null }]
    expect(eventRates(number, counted).perConverting).toBeCloseTo(0.5 * eventRates(0, counted).perConverting, 12)
  })

  it('is taken by lines, in the ways that it is sold', () => {
    expect(parseInput(lineSchema, draft).format).toBe(PANEL)
    expect(() => parseInput(lineSchema, { ...draft, price: { ...draft.price, model: 'view' } })).toThrow(/panel is bought by CPM or CPC/)
    expect(() => parseInput(lineSchema, { ...draft, viewSeconds: 6 })).toThrow(/view point/)
  })

  it('is counted in the market and bought there, and told apart in reports', () => {
    const { groups, total } = survey(
      {
        sentence: { formats: [PANEL], targeting: { restrictions: [] }, hours: null },
        by: ['format', 'size'],
        without: null,
        bidMicros: 0,
        deals: []
      },
      'UTC',
      tape,
      market,
      () => false
    )
    const rows = Array.from(tape.rows.path.subarray(0, tape.rowCount)).filter(
      (path) => world.inventory.placements[Math.floor(path / 6)].shape === shape
    ).length
    expect(total.opportunitiesADay).toBeCloseTo((rows * tape.sample) / 14, 6)
    expect(groups.map((group) => group.rows.map((row) => row.label))).toEqual([['panel'], ['hall panel']])
    const [{ rows: counted }] = groups
    expect(chooserValue('format', 'format', counted[0])).toBe('panel')
    expect(CHOOSERS.format?.by).toEqual(['format'])

    const rules = lineRules(1, { shapes: [shape], ads: [{ ad: 1, shape, weight: 1 }] } as object)
    const hours = runHours(new Exchange(world, one(rules), opening(START), sharedDay), 6).map((facts) => ({
      hour: facts.hour,
      log: openLog(facts.log, facts.wins, facts.crc),
      events: openEvents(facts.events, facts.eventCount, facts.eventsCrc)
    }))
    const found = pivot({ by: 'format', lines: [1], from: START, to: START + 6, windowHours: 720 }, hours, world.persons.words, {
      ...market,
      zone: zoneIndex('UTC')
    })
    expect(found.total.wins).toBeGreaterThan(4)
    expect(found.rows.map(({ label, wins }) => [label, wins])).toEqual([['panel', found.total.wins]])
  })

  it('is said: in short, in full and back, typed, and in names', () => {
    expect(phrasesOf({ formats: [PANEL], targeting: { restrictions: [] }, hours: null })[0].words).toBe('Panel')
    expect(readWording(longWording(plainLine(draft))).draft?.format).toBe(PANEL)
    expect(readQuick('panel phones').apply(unsaid()).format).toBe(PANEL)
    expect(schemeName({ format: PANEL, targeting: { restrictions: [] } })).toBe('Panel')
  })
})
