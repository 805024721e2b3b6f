import { describe, expect, it } from 'vitest'
import { Exchange, NO_LIMITS, type LineRules } from '../src/exchange/index.js'
import { FULL, makeDay, makeWorld } from '../src/market/index.js'
import { countRatioRange } from '../src/report/index.js'
import { FORMATS, SHAPE_FORMAT } from '../src/taxonomy/index.js'
import { lineRules, one, opening, runHours } from './support/lines.js'

/** A quarter of the market, and a quarter of ten euro a day. */
const PEOPLE = FULL.people / 4
const DAILY = 10_000_000 / 4

describe('bargains', () => {
  it('are found by the results of a week at ten euro a day: a stay costs well under what it does elsewhere', () => {
    const world = makeWorld({ ...FULL, people: PEOPLE })
    const bargains = world.inventory.placements.filter(({ bargain, shape }) => bargain && FORMATS[SHAPE_FORMAT[shape]] === 'display')
    expect(bargains.length).toBeGreaterThan(4)
    const values = bargains.map(({ index }) => String(index))
    const line = (number: number, mode: 'include' | 'exclude'): LineRules =>
      lineRules(number, {
        targeting: {
          restrictions: [
            { dimension: 'placement', mode, values },
            { dimension: 'where', mode: 'include', values: ['DE', 'AT', 'CH', 'FR', 'NL', 'BE', 'GB', 'US', 'CA'] }
          ]
        },
        price: { model: 'CPM', bidMicros: 1_000_000, maxMicros: null },
        limits: { ...NO_LIMITS, dailyMicros: DAILY },
        demandMicros: DAILY
      })
    const lines = [line(1, 'include'), line(2, 'exclude')]
    const owners = lines.map(({ line: number, zone }) => ({ line: number, campaign: 1, advertiser: 1, zone }))
    const hours = runHours(new Exchange(world, { ...one(lines[0]), lines, owners, campaigns: [] }, opening(), makeDay), 7 * 24)
    const [own, others] = lines.map(({ line: number }) => {
      const totals = hours.flatMap(({ hourTotals }) => hourTotals.filter((total) => total.line === number))
      const sum = (value: (total: (typeof totals)[number]) => number) => totals.reduce((all, total) => all + value(total), 0)
      return { spend: sum((total) => total.spendMicros), stays: sum((total) => total.stays) }
    })
    expect(own.spend).toBeGreaterThan(5 * DAILY)
    // Stays against those that the same money brings elsewhere, with what chance leaves open.
    const elsewhere = (others.stays * own.spend) / others.spend
    const { low, value } = countRatioRange(own.stays, elsewhere, others.stays)
    expect(value).toBeGreaterThan(1.4)
    expect(low).toBeGreaterThan(1)
  }, 120_000)
})
