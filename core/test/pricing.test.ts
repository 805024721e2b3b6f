import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parseInput, InputError, lineSchema, withChanges, withModel, changeWords, type LineDraft } from '../src/buying/index.js'
import { changesBetween } from '../src/wording/index.js'
import { creativeSchema, fittingShapes, partsSchema } from '../src/creative/index.js'
import {
  OPEN_MARKET,
  PriceProgramme,
  baseUnits,
  bidAt,
  breakEven,
  clearingPrice,
  dealNeed,
  dealsByPlacement,
  eventCharge,
  explainBid,
  impressionBid,
  inEachWay,
  leastBefore,
  multiplied,
  type Adjustment,
  type LinePrice
} from '../src/pricing/index.js'
import { HELD_BACK, clickAt, makeBenchmarks } from '../src/response/index.js'
import { BRANCHES, FORMATS } from '../src/taxonomy/index.js'
import { catalogueOf, numbers, smallWorld } from './support/lines.js'
import { randomLine } from './support/random-lines.js'

const catalogue = catalogueOf(smallWorld())
const price = (over: Partial<LinePrice> = {}): LinePrice => ({ model: 'CPM', bidMicros: 2_400_000, maxMicros: null, ...over })
const adjustment = (
  dimension: Adjustment['dimension'],
  value: string,
  perMille: number | null,
  ownMicros: number | null = null
): Adjustment => ({ dimension, value, perMille, ownMicros })

describe('a bid', () => {
  it('is floored to whole micros after each step, in the order of the design', () => {
    const programme = new PriceProgramme(
      price({
        adjustments: [adjustment('placement', 'a.example: page head', 1111), adjustment('device', 'phone', 1333)],
        repeatDiscount: 100,
        maxMicros: 3_900_000
      }),
      catalogue
    )
    const both = programme.chainOf(0)
    // 2,400 x 1.333 = 3,199; x 1.111 = 3,554; hour x 1.2 = 4,264; two earlier exposures: 3,837, 3,453.
    expect(programme.bid(2400, both, 1200, 2, 0, false)).toBe(3453)
    expect(programme.bid(2400, both, 1200, 0, 0, false)).toBe(3900)
    expect(programme.bid(2400, programme.chainOf(0b11), 1000, 0, 0, false)).toBe(2400)
    expect(programme.bid(2400, programme.chainOf(0b01), 1000, 0, 0, false)).toBe(3199)
  })

  it('takes the most specific price of its own in place of the base, and the first listed multiplier of a dimension', () => {
    const programme = new PriceProgramme(
      price({
        adjustments: [
          adjustment('where', 'DE', null, 1_000_000),
          adjustment('property', 'a.example', null, 5_000_000),
          adjustment('category', 'dogs', 2000),
          adjustment('category', 'cats', 3000)
        ]
      }),
      catalogue
    )
    expect(programme.eventBid(2400, programme.chainOf(0), 1000, 0)).toBe(10_000)
    expect(programme.eventBid(2400, programme.chainOf(0b0010), 1000, 0)).toBe(2000)
    expect(programme.leastBase(100, programme.chainOf(0), 1000, 0, false)).toBe(Infinity)
    expect(
      () => new PriceProgramme(price({ adjustments: Array.from({ length: 32 }, () => adjustment('device', 'phone', 900)) }), catalogue)
    ).toThrow(RangeError)
  })

  it('the least base bid wins, and one less does not, whatever stands in between', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 50_000 }),
        fc.integer({ min: 1, max: 10_000 }),
        fc.integer({ min: 1, max: 10_000 }),
        fc.integer({ min: 1, max: 3000 }),
        fc.integer({ min: 1, max: 1_000_000 }),
        fc.boolean(),
        (need, first, second, hour, p, isEvent) => {
          const programme = new PriceProgramme(
            price({
              model: isEvent ? 'CPC' : 'CPM',
              adjustments: [adjustment('device', 'phone', first), adjustment('source', 'Sluice', second)]
            }),
            catalogue
          )
          const least = programme.leastBase(need, programme.chainOf(0), hour, p, isEvent)
          // Beyond what a number holds to the unit there is no least one; no bid is that large.
          fc.pre(least <= Number.MAX_SAFE_INTEGER)
          expect(programme.bid(least, programme.chainOf(0), hour, 0, p, isEvent)).toBeGreaterThanOrEqual(need)
          expect(programme.bid(least - 1, programme.chainOf(0), hour, 0, p, isEvent)).toBeLessThan(need)
        }
      )
    )
    expect(leastBefore(5, 0)).toBe(Infinity)
    expect(multiplied(2401, 500)).toBe(1200)
  })

  it('of an event: the impression bid never promises more than the event, and the charge never passes the bid', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5_000_000 }), fc.integer({ min: 0, max: 1_000_000 }), (event, p) => {
        const bid = impressionBid(event, p)
        expect(bid * 1e6).toBeLessThanOrEqual(event * p)
        for (const clearing of [0, Math.floor(bid / 2), bid]) expect(eventCharge(event, clearing, p)).toBeLessThanOrEqual(event)
      })
    )
    expect(eventCharge(400_000, 500, 2000)).toBe(250_000)
    expect(impressionBid(400_000, 0)).toBe(0)
  })

  it('follows its steps, the last that applies', () => {
    const stepped = price({
      steps: [
        { after: 'date', from: 70, bidMicros: 3_000_000 },
        { after: 'days live', from: 5, bidMicros: 1_000_000 },
        { after: 'impressions', from: 9000, bidMicros: 4_000_000 }
      ]
    })
    expect(bidAt(stepped, { day: 60, daysLive: 0, impressions: 0 })).toBe(2_400_000)
    expect(bidAt(stepped, { day: 71, daysLive: 0, impressions: 0 })).toBe(3_000_000)
    expect(bidAt(stepped, { day: 71, daysLive: 6, impressions: 0 })).toBe(1_000_000)
    expect(bidAt(stepped, { day: 71, daysLive: 6, impressions: 9000 })).toBe(4_000_000)
    expect([baseUnits('CPM', 2_400_000), baseUnits('visit', 900)]).toEqual([2400, 900])
  })
})

