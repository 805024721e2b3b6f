import { yup } from '../input/index.js'
import { DISPLAY_SIZES, type Shape } from '../taxonomy/index.js'
import { writingFindings, type WritingFinding } from './writing.js'

/** Slots of fixed pixels, for which pictures are built. */
export const PLATE_SHAPES = [...DISPLAY_SIZES, 'interstitial, upright', 'interstitial, wide'] as const satisfies readonly Shape[]

/**
 * How a plate is laid out. On a *shelf* words stand beside or under the picture, on the plate's colour; under a *veil* they stand on the
 * picture, over its colour half seen through; on a *label* they stand on a card laid upon it; *words* have all of it.
 */
export const LAYOUTS = ['shelf', 'veil', 'label', 'words'] as const
export type Layout = (typeof LAYOUTS)[number]

/** Texts of a plate, the longest that each may be. */
export const PLATE_TEXTS = {
  headline: { what: 'The headline', most: 60 },
  text: { what: 'The text', most: 90 },
  brand: { what: 'The brand', most: 25 },
  button: { what: 'The button', most: 20 }
} as const
export type PlateText = keyof typeof PLATE_TEXTS

const colour = (what: string) =>
  yup
    .string()
    .matches(/^#[0-9a-f]{6}$/, `${what} is written as #1f4a5c.`)
    .required(`${what} is needed.`)
const said = yup.string().max(400, 'A text has at most 400 letters.').defined()
const file = yup
  .string()
  .matches(/^(sha256:[0-9a-f]{64})?$/, 'Not a file of the library.')
  .defined()
const share = yup.number().min(0).max(1).required()

/** What pictures of every size are built of. Texts may be empty and too long in a draft. */
export const plateSchema = yup
  .object({
    name: yup.string().trim().required('The plate needs a name.').max(60, 'The name has at most 60 letters.'),
    layout: yup.string().oneOf(LAYOUTS, 'There is no such layout.').required(),
    headline: said,
    text: said,
    brand: said,
    button: said,
    /** What is shown, in a place of its own; empty for none. */
    image: file,
    /** Whether all of it is shown, on the ground; else it fills its place. */
    whole: yup.boolean().required(),
    /** What lies behind all; empty for none. */
    cover: file,
    /** The point of both that is kept when they are cut. */
    focal: yup.object({ x: share, y: share }).noUnknown().required(),
    ground: colour('The ground'),
    accent: colour('The colour of the button'),
    sizes: yup
      .array()
      .of(yup.string().oneOf(PLATE_SHAPES, 'Not a size that pictures are built in.').required())
      .min(1, 'In which sizes?')
      .max(PLATE_SHAPES.length, 'A size is named twice.')
      .required('In which sizes?')
      .test('once', 'A size is named twice.', (sizes) => new Set(sizes).size === sizes.length)
  })
  .noUnknown()
export type Plate = yup.InferType<typeof plateSchema>

/** What keeps a plate from being printed, or should be looked at, by its text. A headline is needed; all else may be left out. */
export function plateFindings(plate: Plate): (WritingFinding & { part: PlateText })[] {
  return (Object.keys(PLATE_TEXTS) as PlateText[]).flatMap((part) =>
    part === 'headline' || plate[part].trim() !== '' ? writingFindings(plate[part], PLATE_TEXTS[part]).map((one) => ({ ...one, part })) : []
  )
}

/** What people respond to in a picture that was built: its words and what it shows, whatever its size. */
export const plateParts = ({ headline, text, cover, image }: Plate) => ({
  headline,
  text: text.trim() || null,
  picture: image || cover || null
})
