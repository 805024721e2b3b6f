import type { MainFigures } from '../forecast/index.js'
import type { yup } from '../input/index.js'
import { flag, list, number, oneOf, optional, shape, text } from './shapes.js'

/** Both ends of a range. */
export const interval = () => shape({ low: number(), high: number() })
/** A figure with its 80 % range. */
export const ranged = () => shape({ value: number(), low: number(), high: number() })
const figures = {
  matched: ranged(),
  eligible: ranged(),
  winRate: ranged(),
  winShare: ranged(),
  cpm: ranged(),
  frequency: ranged(),
  wins: ranged(),
  spend: ranged(),
  reach: ranged(),
  views: ranged(),
  visits: ranged(),
  conversions: ranged(),
  people: list(number())
}

/** The main figures of a forecast: see `MainFigures` for what each is. */
export const mainFigures = shape({
  day: shape(figures),
  flight: shape({ ...figures, days: number(), replayedDays: number(), open: flag(), firstDay: number() }),
  ranks: shape({ first: ranged(), second: ranged(), lower: ranged() }),
  demandMicros: number(),
  /** What decides how much is bought; of a limit whose it is, of which period and of what. */
  binding: shape({
    kind: oneOf(['limit', 'pace', 'cap', 'bid', 'supply']),
    whose: optional(oneOf(['line', 'campaign'])),
    period: optional(text()),
    what: optional(oneOf(['money', 'impressions']))
  }),
  tapeWins: number(),
  tooFew: flag(),
  ownPricedADay: number(),
  tape: shape({ firstDay: number(), days: number() })
}) as unknown as yup.Schema<MainFigures>
