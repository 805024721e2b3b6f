import { describe, expect, it } from 'vitest'
import { changeWords, withChanges, type LineDraft } from '../src/buying/index.js'
import {
  NO_LIMITS,
  answer,
  changed,
  mainFigures,
  workOut,
  type Advice,
  type Change,
  type ForecastPart,
  type ForecastQuestion,
  type GoalMeasure
} from '../src/forecast/index.js'
import { buildTape } from '../src/tape/index.js'
import { smallWorld } from './support/lines.js'
import { marketOf, question } from './support/questions.js'

const world = smallWorld()
const tape = buildTape(world, 59)
const market = marketOf(world)
const never = () => false
const part = <K extends ForecastPart['part']>(all: ForecastPart[], name: K) =>
  all.find((one) => one.part === name) as Extract<ForecastPart, { part: K }>
const figures = (asked: ForecastQuestion) => mainFigures(workOut(asked, tape, market, never), never)
const advised = (asked: ForecastQuestion, measure: GoalMeasure = 'wins') => {
  const answers = [...answer(asked, measure, tape, market, never)]
  return { ...part(answers, 'advice'), now: part(answers, 'figures').figures, ladder: part(answers, 'ladder').ladder }
}
const kinds = (advice: readonly Advice[]) => advice.flatMap(({ changes }) => changes.map(({ kind }) => kind))
/** A line that bids far over what its money needs. */
const dear = question({
  price: { model: 'CPM', bidMicros: 6_000_000, maxMicros: null },
  limits: { ...NO_LIMITS, dailyMicros: 150_000 },
  caps: [{ times: 3, hours: 24 }]
})

