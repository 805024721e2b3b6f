import { SIZES } from './display.js'
import { type FormatEntry, type PriceModel, type ShapeEntry } from './format.js'
import { TABLE } from './table.js'

export { PRICE_MODELS, type KindEntry, type PriceModel, type SlotEntry } from './format.js'

export type Format = keyof typeof TABLE
/** What an ad must be to fit a slot. */
export type Shape = { [Name in Format]: keyof (typeof TABLE)[Name]['shapes'] }[Format]

/** Each format as the market has it: what a buyer knows of it is also below, under names of its own. */
export const FORMAT_TABLE: Readonly<Record<Format, FormatEntry>> = TABLE

/** The position of a value is the number that columns hold. */
export const FORMATS = Object.keys(TABLE) as readonly Format[]
export const DISPLAY_SIZES = Object.keys(SIZES) as readonly (keyof typeof SIZES)[]

const shapesIn = (format: Format) => Object.keys(FORMAT_TABLE[format].shapes) as readonly Shape[]
/** Shapes of all formats. Display sizes come first, so that a display size keeps its number. */
export const SHAPES = FORMATS.flatMap(shapesIn)
export const SHAPE_TABLE = Object.fromEntries(FORMATS.flatMap((format) => Object.entries(FORMAT_TABLE[format].shapes))) as Readonly<
  Record<Shape, ShapeEntry>
>

/** Format of each shape, by position in `SHAPES`. */
export const SHAPE_FORMAT: readonly number[] = FORMATS.flatMap((name, format) => shapesIn(name).map(() => format))

/** Shapes of a format. */
export function shapesOf(format: Format): readonly Shape[] {
  return shapesIn(format)
}

/** What an amount is for, in each way of paying. */
export const MODEL_WORDS: Readonly<Record<PriceModel, string>> = { CPM: 'CPM', CPC: 'a click', view: 'a view', visit: 'a visit' }

/** Price models that the inventory of each format offers. */
export const MODELS_OF = Object.fromEntries(FORMATS.map((format) => [format, FORMAT_TABLE[format].models])) as Readonly<
  Record<Format, readonly PriceModel[]>
>

/** The one that a line begins with. */
export const USUAL_MODEL = Object.fromEntries(FORMATS.map((format) => [format, FORMAT_TABLE[format].usualModel])) as Readonly<
  Record<Format, PriceModel>
>

/** What is watched or heard from a beginning to an end, so that it has a view point. */
export const isWatched = (format: Format) => FORMAT_TABLE[format].watched !== undefined
/** Formats whose page is the ad, by their number: whoever is shown it has come. */
export const ARRIVES: readonly boolean[] = FORMATS.map((format) => FORMAT_TABLE[format].arrives ?? false)
export const isFilm = (format: Format | null | undefined) => format != null && (FORMAT_TABLE[format]?.watched?.isFilm ?? false)
/** Formats that are films, by their number. */
export const IS_FILM: readonly boolean[] = FORMATS.map(isFilm)
