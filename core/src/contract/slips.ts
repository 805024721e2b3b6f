import { LINE_STATES } from '../buying/states.js'
import { list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'
import { fieldChange, finding } from './lines.js'

/** A line with edits that are not live. */
export const stagedLine = shape({
  line: number(),
  code: text(),
  name: text(),
  campaign: text(),
  state: oneOf(LINE_STATES),
  changes: list(fieldChange),
  findings: list(finding),
  /** What was learned that the edits would make useless, in words; empty for nothing. */
  forgets: text()
})
export type StagedLine = TypeOf<typeof stagedLine>

const expected = shape({ wins: number(), spendMicros: number() })

/**
 * A day of a line as it is in force and with its edits, as both are forecast now; null where it cannot be told. Forty of them take a
 * while: they come after the edits.
 */
export const stagedForecast = shape({ line: number(), before: maybe(expected), after: maybe(expected) })
export type StagedForecast = TypeOf<typeof stagedForecast>

export const slipView = shape({
  id: number(),
  name: text(),
  state: oneOf(['open', 'live', 'taken back']),
  items: list(shape({ line: number(), fields: list(text()) })),
  madeBy: text(),
  liveHour: maybe(number()),
  /** Why it cannot be taken back; null where it can. */
  stands: maybe(text())
})
export type SlipView = TypeOf<typeof slipView>

export const slipsView = shape({ staged: list(stagedLine), slips: list(slipView) })
export type SlipsView = TypeOf<typeof slipsView>

export const slipLiveAnswer = shape({ id: number(), lines: number(), fromHour: number() })
