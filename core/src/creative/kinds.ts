import { InputError, linesOfText, parseInput, yup } from '../input/index.js'
import { DISPLAY_SIZES, shapesOf, type Format, type Shape } from '../taxonomy/index.js'

/** What an ad is made of, by kind. Files come later: a part names them by address or by what they hold. */
export const CREATIVE_KINDS = [
  'picture',
  'markup',
  'interstitial',
  'native',
  'notification',
  'video',
  'audio',
  'pop page',
  'redirect'
] as const
export type CreativeKind = (typeof CREATIVE_KINDS)[number]

const text = (what: string, most: number) =>
  yup.string().trim().required(`${what} is needed.`).max(most, `${what} has at most ${most} letters.`)
const address = (what: string) =>
  text(what, 1000).matches(
    /^https:\/\/[\p{L}\d-]+(\.[\p{L}\d-]+)+(:\d{1,5})?([/?#]\S*)?$/u,
    `${what} must be an address that begins with https://.`
  )
const seconds = (what: string, least: number, most: number) =>
  yup.number().required(`${what} is needed.`).min(least, `${what} is at least ${least} s.`).max(most, `${what} is at most ${most} s.`)
const size = yup.string().oneOf(DISPLAY_SIZES, 'Not a slot size of the market.').required()

const SCHEMAS = {
  picture: yup.object({ size, file: text('The file', 190) }).noUnknown(),
  markup: yup
    .object({ size, markup: linesOfText(50_000, 'The markup has at most 50,000 letters.').required('The markup is needed.') })
    .noUnknown(),
  interstitial: yup.object({ upright: yup.boolean().required(), file: text('The file', 190) }).noUnknown(),
  native: yup
    .object({
      title: text('The title', 50),
      text: text('The text', 140),
      sponsor: text('The sponsor', 30),
      icon: address('The icon'),
      picture: address('The picture'),
      button: text('The button', 20)
    })
    .noUnknown(),
  notification: yup
    .object({
      title: text('The title', 40),
      text: text('The text', 100),
      icon: address('The icon'),
      picture: address('The picture').nullable().defined()
    })
    .noUnknown(),
  video: yup
    .object({
      file: address('The file'),
      seconds: seconds('The length', 3, 180),
      width: yup.number().integer().min(256).max(3840).required(),
      height: yup.number().integer().min(144).max(2160).required(),
      skipAfter: yup.number().min(3, 'A skip button comes after 3 s at the earliest.').max(60).nullable().defined(),
      companion: size.nullable().defined()
    })
    .noUnknown(),
  audio: yup.object({ file: address('The file'), seconds: seconds('The length', 5, 60), companion: size.nullable().defined() }).noUnknown(),
  'pop page': yup.object({ link: address('The page') }).noUnknown(),
  redirect: yup.object({ link: address('The page') }).noUnknown()
} as const satisfies Record<CreativeKind, yup.ObjectSchema<object>>

export type CreativeParts<K extends CreativeKind> = yup.InferType<(typeof SCHEMAS)[K]>

/** The schema of a kind's parts. */
export function partsSchema<K extends CreativeKind>(kind: K): (typeof SCHEMAS)[K] {
  return SCHEMAS[kind]
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
        const { kind } = this.parent as { kind?: CreativeKind }
        if (!kind || !(kind in SCHEMAS)) return true
        try {
          parseInput<unknown>(SCHEMAS[kind], parts, '')
          return true
        } catch (error) {
          if (!(error instanceof InputError)) throw error
          const [{ field, message }] = error.issues
          return this.createError({ path: field ? `${this.path}.${field}` : this.path, message })
        }
      })
  })
  .noUnknown()
export type CreativeDraft = yup.InferType<typeof creativeSchema>

/** Slot shapes that a creative fits. */
export function fittingShapes({ kind, parts }: CreativeDraft): readonly Shape[] {
  switch (kind) {
    case 'picture':
    case 'markup':
      return [(parts as CreativeParts<'picture'>).size as Shape]
    case 'interstitial':
      return [(parts as CreativeParts<'interstitial'>).upright ? 'interstitial, upright' : 'interstitial, wide']
    case 'native':
      return ['native card', 'native row']
    case 'notification':
      return ['notification']
    case 'video': {
      const { width } = parts as CreativeParts<'video'>
      return shapesOf('video').filter((_, n) => width >= [0, 640, 1280][n])
    }
    case 'audio':
      return ['audio spot']
    case 'pop page':
      return ['whole page']
    case 'redirect':
      return ['redirect visit']
  }
}

/** Format that a kind is bought as. */
export const FORMAT_OF_KIND: Readonly<Record<CreativeKind, Format>> = {
  picture: 'display',
  markup: 'display',
  interstitial: 'display',
  native: 'native',
  notification: 'native',
  video: 'video',
  audio: 'audio',
  'pop page': 'pop',
  redirect: 'pop'
}
