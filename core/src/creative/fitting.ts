import { DISPLAY_SIZES, type Shape } from '../taxonomy/index.js'
import type { FileFacts } from './facts.js'
import { fileVerdict, findingWords } from './findings.js'
import { BANNER_SLOTS, SPECIFICATION } from './specification.js'

/** Slot size that a picture fills: its own, or a half or a third of it for a picture made for dense screens. */
export function slotSizeOf({ width, height }: { width: number | null; height: number | null }): string | null {
  if (width === null || height === null) return null
  const sizes: readonly string[] = DISPLAY_SIZES
  return [1, 2, 3].map((times) => `${width / times}x${height / times}`).find((size) => sizes.includes(size)) ?? null
}

/** The interstitial that a picture fills; null where it fills none. */
export function interstitialOf({ medium, width, height }: FileFacts): Shape | null {
  const shapes = ['interstitial, upright', 'interstitial, wide'] as const
  const fills = (shape: Shape) =>
    SPECIFICATION[shape].some(({ exact }) => exact?.times.some((times) => width === exact.width * times && height === exact.height * times))
  return medium === 'picture' ? (shapes.find(fills) ?? null) : null
}

/**
 * What is wrong with a picture for the slots of a line, in words; null when nothing is.
 * @param wanted sizes of the line it is for; any when empty
 */
export function pictureProblem(facts: FileFacts, wanted: readonly string[]): string | null {
  if (facts.medium !== 'picture' && facts.medium !== 'banner')
    return `A display line shows pictures and banners; this is a ${facts.medium}.`
  const would = wanted.length > 0 ? wanted : facts.medium === 'banner' ? Object.values(BANNER_SLOTS) : DISPLAY_SIZES
  const size = facts.medium === 'banner' ? (BANNER_SLOTS[`${facts.width}x${facts.height}`] ?? null) : slotSizeOf(facts)
  if (size === null || !(would as readonly string[]).includes(size)) {
    const whose = wanted.length > 0 ? 'of this line' : 'of the market'
    const dense = facts.medium === 'picture' ? ', or two or three times that' : ''
    const is = facts.width === null ? 'What says no size' : `${facts.width}x${facts.height}`
    return `${is} fits no slot ${whose}. These would: ${would.join(', ')}${dense}.`
  }
  return problemOf(facts, [size as Shape])
}

/** What keeps a file from all of some shapes, in words; null where one takes it. */
export function problemOf(facts: FileFacts, shapes: readonly Shape[]): string | null {
  const { takes, findings } = fileVerdict(facts, shapes)
  if (takes.length > 0) return null
  return findingWords(findings) ?? `A ${facts.medium} is nothing that ${shapes.join(', ')} takes.`
}