describe('deals', () => {
  it('ask no rivals at a fixed price, replace the floor otherwise, and the first that names a placement counts', () => {
    expect(dealNeed({ kind: 'fixed', price: 900 }, 5000)).toBe(900)
    expect(dealNeed({ kind: 'floor', price: 900 }, 5000)).toBe(5001)
    expect(dealNeed({ kind: 'floor', price: 900 }, 10)).toBe(900)
    const table = dealsByPlacement(
      {
        open: true,
        deals: [
          { deal: 8, kind: 'fixed', price: 1, placements: [2, 3] },
          { deal: 9, kind: 'fixed', price: 1, placements: [3, 4] }
        ]
      },
      6
    )
    expect([...table]).toEqual([-1, -1, 0, 0, 1, -1])
    expect([...dealsByPlacement(OPEN_MARKET, 2)]).toEqual([-1, -1])
    expect([clearingPrice('first price', 5, 1, 2), clearingPrice('second price', 5, 1, 2), clearingPrice('second price', 5, 3, 2)]).toEqual(
      [5, 2, 3]
    )
  })
})

describe('what the trade expects', () => {
  it('is a share for every format, category, device and country, clicks fewer on screens without a pointer', () => {
    const { clicks, views, stays, groupOf } = makeBenchmarks(catalogue.inventory)
    for (const table of [clicks, views, stays]) for (const chance of table) expect(chance <= 1_000_000).toBe(true)
    FORMATS.forEach((_, f) => {
      for (let branch = 0; branch < BRANCHES.length; branch++) {
        const group = f * BRANCHES.length + branch
        expect(views[group]).toBeGreaterThan(0)
        expect(clicks[clickAt(group, 0, 3)]).toBeGreaterThan(clicks[clickAt(group, 3, 3)])
        expect(clicks[clickAt(group, 0, 19)]).toBeGreaterThanOrEqual(clicks[clickAt(group, 0, 3)])
      }
    })
    expect(Math.max(...groupOf)).toBeLessThan(HELD_BACK)
    expect(views[HELD_BACK]).toBe(0)
  })
})

const DRAFT: LineDraft = {
  name: 'Line',
  format: 'display',
  zone: 'UTC',
  targeting: { restrictions: [{ dimension: 'where', mode: 'include', values: ['PT'] }] },
  price: { model: 'CPM', bidMicros: 2_000_000, maxMicros: 2_500_000 },
  flight: { startDate: '2026-03-02', endDate: null },
  budget: { dailyMicros: 4_000_000, totalMicros: null },
  pacing: 'even',
  caps: [{ times: 2, hours: 24 }],
  landing: '',
  onceCleared: 'start'
}

