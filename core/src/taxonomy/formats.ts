/** Formats, and what a slot of each looks like. The position of a value is the number that columns hold. */
export const FORMATS = ['display', 'native', 'video', 'audio', 'pop'] as const
export type Format = (typeof FORMATS)[number]

/** Display slots in CSS pixels, the shapes of the IAB fixed-size portfolio that this market sells. */
export const DISPLAY_SIZES = ['300x250', '728x90', '320x50', '300x600', '160x600', '970x250', '320x100', '336x280'] as const

/** What an ad must be to fit a slot. Display sizes come first, so that a display size keeps its number. */
export const SHAPES = [
  ...DISPLAY_SIZES,
  'interstitial, upright',
  'interstitial, wide',
  'native card',
  'native row',
  'notification',
  'small player',
  'medium player',
  'large player',
  'audio spot',
  'whole page',
  'redirect visit'
] as const
export type Shape = (typeof SHAPES)[number]

const FIRST: Readonly<Record<Format, number>> = { display: 0, native: 10, video: 13, audio: 16, pop: 17 }
const LAST: Readonly<Record<Format, number>> = { display: 9, native: 12, video: 15, audio: 16, pop: 18 }

/** Format of each shape, by position in `SHAPES`. */
export const SHAPE_FORMAT: readonly number[] = SHAPES.map((_, shape) =>
  FORMATS.findIndex((format) => shape >= FIRST[format] && shape <= LAST[format])
)

/** Shapes of a format. */
export function shapesOf(format: Format): readonly Shape[] {
  return SHAPES.slice(FIRST[format], LAST[format] + 1)
}

/** Where in a video or beside it a slot lies; the trade's terms. Other formats have none. */
export const VIDEO_POSITIONS = ['pre-roll', 'mid-roll', 'post-roll', 'outstream'] as const
export type VideoPosition = (typeof VIDEO_POSITIONS)[number]

/** What people pay for. `view` is a view of video or audio past the view point; `visit` is a pop's page opened. */
export const PRICE_MODELS = ['CPM', 'CPC', 'view', 'visit'] as const
export type PriceModel = (typeof PRICE_MODELS)[number]
/** What an amount is for, in each way of paying. */
export const MODEL_WORDS: Readonly<Record<PriceModel, string>> = { CPM: 'CPM', CPC: 'a click', view: 'a view', visit: 'a visit' }

/** Price models that the inventory of each format offers. */
export const MODELS_OF: Readonly<Record<Format, readonly PriceModel[]>> = {
  display: ['CPM', 'CPC'],
  native: ['CPM', 'CPC'],
  video: ['CPM', 'view'],
  audio: ['CPM', 'view'],
  pop: ['CPM', 'visit']
}
