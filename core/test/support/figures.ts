import type { MainFigures, Ranged } from '../../src/forecast/index.js'

const exact = (value: number): Ranged => ({ value, low: value, high: value })

/** Main figures in which only the spend of a day matters. */
export function figuresWith({ spendMicros, demandMicros }: { spendMicros: number; demandMicros: number }): MainFigures {
  const day = {
    matched: exact(9000),
    eligible: exact(8000),
    wins: exact(2000),
    spend: exact(spendMicros),
    winRate: exact(0.5),
    winShare: exact(0.2),
    cpm: exact(1e6),
    reach: exact(900),
    frequency: exact(2),
    views: exact(900),
    visits: exact(9),
    conversions: exact(0),
    people: [1, 1]
  }
  return {
    day,
    flight: { ...day, days: 7, replayedDays: 7, open: false, firstDay: 60 },
    ranks: { first: exact(0.5), second: exact(0.2), lower: exact(0.3) },
    demandMicros,
    binding: { kind: 'bid' },
    tapeWins: 900,
    tooFew: false,
    ownPricedADay: 0,
    tape: { firstDay: 40, days: 14 }
  }
}