describe('a line', () => {
  const refused = (over: object): string => {
    try {
      parseInput(lineSchema, { ...DRAFT, ...over })
      return 'accepted'
    } catch (error) {
      return (error as InputError).issues.map(({ field, message }) => `${field}: ${message}`).join(' | ')
    }
  }

  it('of every kind is taken, and each thing that cannot be is refused at its field', () => {
    const full = {
      price: {
        ...DRAFT.price,
        adjustments: [adjustment('device', 'phone', 1200), adjustment('property', 'a.example', null, 900_000)],
        repeatDiscount: 150,
        steps: [{ after: 'date', from: 90, bidMicros: 1_000_000 }]
      },
      hours: { clock: 'viewer', perMille: new Array<number>(168).fill(1000) },
      gapMinutes: 60,
      buys: { open: false, deals: [301] },
      pacing: 'traffic',
      budget: {
        dailyMicros: 4_000_000,
        totalMicros: null,
        weeklyMicros: 20_000_000,
        monthlyMicros: null,
        dailyImpressions: 5000,
        placementDailyMicros: 1_000_000
      }
    }
    expect(refused(full)).toBe('accepted')
    expect(refused({ price: { ...DRAFT.price, bidMicros: 0 } })).toContain('price.bidMicros: The bid must be more than 0.')
    expect(refused({ price: { ...DRAFT.price, bidMicros: 2_000_500 } })).toContain('steps of 0.001')
    expect(refused({ price: { model: 'CPC', bidMicros: 200_500, maxMicros: null } })).toBe('accepted')
    expect(refused({ format: 'pop', price: { model: 'CPC', bidMicros: 200_500, maxMicros: null } })).toContain(
      'pop is bought by CPM or visit'
    )
    expect(refused({ price: { ...DRAFT.price, adjustments: [adjustment('device', 'toaster', 1200)] } })).toContain(
      'price.adjustments[0].value: Not a device type we know: toaster.'
    )
    expect(refused({ price: { ...DRAFT.price, adjustments: [adjustment('device', 'phone', 1200, 900_000)] } })).toContain('one of the two')
    expect(refused({ price: { ...DRAFT.price, adjustments: [adjustment('device', 'phone', 10_001)] } })).toContain('at most 10')
    expect(refused({ price: { ...DRAFT.price, repeatDiscount: 1001 } })).toContain('repeat discount')
    expect(refused({ hours: { clock: 'line', perMille: [1000] } })).toContain('7 x 24')
    expect(refused({ hours: { clock: 'line', perMille: new Array<number>(168).fill(0) } })).toContain('All hours are off')
    expect(refused({ gapMinutes: 0 })).toContain('gapMinutes')
    expect(refused({ buys: { open: false, deals: [] } })).toContain('buys.deals')
    expect(refused({ budget: { ...DRAFT.budget, dailyImpressions: 1.5 } })).toContain('whole impressions')
    expect(refused({ budget: { ...DRAFT.budget, weeklyMicros: -5 } })).toContain('The weekly budget must be more than 0.')
  })

  it('takes the change that advice offers, told as an order', () => {
    const draft: LineDraft = {
      ...DRAFT,
      hours: { clock: 'viewer', perMille: new Array<number>(168).fill(0).map((_, hour) => (hour % 2) * 1000) },
      gapMinutes: 30
    }
    expect(withChanges(draft, [{ kind: 'bid', micros: 3_000_000 }]).price).toMatchObject({ bidMicros: 3_000_000, maxMicros: 3_000_000 })
    expect(withChanges(draft, [{ kind: 'maximum', micros: 3_000_000 }]).price.maxMicros).toBe(3_000_000)
    expect(withChanges(draft, [{ kind: 'daily budget', micros: 9_000_000 }]).budget.dailyMicros).toBe(9_000_000)
    expect(withChanges(draft, [{ kind: 'cap', cap: 0, times: 4 }]).caps).toEqual([{ times: 4, hours: 24 }])
    expect(withChanges(draft, [{ kind: 'cap', cap: 0, times: null }]).caps).toEqual([])
    expect([withChanges(draft, [{ kind: 'gap', minutes: null }]).gapMinutes, withChanges(draft, [{ kind: 'hours' }]).hours]).toEqual([
      null,
      null
    ])
    expect(withChanges(draft, [{ kind: 'restriction', place: 0 }]).targeting.restrictions).toEqual([])
    const words = [
      { kind: 'bid', micros: 3_210_000 },
      { kind: 'cap', cap: 0, times: null },
      { kind: 'hours' },
      { kind: 'restriction', place: 0 },
      { kind: 'gap', minutes: null },
      { kind: 'daily budget', micros: 9_000_000 },
      { kind: 'maximum', micros: 1_000_000 },
      { kind: 'cap', cap: 0, times: 5 }
    ] as const
    expect(words.map((change) => changeWords(draft, [change]))).toEqual([
      'raise the bid to 3.21',
      'drop the cap of 2 in 24 hours',
      'open all hours',
      'lift where: Portugal',
      'drop the gap between two showings',
      'raise the daily budget to 9.00',
      'raise the maximum to 1.00',
      'cap at 5 in 24 hours'
    ])
    expect(
      changesBetween(draft, { ...draft, hours: null, buys: { open: true, deals: [301] } }).map(
        (change) => `${change.field}: ${change.before} to ${change.after}`
      )
    ).toEqual([
      'buys: on the open market to on the open market and by 1 deal',
      "hours: in 84 of 168 hours of the viewer's time to at all hours"
    ])
  })
})

