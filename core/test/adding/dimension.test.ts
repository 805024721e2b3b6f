import { describe, expect, it, vi } from 'vitest'
import {
  CHOOSERS,
  chooserValue,
  lineSchema,
  parseInput,
  phraseWords,
  phrasesOf,
  restrictionWords,
  type PhraseOf
} from '../../src/buying/index.js'
import {
  COUNTED_BY,
  DIMENSION_GROUPS,
  DIMENSION_KINDS,
  DIMENSION_SETS,
  REPORT_DIMENSION_NAMES,
  type CountedBy,
  type Dimension,
  type ReportDimensionName
} from '../../src/dimensions/index.js'
import { Exchange, openEvents, openLog } from '../../src/exchange/index.js'
import { survey } from '../../src/forecast/index.js'
import { deviceModel } from '../../src/market/index.js'
import { pivot } from '../../src/results/index.js'
import { buildTape, worldCard } from '../../src/tape/index.js'
import { compileTargeting, conflicts, explain, matches, targetingSchema, type Restriction } from '../../src/targeting/index.js'
import { laneValues } from '../../src/dimensions/index.js'
import { zoneIndex } from '../../src/time/index.js'
import {
  changesBetween,
  clauseOf,
  longWording,
  paragraphWords,
  plainLine,
  readQuick,
  readWording,
  unsaid
} from '../../src/wording/index.js'
import { START, lineRules, one, opening, runHours, sharedDay, smallWorld } from '../support/lines.js'
import { marketOf } from '../support/questions.js'
import { randomLine } from '../support/random-lines.js'
import { numbers } from '../support/lines.js'

/** One more dimension, said once, in the file of its group. */
vi.mock('../../src/dimensions/device.js', async (original) => {
  const { DEVICE } = await original<typeof import('../../src/dimensions/device.js')>()
  const { attribute } = await import('../../src/dimensions/dimension.js')
  const { deviceModel: model } = await import('../../src/market/index.js')
  return {
    DEVICE: {
      ...DEVICE,
      'screen shape': attribute({
        lane: 'device',
        numberOf: (i) => model(i).resolution % 2,
        values: ['tall', 'broad'],
        noun: 'screen shape',
        inFull: ['on screens shaped', 'not on screens shaped'],
        said: ['shaped', 'not shaped'],
        words: (value) => `${value} ones`,
        called: [['tall screens', 'tall']]
      })
    }
  }
})

const NEW = 'screen shape' as Dimension
const by = 'screen shape' as CountedBy & ReportDimensionName
const tall: Restriction = { dimension: NEW, mode: 'include', values: ['tall'] }
const world = smallWorld()
const market = marketOf(world)
const tape = buildTape(world, 59)
const isTall = (device: number) => deviceModel(device).resolution % 2 === 0
const sentence = { formats: [], targeting: { restrictions: [tall] }, hours: null }
const ask = (asked: typeof sentence, without: Dimension | null = null) =>
  survey({ sentence: asked, by: [by], without, bidMicros: 0, deals: [] }, 'UTC', tape, market, () => false)

