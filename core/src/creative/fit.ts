import { yup } from '../input/index.js'
import type { Shape } from '../taxonomy/index.js'
import { cropFor } from './crops.js'
import type { FileFacts } from './facts.js'
import { findingsOf, weightWords } from './findings.js'
import { SPECIFICATION, takenBy, type Bounds } from './specification.js'

const share = () => yup.number().min(0, 'The point lies in the picture.').max(1, 'The point lies in the picture.').required()
const focalPoint = yup.object({ x: share(), y: share() }).noUnknown()
const pixels = (what: string, least: number, most: number) =>
  yup
    .number()
    .integer(`${what} is a whole number of pixels.`)
    .min(least, `${what} is at least ${least}.`)
    .max(most, `${what} is at most ${most}.`)
    .required(`${what} is needed.`)

/** What is made of a film or a sound. */
export const filmFitSchema = yup
  .object({
    from: yup.number().min(0, 'The part begins in the film.').required('Where does the part begin?'),
    to: yup
      .number()
      .required('Where does the part end?')
      .test('after', 'The part ends after it begins.', function (to) {
        return to > (this.parent as { from: number }).from
      }),
    /** Moments of the part that are kept, one after the other; null keeps all of it. */
    moments: yup
      .array()
      .of(
        yup
          .object({ from: yup.number().min(0).required(), to: yup.number().required() })
          .noUnknown()
          .required()
      )
      .min(1, 'Which moments?')
      .max(12, 'At most 12 moments.')
      .nullable()
      .defined()
      .test('order', 'Moments follow one another, each ends after it begins.', (moments) => {
        const ends = (moments ?? []).flatMap(({ from, to }) => [from, to])
        return ends.every((end, n) => n === 0 || end > ends[n - 1] || (n % 2 === 0 && end === ends[n - 1]))
      }),
    /** Pixels of what is seen, and whether the whole is kept with bars beside it or a part of it fills it. */
    frame: yup
      .object({
        width: pixels('The width', 144, 3840),
        height: pixels('The height', 144, 2160),
        how: yup
          .string()
          .oneOf(['pad', 'crop'] as const, 'It is padded or cropped.')
          .required(),
        focal: focalPoint.required()
      })
      .noUnknown()
      .nullable()
      .defined(),
    /** Bytes of what is made, at most. */
    mostBytes: yup
      .number()
      .integer('A weight is whole bytes.')
      .min(100_000, 'Under 100 kB nothing is left of it.')
      .max(50 * 1024 * 1024, 'At most 50 MB are made.')
      .required('How heavy may it be?'),
    /** Loudness to be met, LUFS; null leaves it as it is. */
    level: yup.number().min(-30, 'The level is at least -30 LUFS.').max(-10, 'The level is at most -10 LUFS.').nullable().defined(),
    /** A silent track where there is none. */
    silence: yup.boolean().required()
  })
  .noUnknown()
export type FilmFit = yup.InferType<typeof filmFitSchema>

/** Pictures for slots, cut from one, the point that matters kept. */
export const pictureFitSchema = yup
  .object({
    slots: yup
      .array()
      .of(
        yup
          .object({
            shape: yup
              .string()
              .oneOf(Object.keys(SPECIFICATION) as Shape[], 'There is no such slot.')
              .required(),
            part: yup.string().required(),
            /** The part of the picture by hand, as shares of its width and height; null leaves it to the point. */
            crop: yup.object({ left: share(), top: share(), width: share(), height: share() }).noUnknown().nullable().default(null)
          })
          .noUnknown()
          .required()
      )
      .min(1, 'For which slots?')
      .max(30, 'At most 30 at once.')
      .required('For which slots?'),
    focal: focalPoint.required()
  })
  .noUnknown()
export type PictureFit = yup.InferType<typeof pictureFitSchema>