describe('creatives of every kind', () => {
  it('are checked by their kind, and say which slots they fit', () => {
    const video = (width: number) => ({
      name: 'v',
      kind: 'video' as const,
      parts: { file: 'https://x.example/a.mp4', seconds: 20, width, height: 360, skipAfter: null, companion: null }
    })
    expect(creativeSchema.isValidSync(video(1920), { strict: true })).toBe(true)
    expect(fittingShapes(video(640))).toEqual(['small player', 'medium player'])
    expect(fittingShapes({ name: 'i', kind: 'interstitial', parts: { upright: false, file: 'a.png' } })).toEqual(['interstitial, wide'])
    expect(partsSchema('pop page').isValidSync({ link: 'http://x.example' }, { strict: true })).toBe(false)
    expect(creativeSchema.isValidSync({ name: 'x', kind: 'poem', parts: {} }, { strict: true })).toBe(false)
  })
})

describe('the order of application', () => {
  const adjusted: LinePrice = {
    model: 'CPM',
    bidMicros: 1_900_000,
    maxMicros: 2_000_000,
    repeatDiscount: 120,
    adjustments: [
      { dimension: 'device', value: 'tablet', perMille: 800, ownMicros: null },
      { dimension: 'where', value: 'PT', perMille: 1100, ownMicros: null },
      { dimension: 'size', value: '300x250', perMille: null, ownMicros: 2_100_000 }
    ]
  }
  const when = { day: 60, daysLive: 0, impressions: 0 }

  it('is base or own price, adjustments in the order of the dimensions, hour, repeats, maximum; floored after each', () => {
    expect(
      explainBid({ ...adjusted, maxMicros: 3_000_000 }, [true, true, false], 1250, 1, when).map(({ what, micros }) => [what.kind, micros])
    ).toEqual([
      ['base', 1_900_000],
      ['multiplier', 2_090_000],
      ['multiplier', 1_672_000],
      ['hour', 2_090_000],
      ['repeat', 1_839_000]
    ])
    expect(explainBid(adjusted, [false, false, true], 1000, 0, when).map(({ what, micros }) => [what.kind, micros])).toEqual([
      ['base', 1_900_000],
      ['own', 2_100_000],
      ['maximum', 2_000_000]
    ])
  })

  it('ends at the bid that the exchange would make, whatever applies', () => {
    const below = numbers(9)
    for (let n = 0; n < 300; n++) {
      const draft = randomLine(below)
      if (draft.price.bidMicros === null) continue
      const own: LinePrice = { ...draft.price, bidMicros: draft.price.bidMicros, steps: [] }
      const adjustments = own.adjustments ?? []
      const applies = adjustments.map(() => below(2) === 0)
      const hour = [1000, 850, 0, 2000][below(4)]
      const seen = below(4)
      const programme = new PriceProgramme(own, catalogue)
      const failed = applies.reduce((bits, applied, place) => (applied ? bits : bits | (1 << place)), 0)
      const wanted = programme.eventBid(baseUnits(own.model, own.bidMicros), programme.chainOf(failed), hour, seen)
      const unit = own.model === 'CPM' ? 1000 : 1
      expect(explainBid(own, applies, hour, seen, when).at(-1)?.micros).toBe(wanted * unit)
    }
  })

  it('breaks even at the value of an impression, and is the same price in each way of paying', () => {
    const worth = breakEven({ clickRate: 0.01, viewRate: 0.5, conversionRate: 0.1, payoutMicros: 20_000_000 })
    expect(worth).toEqual({ cpmMicros: 20_000_000, clickMicros: 2_000_000, viewMicros: 40_000 })
    for (const [model, micros] of [
      ['CPM', worth.cpmMicros],
      ['CPC', worth.clickMicros],
      ['view', worth.viewMicros ?? 0]
    ] as const)
      expect(inEachWay(model, micros, { clickRate: 0.01, viewRate: 0.5 })).toEqual({
        cpmMicros: 20_000_000,
        clickMicros: 2_000_000,
        viewMicros: 40_000
      })
    expect(breakEven({ clickRate: 0, viewRate: 0, conversionRate: 0.1, payoutMicros: 20_000_000 })).toEqual({
      cpmMicros: 0,
      clickMicros: 2_000_000,
      viewMicros: null
    })
    expect(inEachWay('CPM', 1_000_000, { clickRate: 0, viewRate: 0 })).toEqual({
      cpmMicros: 1_000_000,
      clickMicros: null,
      viewMicros: null
    })
  })
})

