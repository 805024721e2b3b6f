import { PLATE_SHAPES, PLATE_TEXTS, plateSchema, type PlateText } from '../creative/index.js'
import { formOf, list, maybe, number, oneOf, shape, text, type TypeOf } from './shapes.js'

export const plateSummary = shape({ id: number(), name: text(), words: text() })
export type PlateSummary = TypeOf<typeof plateSummary>

/** A plate, and the pictures that were made of it. */
export const plateView = shape({
  id: number(),
  advertiserId: number(),
  version: number(),
  plate: formOf(plateSchema),
  /** Files of the library, the newest first, and the lines that show each. */
  made: list(shape({ file: number(), name: text(), shape: oneOf(PLATE_SHAPES), lines: list(number()) }))
})
export type PlateView = TypeOf<typeof plateView>

/** A plate in one size, as it is typed. */
export const plateDrawn = shape({
  shape: oneOf(PLATE_SHAPES),
  width: number(),
  height: number(),
  /** Pixels of the picture for one of the slot. */
  times: number(),
  bytes: number(),
  /** Its content in base 64; null where it cannot be built. */
  png: maybe(text()),
  without: list(oneOf(Object.keys(PLATE_TEXTS) as PlateText[])),
  problem: maybe(text())
})
export type PlateDrawn = TypeOf<typeof plateDrawn>

/** What came of making pictures of a plate. */
export const plateMade = shape({
  made: number(),
  there: number(),
  put: number(),
  replaced: number(),
  /** Sizes in which none could be made, or none was put on the line, and why. */
  refused: list(shape({ shape: text(), says: text() })),
  view: plateView
})
export type PlateMade = TypeOf<typeof plateMade>
