import sharp, { type Sharp } from 'sharp'
import { SPECIFICATION, cropFor, cropWithin, densityFor, type FileFacts, type PictureFit } from '@tin-harbor/core/creative'
import type { FitOptions } from './film-fitting.js'

const QUALITY = { least: 40, most: 92 }
/** Halvings of the span of qualities: to the whole number. */
const LOOKS = 6

interface MadePicture {
  shape: string
  part: string
  width: number
  height: number
  data: Buffer
}

/** As a PNG where that is light enough, else as the best JPEG that is; null where none is. */
async function underWeight(picture: Sharp, hasAlpha: boolean, mostBytes: number): Promise<Buffer | null> {
  const png = await picture.clone().png({ compressionLevel: 9, palette: false }).toBuffer()
  if (png.length <= mostBytes) return png
  const lossy = (quality: number) =>
    hasAlpha ? picture.clone().webp({ quality }).toBuffer() : picture.clone().jpeg({ quality, mozjpeg: true }).toBuffer()
  let [low, high] = [QUALITY.least, QUALITY.most]
  let best: Buffer | null = null
  for (let look = 0; look < LOOKS && low <= high; look++) {
    const quality = Math.round((low + high) / 2)
    const made = await lossy(quality)
    if (made.length <= mostBytes) {
      best = made
      low = quality + 1
    } else high = quality - 1
  }
  return best
}

/**
 * Pictures for slots, cut from one with its focal point kept, each at the highest density that needs no enlarging and under the slot's
 * weight. What a camera wrote into the file, where it was taken included, is left out.
 */
export async function fitPicture(
  path: string,
  { width, height }: FileFacts,
  { slots, focal }: PictureFit,
  { signal, onShare }: FitOptions
): Promise<MadePicture[]> {
  if (width === null || height === null) return []
  const made: MadePicture[] = []
  const upright = await sharp(path).rotate().toBuffer()
  const { hasAlpha } = await sharp(upright).metadata()
  for (const [n, { shape, part, crop: byHand }] of slots.entries()) {
    signal.throwIfAborted()
    onShare(n / slots.length)
    const one = SPECIFICATION[shape].find((other) => other.medium === 'picture' && other.part === part)
    if (!one) continue
    const ratio = one.exact ? one.exact.width / one.exact.height : (one.ratios[0] as number)
    const crop = byHand ? cropWithin(width, height, ratio, byHand) : cropFor(width, height, ratio, focal)
    const most = one.most ?? { width: crop.width, height: crop.height }
    const times = one.exact ? densityFor(crop, one.exact, one.exact.times) : 1
    const wide = one.exact ? one.exact.width * times : Math.max(one.least?.width ?? 1, Math.min(most.width, crop.width))
    const tall = one.exact ? one.exact.height * times : Math.round(wide / ratio)
    const cut = sharp(upright).extract(crop).resize(wide, tall, { fit: 'fill' })
    const data = await underWeight(cut, hasAlpha ?? false, one.mostBytes)
    if (data) made.push({ shape, part, width: wide, height: tall, data })
  }
  return made
}