describe('a price paid in another way', () => {
  const price = { model: 'CPM' as const, bidMicros: 1_100_000, maxMicros: 1_500_000 }
  const rates = { clickRate: 0.0011, viewRate: 0.5 }

  it('converts its amounts at what is assumed, and says so', () => {
    const { price: clicks, assumed } = withModel({ price }, 'CPC', rates)
    expect(clicks).toMatchObject({ model: 'CPC', bidMicros: 1_000_000, maxMicros: 1_360_000 })
    expect(assumed).toBe('1.10 CPM is 1.00 a click at 0.11 % of impressions clicked, as forecast.')
    expect(withModel({ price }, 'view', rates).price.bidMicros).toBe(2200)
    expect(withModel({ price }, 'visit', rates)).toMatchObject({
      price: { bidMicros: 1100 },
      assumed: '1.10 CPM is 0.0011 a visit, since every win is a visit.'
    })
  })

  it('keeps no amount under a unit that it does not have', () => {
    const full = {
      ...price,
      follow: true,
      adjustments: [
        { dimension: 'device' as const, value: 'phone', perMille: 1200, ownMicros: null },
        { dimension: 'device' as const, value: 'desktop', perMille: null, ownMicros: 2_000_000 }
      ],
      steps: [{ after: 'days live' as const, from: 3, bidMicros: 900_000 }]
    }
    const { price: emptied, assumed } = withModel({ price: full }, 'CPC', null)
    expect(emptied).toMatchObject({ bidMicros: null, maxMicros: null, follow: false, adjustments: [full.adjustments[0]], steps: [] })
    expect(assumed).toBeNull()
    expect(withModel({ price: full }, 'CPC', rates).price).toMatchObject({
      adjustments: [{}, { ownMicros: 1_820_000 }],
      steps: [{ bidMicros: 818_000 }]
    })
    // An ad's own bid is in the unit of its line's price.
    const ads = [
      { ad: 1, bidMicros: 2_000_000 },
      { ad: 2, weight: 3, bidMicros: 1_100_000 },
      { ad: 3, off: true }
    ]
    expect(withModel({ price: full, ads }, 'CPC', rates).ads).toEqual([
      { ad: 1, bidMicros: 1_820_000 },
      { ad: 2, weight: 3, bidMicros: 1_000_000 },
      { ad: 3, off: true }
    ])
    expect(withModel({ price: full, ads }, 'CPC', null).ads).toEqual([
      { ad: 2, weight: 3 },
      { ad: 3, off: true }
    ])
    // There and back is the same price, but for its digits.
    fc.assert(
      fc.property(fc.integer({ min: 1000, max: 90_000_000 }), fc.double({ min: 1e-4, max: 1, noNaN: true }), (micros, rate) => {
        const there = withModel({ price: { ...price, bidMicros: micros, maxMicros: null } }, 'CPC', {
          clickRate: rate,
          viewRate: rate
        }).price
        if (there.bidMicros === null) return
        const back = withModel({ price: there }, 'CPM', { clickRate: rate, viewRate: rate }).price.bidMicros ?? 0
        expect(Math.abs(back - micros)).toBeLessThan(0.012 * micros + 1000 + (500 / there.bidMicros) * micros)
      })
    )
  })
})
