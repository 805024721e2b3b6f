import { DISPLAY_SIZES } from '../taxonomy/index.js'
import { MOST_PICTURE_BYTES } from '../buying/index.js'

const PICTURE_TYPES = ['image/png', 'image/jpeg', 'image/gif', 'image/webp'] as const

/** What was read from a file's content, not from its name. */
export interface PictureFacts {
  type: string
  width: number
  height: number
  bytes: number
}

/** Slot size that a picture fills: its own, or half of it for a picture made for dense screens. */
export function slotSizeOf({ width, height }: Pick<PictureFacts, 'width' | 'height'>): string | null {
  const sizes: readonly string[] = DISPLAY_SIZES
  const own = `${width}x${height}`
  if (sizes.includes(own)) return own
  const half = `${width / 2}x${height / 2}`
  return sizes.includes(half) ? half : null
}

/**
 * What is wrong with a picture, in words; null when nothing is.
 * @param wanted sizes of the line it is for; any when empty
 */
export function pictureProblem(facts: PictureFacts, wanted: readonly string[]): string | null {
  if (!(PICTURE_TYPES as readonly string[]).includes(facts.type)) return 'Not a picture we take: PNG, JPEG, GIF or WebP.'
  const would = wanted.length > 0 ? wanted : DISPLAY_SIZES
  const size = slotSizeOf(facts)
  if (size === null || !(would as readonly string[]).includes(size)) {
    return `${facts.width}x${facts.height} fits no slot ${wanted.length > 0 ? 'of this line' : 'of the market'}. These would: ${would.join(', ')}, or twice that.`
  }
  if (facts.bytes > MOST_PICTURE_BYTES)
    return `The file has ${Math.ceil(facts.bytes / 1024)} kB; at most ${MOST_PICTURE_BYTES / 1024} kB are taken.`
  return null
}
export * from './crops.js'
export * from './facts.js'
export * from './findings.js'
export * from './kinds.js'
export * from './letters.js'
export * from './specification.js'
export * from './content.js'
