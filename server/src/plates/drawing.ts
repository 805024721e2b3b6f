import sharp from 'sharp'
import pLimit from 'p-limit'
import {
  SPECIFICATION,
  builtPlate,
  cropFor,
  type Box,
  type Built,
  type Paint,
  type PartSpecification,
  type Plate
} from '@tin-harbor/core/creative'
import type { Shape } from '@tin-harbor/core/taxonomy'
import { measureLetters, missingLetters, outlineOf } from './letters.js'

/** Pictures that a plate shows, by what they are to it. */
export interface PlatePictures {
  cover: Buffer | null
  image: Buffer | null
}

/** A plate in one size, drawn; without a picture where it cannot be. */
export interface Drawn {
  built: Built
  /** PNG. */
  data: Buffer | null
  /** Pixels of the picture for one of the slot. */
  times: number
}

/** Each draws on a thread of its own; more would only wait for the two processors. */
const drawing = pLimit(2)
/** Densities and colours that are tried, the best first, until a picture is light enough; no colours for as many as there are. */
const TRIES = [
  { times: 2, colours: 0 },
  { times: 2, colours: 256 },
  { times: 1, colours: 0 },
  { times: 1, colours: 256 },
  { times: 1, colours: 64 }
] as const
/** A picture of few colours is a third as heavy: one that would still be too heavy is not tried. */
const FEW_COLOURS = 1 / 3

/** Most pixels a side that any size needs of a picture, twice as dense. */
const MOST_SIDE = 2000

/** A picture upright and no larger than any size needs: it is cut for each of them. */
export const shrunk = (picture: Buffer): Promise<Buffer> =>
  sharp(picture).rotate().resize(MOST_SIDE, MOST_SIDE, { fit: 'inside', withoutEnlargement: true }).png({ compressionLevel: 1 }).toBuffer()

/** Draws a plate in all its sizes. A size in which it finds no room is told so, and keeps none of the others. */
export function drawPlate(plate: Plate, pictures: PlatePictures): Promise<Drawn[]> {
  const missing = missingLetters([plate.headline, plate.text, plate.brand, plate.button].join(''))
  return Promise.all(
    plate.sizes.map((shape) =>
      drawing(async (): Promise<Drawn> => {
        const built = builtPlate(plate, shape, measureLetters)
        if (missing.length > 0)
          return { built: { ...built, problem: `Our letters have no ${missing.slice(0, 6).join(' ')}.` }, data: null, times: 1 }
        if (built.problem !== null) return { built, data: null, times: 1 }
        return drawn(built, plate, pictures)
      })
    )
  )
}

async function drawn(built: Built, plate: Plate, pictures: PlatePictures): Promise<Drawn> {
  const most = SPECIFICATION[built.shape].find(({ medium }: PartSpecification) => medium === 'picture')?.mostBytes ?? 0
  const layers = new Map<number, sharp.Sharp>()
  const whole = new Map<number, number>()
  for (const { times, colours } of TRIES) {
    if (colours > 0 && (whole.get(times) ?? 0) * FEW_COLOURS > most && times > 1) continue
    const layer = layers.get(times) ?? sharp(Buffer.from(await svgOf(built, plate, pictures, times)))
    layers.set(times, layer)
    const data = await layer
      .clone()
      .flatten({ background: plate.ground })
      .png(colours > 0 ? { palette: true, colours, dither: 0.8, effort: 4, compressionLevel: 9 } : { compressionLevel: 9 })
      .toBuffer()
    if (data.length <= most) return { built, data, times }
    if (colours === 0) whole.set(times, data.length)
  }
  return { built: { ...built, problem: 'It is heavier than the slot takes, whatever is done.' }, data: null, times: 1 }
}

async function svgOf({ width, height, paints }: Built, plate: Plate, pictures: PlatePictures, times: number): Promise<string> {
  const parts: string[] = []
  for (const paint of paints) parts.push(await paintOf(paint, plate, pictures, times))
  const size = `width="${width * times}" height="${height * times}" viewBox="0 0 ${width} ${height}"`
  return `<svg xmlns="http://www.w3.org/2000/svg" ${size}>${parts.join('')}</svg>`
}

const boxOf = ({ x, y, width, height }: Box) => `x="${x}" y="${y}" width="${width}" height="${height}"`

async function paintOf(paint: Paint, plate: Plate, pictures: PlatePictures, times: number): Promise<string> {
  switch (paint.kind) {
    case 'fill':
      return `<rect ${boxOf(paint)} rx="${paint.radius}" fill="${paint.colour}" fill-opacity="${paint.opacity}"/>`
    case 'words':
      return paint.lines
        .map(({ text, x, y }) => `<g fill="${paint.colour}">${outlineOf(text, paint.weight, paint.size, x, y)}</g>`)
        .join('')
    case 'picture': {
      const source = pictures[paint.of]
      if (!source) return ''
      const data = await cutTo(source, paint, plate.focal, times)
      return `<image ${boxOf(paint)} preserveAspectRatio="none" href="data:image/png;base64,${data.toString('base64')}"/>`
    }
  }
}

/** A picture cut to fill a place, its point kept; or all of it, in the middle of the place. */
async function cutTo(
  source: Buffer,
  { width, height, whole }: Box & { whole: boolean },
  focal: Plate['focal'],
  times: number
): Promise<Buffer> {
  const [wide, tall] = [Math.max(1, Math.round(width * times)), Math.max(1, Math.round(height * times))]
  const picture = sharp(source)
  if (whole)
    return picture
      .resize(wide, tall, { fit: 'contain', background: { r: 0, g: 0, b: 0, alpha: 0 } })
      .png()
      .toBuffer()
  const { data, info } = await picture.toBuffer({ resolveWithObject: true })
  return sharp(data)
    .extract(cropFor(info.width, info.height, wide / tall, focal))
    .resize(wide, tall, { fit: 'fill' })
    .png()
    .toBuffer()
}

/** What a shape is called in the name of a file. */
export const sizeWords = (shape: Shape, { width, height }: Built): string =>
  shape.startsWith('interstitial') ? `${width}x${height} interstitial` : shape
