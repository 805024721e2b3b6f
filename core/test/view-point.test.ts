import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Exchange, benchmarksOf, openLog, type LineRules } from '../src/exchange/index.js'
import { mainFigures, workOut } from '../src/forecast/index.js'
import { makeWorld } from '../src/market/index.js'
import { DID, viewPoint, viewsAt } from '../src/response/index.js'
import { buildTape } from '../src/tape/index.js'
import { SHAPES, shapesOf } from '../src/taxonomy/index.js'
import { SMALL, START, campaignRules, lineRules, opening, runHours, sharedDay } from './support/lines.js'
import { DISPLAY, marketOf, question } from './support/questions.js'

const world = makeWorld({ ...SMALL, people: 40_000 })
const market = marketOf(world)
const shapes = shapesOf('video').map((shape) => SHAPES.indexOf(shape))

describe('the point at which a film counts as viewed', () => {
  it('is a share of its length, its end where it is shorter, and 30 s where nothing is said', () => {
    expect([viewPoint(6, 20), viewPoint(2, 60), viewPoint(15, 15), viewPoint(30, 12), viewPoint(0, 90)]).toEqual([
      300, 33, 1000, 1000, 1000
    ])
    expect([viewPoint(null, 20), viewPoint(undefined, 60)]).toEqual([1000, 500])
  })

  it('is reached by fewer the later it is, and never by more than who see the beginning', () => {
    const { benchmarks } = market
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1000 }), fc.integer({ min: 1, max: 1000 }), (a, b) => {
        const [early, late] = [viewsAt(benchmarks, Math.min(a, b)), viewsAt(benchmarks, Math.max(a, b))]
        early.forEach((views, group) => {
          expect(views).toBeGreaterThanOrEqual(late[group])
          expect(views).toBeLessThanOrEqual(1e6)
        })
      }),
      { numRuns: 40 }
    )
    expect(viewsAt(benchmarks, 1000)).toBe(benchmarks.views)
    expect(viewsAt(benchmarks, undefined)).toBe(benchmarks.views)
  })

  it('changes what is counted and nobody: all else that people do is the same', () => {
    const didOf = (point: number | undefined) => {
      const film = { shapes, ads: shapes.map((shape) => ({ ad: 1000 + shape, shape, weight: 1, viewPoint: point })), viewPoint: point }
      const banner = DISPLAY.map((shape) => ({ ad: 2000 + shape, shape, weight: 1 }))
      const lines = [film, { shapes: DISPLAY, ads: banner }].map((over, n) =>
        lineRules(n + 1, {
          targeting: { restrictions: [] },
          price: { model: 'CPM', bidMicros: 9_000_000, maxMicros: null },
          zone: 'UTC',
          endHour: null,
          ...over
        })
      )
      const owners = lines.map(({ line }) => ({ line, campaign: 1, advertiser: 1, zone: 'UTC' }))
      const exchange = new Exchange(world, { publication: 1, lines, campaigns: [campaignRules()], owners }, opening(), sharedDay)
      return runHours(exchange, 72).flatMap((facts) => [...openLog(facts.log, facts.wins, facts.crc).did])
    }
    const [early, late] = [didOf(100), didOf(undefined)]
    const views = (all: readonly number[]) => all.filter((did) => (did & DID.viewed) !== 0).length
    expect(views(early)).toBeGreaterThan(views(late))
    expect(late.some((did) => (did & DID.primed) !== 0)).toBe(true)
    expect(early.map((did) => did & ~DID.viewed)).toEqual(late.map((did) => did & ~DID.viewed))
  })

  it('decides what is counted and charged, as it was expected and forecast', () => {
    const bought = (over: Partial<LineRules>) => {
      const rules = lineRules(1, {
        shapes,
        targeting: { restrictions: [] },
        price: { model: 'view', bidMicros: 9000, maxMicros: null },
        zone: 'UTC',
        endHour: null,
        ads: shapes.map((shape) => ({ ad: 1000 + shape, shape, weight: 1, viewPoint: over.viewPoint })),
        ...over
      })
      const exchange = new Exchange(world, { publication: 1, lines: [rules], campaigns: [campaignRules()] }, opening(), sharedDay)
      const totals = runHours(exchange, 48).flatMap(({ hourTotals }) => hourTotals)
      const sum = (pick: (total: (typeof totals)[number]) => number) => totals.reduce((all, total) => all + pick(total), 0)
      return { wins: sum(({ wins }) => wins), views: sum(({ views }) => views), expected: sum(({ expectedViews }) => expectedViews) / 1e6 }
    }
    const [early, late] = [bought({ viewPoint: 100 }), bought({})]
    expect(early.views / early.wins).toBeGreaterThan(1.15 * (late.views / late.wins))
    for (const { views, expected } of [early, late]) expect(Math.abs(views / expected - 1)).toBeLessThan(0.2)
    const tape = buildTape(world, 59)
    const forecast = (over: object) =>
      mainFigures(
        workOut(
          question({
            shapes,
            targeting: { restrictions: [] },
            price: { model: 'view', bidMicros: 9000, maxMicros: null },
            endHour: START + 48,
            ...over
          }),
          tape,
          market
        )
      ).day
    const [soon, end] = [forecast({ viewPoint: 100 }), forecast({})]
    for (const [said, was] of [
      [soon, early],
      [end, late]
    ] as const)
      expect(Math.abs(said.views.value / said.wins.value / (was.views / was.wins) - 1)).toBeLessThan(0.15)
    // The same price a view is more an impression where views are likelier.
    expect(soon.wins.value).toBeGreaterThan(end.wins.value)
    // Bought by the thousand nothing but what is counted differs, by the compiled loops and the general ones alike.
    const cpm = { price: { model: 'CPM' as const, bidMicros: 4_000_000, maxMicros: null } }
    const [counted, whole] = [forecast({ ...cpm, viewPoint: 100 }), forecast(cpm)]
    expect(counted.wins).toEqual(whole.wins)
    expect(counted.views.value).toBeGreaterThan(whole.views.value)
    expect(benchmarksOf(world).views).toEqual(market.benchmarks.views)
  })
})