describe('a better use of the money', () => {
  it('states what asking again gives, that for the same money first, and never what its range leaves open', () => {
    const q = question({ caps: [{ times: 2, hours: 24 }] })
    for (const asked of [
      q,
      { ...q, limits: { ...NO_LIMITS, dailyMicros: 50_000_000 } },
      { ...q, limits: { ...NO_LIMITS, dailyMicros: 200_000 } }
    ])
      for (const measure of ['wins', 'reach', 'visits'] as const) {
        const { advice, now, possible } = advised(asked, measure)
        expect(possible).toBeGreaterThan(0)
        expect(possible).toBeLessThanOrEqual(1)
        expect(advice.length).toBeLessThanOrEqual(3)
        if (measure === 'wins') expect(advice.length).toBeGreaterThan(0)
        for (const { changes, gain, low, high } of advice) {
          expect(figures(changed(asked, ...changes)).day[measure].value - now.day[measure].value).toBeCloseTo(gain, 5)
          expect(low).toBeGreaterThan(0)
          expect(gain).toBeGreaterThan(low)
          expect(high).toBeGreaterThan(gain)
        }
        const [same, more] = [false, true].map((takesMore) => advice.filter((one) => one.takesMore === takesMore))
        expect([...same, ...more]).toEqual(advice)
        for (const some of [same, more]) expect(some).toEqual([...some].sort((a, b) => b.gain - a.gain))
      }
  })

  it('tells a line that its money binds to bid less where the same money then wins more, and not to let in what it has no money for', () => {
    const { advice, now, ladder, possible } = advised(dear)
    const same = advice.filter(({ takesMore }) => !takesMore)
    const [first] = same
    expect(kinds(same).some((kind) => kind === 'bid' || kind === 'follow')).toBe(true)
    for (const { changes } of same) for (const change of changes) if (change.kind === 'bid') expect(change.micros).toBeLessThan(6_000_000)
    expect(first.gain).toBeGreaterThan(0.1 * now.day.wins.value)
    expect(first.spendMicros).toBeLessThanOrEqual(1)
    // No rung of the ladder wins a tenth more for this money than what is advised.
    const best = Math.max(...ladder.rungs.map((rung) => rung.budgetWins))
    expect(first.wins + now.day.wins.value).toBeGreaterThan(0.95 * best)
    expect(kinds(advice)).not.toContain('restriction')
    expect(kinds(advice)).not.toContain('hours')
    expect(possible).toBeCloseTo(now.day.wins.value / (now.day.wins.value + Math.max(...same.map(({ gain }) => gain))), 2)
    // More money is the least that is spent, and says what one more costs.
    const budget = advice.find(({ changes }) => changes[0].kind === 'daily budget')
    expect(budget?.takesMore).toBe(true)
    expect(budget?.eachMicros).toBeCloseTo((budget?.spendMicros ?? 0) / (budget?.gain ?? 1), 6)
    // Taken, there is little left to advise for the same money.
    expect(advised(changed(dear, ...first.changes)).possible).toBeGreaterThan(0.9)
  })

  it('finds nearly what a plain grid of bids, caps and following the market finds', () => {
    for (const asked of [dear, { ...dear, price: { ...dear.price, bidMicros: 2_000_000 }, caps: [{ times: 1, hours: 24 }] }]) {
      const { advice, now } = advised(asked, 'wins')
      let most = now.day.wins.value
      for (const times of [1, 2, 4, null])
        for (const part of [0.15, 0.3, 0.5, 0.75, 1, 1.5]) {
          const micros = Math.round((asked.price.bidMicros * part) / 1000) * 1000
          const changes: Change[] = [
            { kind: 'cap', cap: 0, times },
            { kind: 'bid', micros }
          ]
          most = Math.max(most, figures(changed(asked, ...changes)).day.wins.value)
        }
      const same = advice.filter(({ takesMore }) => !takesMore)
      expect(now.day.wins.value + Math.max(0, ...same.map(({ wins }) => wins))).toBeGreaterThan(0.95 * most)
    }
  })

  it('is not more money where the campaign stops it', () => {
    const asked = question({ limits: { ...NO_LIMITS, dailyMicros: 300_000 }, campaignLimits: { ...NO_LIMITS, dailyMicros: 100_000 } })
    expect(kinds(advised(asked).advice)).not.toContain('daily budget')
  })

  it('of a bid that wins next to nothing is to bid more, although too little is known to judge it', () => {
    const price = { model: 'CPM' as const, bidMicros: 20_000, maxMicros: null }
    const { advice, now, possible } = advised(question({ price, limits: { ...NO_LIMITS, dailyMicros: 300_000 } }))
    expect([now.tooFew, possible]).toEqual([true, null])
    expect(kinds(advice)).toContain('bid')
  })

  it('takes more money of a line without any limit, and says so', () => {
    const { advice } = advised(question({ caps: [{ times: 1, hours: 24 }] }))
    expect(advice.length).toBeGreaterThan(0)
    for (const { takesMore, eachMicros } of advice) expect([takesMore, eachMicros]).toEqual([true, expect.any(Number)])
  })

  it('makes of a draft what it asked the forecast for, in words that are its own', () => {
    const draft = {
      price: { model: 'CPM', bidMicros: 1_000_000, maxMicros: null },
      caps: [{ times: 3, hours: 24 }],
      gapMinutes: 30,
      hours: null,
      pacing: 'even',
      targeting: { restrictions: [{ dimension: 'placement', mode: 'exclude', values: ['4'] }] }
    } as unknown as LineDraft
    const changes: Change[] = [
      { kind: 'cap', cap: 0, times: 2 },
      { kind: 'hours out', hours: [1, 2, 23] },
      { kind: 'gap', minutes: 60 },
      { kind: 'left out', dimension: 'placement', values: ['4', '9'] }
    ]
    const asked = changed(question({ ...draft, caps: draft.caps, gapMinutes: 30, targeting: draft.targeting } as never), ...changes)
    const next = withChanges(draft, changes)
    expect(next.caps).toEqual(asked.caps)
    expect(next.hours).toEqual(asked.hours)
    expect(next.hours?.perMille.filter((m) => m === 0)).toHaveLength(21)
    expect(next.gapMinutes).toBe(asked.gapMinutes)
    expect(next.targeting).toEqual(asked.targeting)
    expect(next.targeting.restrictions).toEqual([{ dimension: 'placement', mode: 'exclude', values: ['4', '9'] }])
    expect(changeWords(draft, changes)).toBe(
      'cap at 2 in 24 hours and shut it from 1:00 to 3:00 and 23:00 to 24:00 and keep 60 minutes between two showings and leave out the 2 placements that are dearest for what they bring'
    )
  })
})