describe('a dimension that is added as one object', () => {
  it('is listed with its group, for lines, reports and the market', () => {
    expect(DIMENSION_GROUPS.find(({ name }) => name === 'device')?.dimensions).toContain(NEW)
    expect(DIMENSION_SETS.find(({ name }) => name === 'device')?.dimensions).toContain(NEW)
    expect([COUNTED_BY.includes(by), REPORT_DIMENSION_NAMES.includes(by), clauseOf(NEW)]).toEqual([true, true, 'B'])
  })

  it('is taken by lines and bids, and refused with its noun', () => {
    const targeting = { restrictions: [tall] }
    expect(parseInput(targetingSchema, targeting)).toEqual(targeting)
    expect(() => parseInput(targetingSchema, { restrictions: [{ ...tall, values: ['round'] }] })).toThrow(
      /Not a screen shape we know: round/
    )
    const line = randomLine(numbers(3))
    const adjusted = (value: string) => ({
      ...line,
      price: { ...line.price, model: 'CPM', adjustments: [{ dimension: NEW, value, perMille: 900, ownMicros: null }] }
    })
    expect(parseInput(lineSchema, adjusted('tall')).price.adjustments?.[0].dimension).toBe(NEW)
    expect(() => parseInput(lineSchema, adjusted('round'))).toThrow(/screen shape/)
  })

  it('matches, explains and conflicts', () => {
    const compiled = compileTargeting({ restrictions: [tall] }, market)
    let found = 0
    for (let i = 0; i < 2000; i++) {
      const values = laneValues(tape.words, tape.rows.person[i], tape.rows, i)
      expect(matches(compiled, values)).toBe(isTall(tape.rows.device[i]))
      expect(explain(compiled, values)).toEqual(isTall(tape.rows.device[i]) ? [] : [tall])
      found += isTall(tape.rows.device[i]) ? 1 : 0
    }
    expect(found).toBeGreaterThan(100)
    expect(found).toBeLessThan(1900)
    const both = { restrictions: [tall, { ...tall, mode: 'exclude' as const }] }
    expect(conflicts(compileTargeting(both, market), market)).toEqual([{ first: 0, second: 1, values: ['tall'], empty: true }])
  })

  it('is counted in the market and offered by its values', () => {
    const count = (tallOnes: boolean) =>
      Array.from(tape.rows.device.subarray(0, tape.rowCount)).filter((d) => isTall(d) === tallOnes).length
    const [{ rows }] = ask(sentence, NEW).groups
    const perDay = new Map(rows.map((row) => [chooserValue(NEW as PhraseOf, by, row), row.opportunitiesADay]))
    expect(perDay.get('tall')).toBeCloseTo((count(true) * tape.sample) / 14, 6)
    expect(perDay.get('broad')).toBeCloseTo((count(false) * tape.sample) / 14, 6)
    expect(ask(sentence).total.opportunitiesADay).toBeCloseTo((count(true) * tape.sample) / 14, 6)
    expect([CHOOSERS[NEW as PhraseOf]?.group, CHOOSERS[NEW as PhraseOf]?.by]).toEqual(['device', [NEW]])
    expect(new Map(worldCard(world, tape).shares[NEW]).get('tall')).toBeCloseTo(count(true) / tape.rowCount, 9)
  })

  it('is bought by, and told apart in reports', () => {
    const rules = lineRules(1, { targeting: { restrictions: [tall] } })
    const hours = runHours(new Exchange(world, one(rules), opening(START), sharedDay), 4).map((facts) => ({
      hour: facts.hour,
      log: openLog(facts.log, facts.wins, facts.crc),
      events: openEvents(facts.events, facts.eventCount, facts.eventsCrc)
    }))
    const { rows, total } = pivot({ by, lines: [1], from: START, to: START + 4, windowHours: 720 }, hours, world.persons.words, {
      ...market,
      zone: zoneIndex('UTC')
    })
    expect(total.wins).toBeGreaterThan(20)
    expect(rows.map(({ label, wins }) => [label, wins])).toEqual([['tall', total.wins]])
  })

  it('is said: in short, in full and back, typed, and where drafts differ', () => {
    expect([phraseWords(tall), restrictionWords(tall)]).toEqual(['shaped tall ones', 'tall ones'])
    expect(phrasesOf(sentence).at(-1)).toEqual({ of: NEW, mode: 'include', words: 'shaped tall ones' })
    const line = plainLine({ ...randomLine(numbers(3)), targeting: { restrictions: [tall] } })
    expect(longWording(line)).toContain('on screens shaped tall')
    expect(plainLine(readWording(longWording(line)).draft ?? unsaid()).targeting).toEqual(line.targeting)
    expect(paragraphWords(line)).toContain('shaped tall ones')
    expect(readQuick('display tall screens').apply(unsaid()).targeting.restrictions).toEqual([tall])
    const [change] = changesBetween(plainLine({ ...line, targeting: { restrictions: [] } }), line)
    expect(change.field).toBe('targeting.screen shape.include')
    expect(DIMENSION_KINDS[NEW].noun).toBe('screen shape')
  })
})
