import { MIX_KINDS, mixSchema } from '../creative/index.js'
import { formOf, list, number, oneOf, shape, text, type TypeOf } from './shapes.js'

export const mixSummary = shape({ id: number(), name: text(), kind: oneOf(MIX_KINDS), words: text() })
export type MixSummary = TypeOf<typeof mixSummary>

/** A matrix, and what was made of it. */
export const mixView = shape({
  id: number(),
  advertiserId: number(),
  version: number(),
  mix: formOf(mixSchema),
  /** The creative of each combination, and the lines that show it. */
  made: list(shape({ cell: text(), creative: number(), lines: list(number()) })),
  /** Ads on lines that the matrix would not make as it is now. */
  stillOn: list(shape({ ad: number(), line: number() }))
})
export type MixView = TypeOf<typeof mixView>

/** How many ads were made, were there already, were put on the line, and came off it. */
export const mixMade = shape({ made: number(), there: number(), put: number(), taken: number(), view: mixView })
export type MixMade = TypeOf<typeof mixMade>