const middle = ({ least, most }: Bounds) => (least + most) / 2
const clock = (seconds: number) => {
  const whole = Math.floor(seconds)
  const tenths = Math.round((seconds - whole) * 10)
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}${tenths > 0 ? `.${tenths}` : ''}`
}

type Frame = NonNullable<FilmFit['frame']>
type Size = Pick<Frame, 'width' | 'height'>
/** Shorter sides of films that are made, the largest first. */
const SHORT_SIDES = [1080, 720, 480, 360] as const
const WIDE = 16 / 9
const even = (pixels: number) => Math.round(pixels / 2) * 2

/** The largest frame in a ratio that a slot takes and a film fills, where one is; else the smallest that it takes. */
function frameOf(ratio: number, least: Size | null, isFilled: (frame: Size) => boolean): Size {
  const frames = SHORT_SIDES.map((side) =>
    ratio >= 1 ? { width: even(side * ratio), height: side } : { width: side, height: even(side / ratio) }
  ).filter(({ width, height }) => !least || (width >= least.width && height >= least.height))
  return frames.find(isFilled) ?? frames[frames.length - 1]
}
const FOCAL = { x: 0.5, y: 0.5 }

/** A wide frame with bars: one side of it is the film's own, or less. */
function paddedFrame(width: number, height: number, least: Size): Frame {
  const frame = frameOf(WIDE, least, (one) => one.width <= width || one.height <= height)
  return { ...frame, how: 'pad', focal: FOCAL }
}

/**
 * A frame in a ratio that a part of a film fills; the part is enlarged only where the slot takes no frame as small as it.
 * @param ratio width by height
 */
export function frameIn({ width, height }: FileFacts, ratio: number, least: Size | null): Frame {
  const part = cropFor(width ?? 0, height ?? 0, ratio, FOCAL)
  return { ...frameOf(ratio, least, (one) => one.height <= part.height), how: 'crop', focal: FOCAL }
}

/**
 * What would make a film or a sound fit a slot: its first seconds, and what the slot finds in it mended. What it takes stays as it is.
 * @param source by whose limits; all that the slot takes where it is null
 */
export function fitFor(facts: FileFacts, shape: Shape, source: string | null = null): FilmFit | null {
  const one = takenBy(shape, source).find(({ medium }) => medium === facts.medium)
  if (!one?.seconds || facts.seconds === null) return null
  const broken = new Set(findingsOf(facts, one).map(({ rule }) => rule))
  const { width, height } = facts
  const isOff = broken.has('size') || broken.has('ratio')
  return {
    from: 0,
    to: Math.min(facts.seconds, one.seconds.most),
    moments: null,
    frame: isOff && width !== null && height !== null && one.least ? paddedFrame(width, height, one.least) : null,
    mostBytes: one.mostBytes,
    level: broken.has('loudness') && one.loudness ? middle(one.loudness) : null,
    silence: broken.has('sound')
  }
}

/** Seconds of what is made. */
export const lengthOf = ({ from, to, moments }: Pick<FilmFit, 'from' | 'to' | 'moments'>): number =>
  moments ? moments.reduce((sum, one) => sum + one.to - one.from, 0) : to - from

/** What will be done, in one sentence without its end. */
export function fitWords(facts: FileFacts, fit: FilmFit): string {
  const { from, to, moments, frame, mostBytes, level, silence } = fit
  const whole = facts.seconds !== null && from <= 0 && to >= facts.seconds - 0.05
  const does = [
    ...(moments
      ? [`${Math.round(lengthOf(fit) * 10) / 10} s of ${moments.length === 1 ? '1 moment' : `${moments.length} moments`}`]
      : whole
        ? []
        : [`cut to ${clock(from)}-${clock(to)}`]),
    ...(frame ? [`${frame.how === 'pad' ? 'padded' : 'cropped'} to ${frame.width}x${frame.height}`] : []),
    ...(facts.bytes > mostBytes ? [`brought under ${weightWords(mostBytes)}`] : []),
    ...(level === null ? [] : [`levelled to ${level} LUFS`]),
    ...(silence ? ['given a silent track'] : [])
  ]
  return does.join(', ') || 'written anew'
}
