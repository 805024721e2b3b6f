import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CHOOSERS, chooserValue, phraseWords, sentenceWords, weekWords, type PhraseOf } from '../src/buying/index.js'
import { SURVEY_BY, matchTape, survey, type Sentence, type SurveyQuestion } from '../src/forecast/index.js'
import { SOURCES } from '../src/market/index.js'
import { COUNTRIES } from '../src/places/index.js'
import { OPEN_MARKET } from '../src/pricing/index.js'
import { buildTape } from '../src/tape/index.js'
import { DIMENSIONS, DIMENSION_KINDS, type Dimension } from '../src/dimensions/index.js'
import { FORMATS, SHAPES, SHAPE_FORMAT } from '../src/taxonomy/index.js'
import { numbers, smallWorld } from './support/lines.js'
import { marketOf, question } from './support/questions.js'
import { randomTargeting } from './support/random-targeting.js'

const world = smallWorld()
const tape = buildTape(world, 59)
const market = marketOf(world)
const never = () => false
const everything: Sentence = { formats: [], targeting: { restrictions: [] }, hours: null }
const ask = (sentence: Partial<Sentence>, over: Partial<SurveyQuestion> = {}) =>
  survey(
    { sentence: { ...everything, ...sentence }, by: [], without: null, bidMicros: 1_000_000, deals: [], ...over },
    'Europe/Lisbon',
    tape,
    market,
    never
  )
const include = (dimension: Dimension, values: string[]) => ({ dimension, mode: 'include' as const, values })

describe('a survey of the market', () => {
  it('counts what a line with the same restrictions matches, whole and by every dimension', () => {
    const below = numbers(71)
    for (let n = 0; n < 30; n++) {
      const targeting = randomTargeting(below, 2)
      const format = FORMATS[below(5)]
      const shapes = SHAPES.flatMap((_, shape) => (FORMATS[SHAPE_FORMAT[shape]] === format ? [shape] : []))
      const matched = matchTape(question({ targeting, shapes, buys: OPEN_MARKET }), tape, market, never)
      const by = [SURVEY_BY[n % SURVEY_BY.length]].filter((name) => name !== 'deal' && name !== 'audience')
      const found = ask({ formats: [format], targeting }, { by })
      expect(found.total.opportunitiesADay).toBeCloseTo((matched.rows.length * tape.sample) / 14, 6)
      expect(found.total.people).toBe(matched.people.length * tape.sample)
      for (const { rows } of found.groups)
        expect(rows.reduce((sum, row) => sum + row.opportunitiesADay, 0)).toBeCloseTo(found.total.opportunitiesADay, 6)
      expect(found.week.opportunities.reduce((sum, one) => sum + one, 0) / 7).toBeCloseTo(found.total.opportunitiesADay, 6)
    }
  })

  it('volume and price by value equal a plain count of the rows, the phrase itself lifted', () => {
    const targeting = { restrictions: [include('where', ['DE', 'FR']), include('device', ['phone'])] }
    const {
      groups: [{ rows }]
    } = ask({ targeting }, { by: ['device'], without: 'device' })
    expect(rows.length).toBeGreaterThan(3)
    for (const row of rows) {
      const matched = matchTape(
        question({
          targeting: { restrictions: [include('where', ['DE', 'FR']), include('device', [row.label])] },
          shapes: SHAPES.map((_, shape) => shape)
        }),
        tape,
        market,
        never
      )
      const needs = [...matched.need].sort((a, b) => a - b)
      expect(row.opportunitiesADay).toBeCloseTo((needs.length * tape.sample) / 14, 6)
      expect(Math.abs(row.halfMicros / 1000 / needs[Math.ceil(needs.length / 2) - 1] - 1)).toBeLessThan(0.02)
      expect(row.winRate).toBeCloseTo(needs.filter((need) => need <= 1000).length / needs.length, 9)
      expect(row.floorMicros).toBeLessThanOrEqual(row.halfMicros)
    }
  })

  it('says which phrase leaves nothing', () => {
    expect(ask({}).emptiedBy).toBeNull()
    expect(ask({ targeting: { restrictions: [include('where', ['DE']), include('where', ['FR'])] } }).emptiedBy).toBe('where')
    expect(ask({ formats: ['audio'], targeting: { restrictions: [include('size', ['300x250'])] } }).emptiedBy).toBe('size')
    expect(ask({ hours: { clock: 'viewer', perMille: new Array<number>(168).fill(0) } }).emptiedBy).toBe('hours')
  })

  it('counts deals by their placements, and one placement in several of them', () => {
    const deals = [
      { deal: 1, placements: [0, 1, 2] },
      { deal: 2, placements: [2, 3] }
    ]
    const {
      groups: [byDeal, byPlacement]
    } = ask({}, { by: ['deal', 'placement'], deals })
    const perDay = (placement: number) => byPlacement.rows.find((row) => row.key === placement)?.opportunitiesADay ?? 0
    for (const { deal, placements } of deals)
      expect(byDeal.rows.find((row) => row.key === deal)?.opportunitiesADay ?? 0).toBeCloseTo(
        placements.reduce((sum, placement) => sum + perDay(placement), 0),
        6
      )
  })

  it('a higher bid wins no less, along its curve too', () => {
    const found = [200_000, 900_000, 4_000_000].map((bidMicros) => ask({}, { bidMicros }).total.winRate)
    expect([...found].sort((a, b) => a - b)).toEqual(found)
    const { curve } = ask({})
    curve.forEach((step, n) => expect(n === 0 || (step.share > curve[n - 1].share && step.bidMicros > curve[n - 1].bidMicros)).toBe(true))
    expect(curve.at(-1)?.share).toBe(1)
  })
})

