import { LRUCache } from 'lru-cache'
import sharp from 'sharp'
import type { ContentStore } from '../files/content-store.js'

const known = new LRUCache<string, number>({ max: 5000 })
/** What is looked at of a picture, pixels each way, and the share of them that is its lightest and darkest part: letters take little. */
const [SIDE, HUNDREDTH] = [128, 0.01]

/** Relative luminance of a level of grey from 0 to 255 (WCAG 2.2). */
function luminance(level: number): number {
  const share = level / 255
  return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
}

/** Contrast of the lightest and the darkest hundredth of a picture, 1 to 21. @throws where it cannot be read */
export async function toneContrast(store: ContentStore, sha256: string): Promise<number> {
  const before = known.get(sha256)
  if (before !== undefined) return before
  const pixels = await sharp(await store.read(sha256), { pages: 1, limitInputPixels: 64_000_000 })
    .resize(SIDE, SIDE, { fit: 'fill' })
    .flatten({ background: '#ffffff' })
    .greyscale()
    .raw()
    .toBuffer()
  const levels = [...pixels].sort((a, b) => a - b)
  const mean = (part: readonly number[]) => part.reduce((sum, level) => sum + luminance(level), 0) / part.length
  const many = Math.max(1, Math.floor(levels.length * HUNDREDTH))
  const contrast = (mean(levels.slice(-many)) + 0.05) / (mean(levels.slice(0, many)) + 0.05)
  known.set(sha256, contrast)
  return contrast
}
