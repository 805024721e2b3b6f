import { InputError, linesOfText, parseInput, yup } from '../input/index.js'
import { letters } from './letters.js'
import { BANNER_SLOTS } from './specification.js'
import { TEXTS } from './texts.js'
import { DISPLAY_SIZES, shapesOf, type Format, type Shape } from '../taxonomy/index.js'

const text = (what: string, most: number) =>
  yup
    .string()
    .trim()
    .required(`${what} is needed.`)
    .test('letters', `${what} has at most ${most} letters.`, (value) => letters(value) <= most)
const limited = ({ what, most }: { what: string; most: number }) => text(what, most)
/** A text that an ad may go without. */
const perhaps = ({ what, most }: { what: string; most: number }) =>
  yup
    .string()
    .trim()
    .min(1, `${what} is left out rather than empty.`)
    .test('letters', `${what} has at most ${most} letters.`, (value) => !value || letters(value) <= most)
    .nullable()
    .optional()
const address = (what: string) =>
  text(what, 1000).matches(
    /^https:\/\/[\p{L}\d-]+(\.[\p{L}\d-]+)+(:\d{1,5})?([/?#]\S*)?$/u,
    `${what} must be an address that begins with https://.`
  )
/** A file of the library by the hash of its content, or an address elsewhere. */
const fileName = (what: string) =>
  text(what, 1000).matches(
    /^(sha256:[0-9a-f]{64}|https:\/\/[\p{L}\d-]+(\.[\p{L}\d-]+)+(:\d{1,5})?([/?#]\S*)?)$/u,
    `${what} must be a file of the library, or an address that begins with https://.`
  )
const seconds = (what: string, least: number, most: number) =>
  yup.number().required(`${what} is needed.`).min(least, `${what} is at least ${least} s.`).max(most, `${what} is at most ${most} s.`)
const size = yup.string().oneOf(DISPLAY_SIZES, 'Not a slot size of the market.').required()

interface KindEntry {
  /** Format that it is bought as. */
  format: Format
  parts: yup.ObjectSchema<object>
  /** Slot shapes that it fits. */
  fits: (parts: never) => readonly Shape[]
}
const kind = <Parts extends object>(
  format: Format,
  parts: yup.ObjectSchema<Parts>,
  fits: (parts: Parts) => readonly Shape[]
): { format: Format; parts: yup.ObjectSchema<Parts>; fits: (parts: Parts) => readonly Shape[] } => ({ format, parts, fits })

/** Least width of a film for each player of the market. */
const PLAYER_WIDTHS: Readonly<Partial<Record<Shape, number>>> = { 'small player': 0, 'medium player': 640, 'large player': 1280 }

/** What an ad is made of, by kind. A part names a file of the library by what it holds, or one elsewhere by its address. */
const KINDS = {
  picture: kind('display', yup.object({ size, file: text('The file', 190) }).noUnknown(), (parts) => [parts.size]),
  html5: kind(
    'display',
    yup
      .object({
        size: yup.string().oneOf(Object.keys(BANNER_SLOTS), 'Not a slot size of the market.').required(),
        file: fileName('The file')
      })
      .noUnknown(),
    (parts) => [BANNER_SLOTS[parts.size]]
  ),
  markup: kind(
    'display',
    yup
      .object({ size, markup: linesOfText(50_000, 'The markup has at most 50,000 letters.').required('The markup is needed.') })
      .noUnknown(),
    (parts) => [parts.size]
  ),
  interstitial: kind(
    'display',
    yup.object({ upright: yup.boolean().required(), file: fileName('The file') }).noUnknown(),
    ({ upright }) => [upright ? 'interstitial, upright' : 'interstitial, wide']
  ),
  native: kind(
    'native',
    yup
      .object({
        headline: limited(TEXTS.native.headline),
        longHeadline: limited(TEXTS.native.longHeadline),
        text: limited(TEXTS.native.text),
        brand: limited(TEXTS.native.brand),
        icon: fileName('The icon'),
        picture: fileName('The picture'),
        button: limited(TEXTS.native.button)
      })
      .noUnknown(),
    () => ['native card', 'native row']
  ),
  notification: kind(
    'native',
    yup
      .object({
        title: limited(TEXTS.notification.title),
        text: limited(TEXTS.notification.text),
        icon: fileName('The icon'),
        picture: fileName('The picture').nullable().defined()
      })
      .noUnknown(),
    () => ['notification']
  ),
  video: kind(
    'video',
    yup
      .object({
        file: fileName('The file'),
        seconds: seconds('The length', 3, 180),
        width: yup.number().integer().min(256).max(3840).required(),
        height: yup.number().integer().min(144).max(2160).required(),
        skipAfter: yup.number().min(3, 'A skip button comes after 3 s at the earliest.').max(60).nullable().defined(),
        companion: size.nullable().defined(),
        /** What stands over the film to be clicked, and the second from which it does. */
        overlay: perhaps(TEXTS.video.overlay),
        overlayFrom: yup.number().min(0, 'A film begins at 0 s.').max(180, 'No film is that long.').nullable().optional(),
        /** What is shown when the film is over, or was skipped. */
        endCard: fileName('The end card').nullable().optional(),
        icon: fileName('The icon').nullable().optional()
      })
      .noUnknown(),
    ({ width }) => shapesOf('video').filter((shape) => width >= (PLAYER_WIDTHS[shape] ?? 0))
  ),
  audio: kind(
    'audio',
    yup
      .object({
        file: fileName('The file'),
        seconds: seconds('The length', 5, 60),
        companion: size.nullable().defined(),
        /** What the player says while the spot is heard. */
        tagline: perhaps(TEXTS.audio.tagline),
        button: perhaps(TEXTS.audio.button)
      })
      .noUnknown(),
    () => ['audio spot']
  ),
  'pop page': kind('pop', yup.object({ link: address('The page') }).noUnknown(), () => ['whole page']),
  redirect: kind('pop', yup.object({ link: address('The page') }).noUnknown(), () => ['redirect visit'])
} satisfies Record<string, KindEntry>

export type CreativeKind = keyof typeof KINDS
export const CREATIVE_KINDS = Object.keys(KINDS) as readonly CreativeKind[]

/** The schema of a kind's parts. */
export function partsSchema<K extends CreativeKind>(name: K): (typeof KINDS)[K]['parts'] {
  return KINDS[name].parts
}

/** A creative as a row: its kind and its parts, checked by the kind's schema. */
export const creativeSchema = yup
  .object({
    name: text('The name', 190),
    kind: yup.string().oneOf(CREATIVE_KINDS).required(),
    parts: yup
      .mixed<object>()
      .required()
      .test('parts', '', function (parts) {
        const { kind: name } = this.parent as { kind?: CreativeKind }
        if (!name || !(name in KINDS)) return true
        try {
          parseInput<unknown>(KINDS[name].parts, parts, '')
          return true
        } catch (error) {
          if (!(error instanceof InputError)) throw error
          // All that is wrong, each by its own field.
          return new yup.ValidationError(
            error.issues.map(({ field, message }) => this.createError({ path: field ? `${this.path}.${field}` : this.path, message }))
          )
        }
      })
  })
  .noUnknown()
export type CreativeDraft = yup.InferType<typeof creativeSchema>

/** Slot shapes that a creative fits. */
export function fittingShapes({ kind: name, parts }: CreativeDraft): readonly Shape[] {
  return (KINDS[name] as KindEntry).fits(parts as never)
}

/** Format that a kind is bought as. */
export const FORMAT_OF_KIND = Object.fromEntries(CREATIVE_KINDS.map((name) => [name, KINDS[name].format])) as Readonly<
  Record<CreativeKind, Format>
>