describe('choosers', () => {
  it('of grades count what each would take, the better ones with it', () => {
    const [{ rows }] = ask({}, { by: ['grade or better'] }).groups
    expect(rows.length).toBeGreaterThan(3)
    for (const row of rows) {
      const { total } = ask({ targeting: { restrictions: [include('grade', [chooserValue('grade', 'grade or better', row) ?? ''])] } })
      expect([row.label, row.opportunitiesADay, row.halfMicros]).toEqual([row.label, total.opportunitiesADay, total.halfMicros])
    }
    expect(Math.max(...rows.map((row) => row.opportunitiesADay))).toBeCloseTo(ask({}).total.opportunitiesADay, 6)
  })

  it('offer values that a line takes, and nothing for what is unknown', () => {
    const all = ask(
      { targeting: { restrictions: [include('where', ['DE', 'JP', 'BR'])] } },
      { by: [...new Set(Object.values(CHOOSERS).flatMap((chooser) => chooser?.by ?? []))] }
    ).groups
    for (const [phrase, chooser] of Object.entries(CHOOSERS)) {
      const groups = all.filter((group) => (chooser?.by as readonly string[] | undefined)?.includes(group.by))
      const values = groups
        .flatMap(({ by, rows }) => rows.map((row) => chooserValue(phrase as PhraseOf, by, row)))
        .filter((value) => value !== null)
      expect([phrase, values.length > 0]).toEqual([phrase, true])
      if (phrase !== 'format') expect(values.every((value) => DIMENSION_KINDS[phrase as Dimension].isKnown(value))).toBe(true)
      expect(chooserValue(phrase as PhraseOf, (chooser?.by ?? ['format'])[0], { key: -1, label: 'unknown' })).toBeNull()
    }
  })
})

describe('the wording of a sentence', () => {
  it('reads as people say it', () => {
    const weekdayEvenings = Array.from({ length: 168 }, (_, hour) => (hour < 120 && hour % 24 >= 18 ? 1000 : 0))
    const targeting = {
      restrictions: [
        include('device', ['phone']),
        include('where', ['ES', 'PT']),
        include(
          'category',
          ['sky', 'nature'].filter((name) => DIMENSION_KINDS.category.isKnown(name))
        )
      ].filter((one) => one.values.length > 0)
    }
    expect(sentenceWords({ formats: ['native'], targeting, hours: { clock: 'viewer', perMille: weekdayEvenings } })).toMatch(
      /^Native on phones, in Spain and Portugal, .*weekday evenings\.$/
    )
    expect(sentenceWords(everything)).toBe('Anything.')
    expect(phraseWords({ dimension: 'where', mode: 'exclude', values: COUNTRIES.slice(0, 6).map((country) => country.code) })).toBe(
      'outside Portugal, Spain, France and 3 more'
    )
    expect(phraseWords({ dimension: 'property', mode: 'exclude', values: ['tabby.example'] })).toBe('without tabby.example')
    expect(phraseWords({ dimension: 'source', mode: 'include', values: [SOURCES[0].name, SOURCES[1].name] })).toBe(
      'sold through Tidewater or Northgate'
    )
  })

  it.each<[string, (hour: number) => boolean]>([
    ['weekday evenings', (hour) => hour < 120 && hour % 24 >= 18],
    ['weekends', (hour) => hour >= 120],
    ['8 to 20', (hour) => hour % 24 >= 8 && hour % 24 < 20],
    ['Monday and Friday mornings', (hour) => [0, 4].includes(Math.floor(hour / 24)) && hour % 24 >= 6 && hour % 24 < 12],
    ['never', () => false],
    ['84 of 168 hours', (hour) => hour % 2 === 0]
  ])('says %s', (words, isOpen) => expect(weekWords(Array.from({ length: 168 }, (_, hour) => (isOpen(hour) ? 1000 : 0)))).toBe(words))

  it('never fails, whatever a line is restricted by', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const words = sentenceWords({ formats: [], targeting: randomTargeting(numbers(seed), 5), hours: null })
        expect(words).not.toMatch(/undefined|null|NaN/)
      }),
      { numRuns: 200 }
    )
    for (const dimension of DIMENSIONS)
      expect(phraseWords({ dimension, mode: 'include', values: [DIMENSION_KINDS[dimension].values?.[0] ?? '1'] })).not.toBe('')
  })
})
