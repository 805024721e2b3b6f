import { DISPLAY_SIZES, type Shape } from '../taxonomy/index.js'
import type { FileFacts } from './facts.js'
import { fileVerdict } from './findings.js'

/** Slot size that a picture fills: its own, or a half or a third of it for a picture made for dense screens. */
export function slotSizeOf({ width, height }: { width: number | null; height: number | null }): string | null {
  if (width === null || height === null) return null
  const sizes: readonly string[] = DISPLAY_SIZES
  return [1, 2, 3].map((times) => `${width / times}x${height / times}`).find((size) => sizes.includes(size)) ?? null
}

/**
 * What is wrong with a picture for the slots of a line, in words; null when nothing is.
 * @param wanted sizes of the line it is for; any when empty
 */
export function pictureProblem(facts: FileFacts, wanted: readonly string[]): string | null {
  if (facts.medium !== 'picture') return `A display line shows pictures; this is a ${facts.medium}.`
  const would = wanted.length > 0 ? wanted : DISPLAY_SIZES
  const size = slotSizeOf(facts)
  if (size === null || !(would as readonly string[]).includes(size)) {
    const whose = wanted.length > 0 ? 'of this line' : 'of the market'
    return `${facts.width}x${facts.height} fits no slot ${whose}. These would: ${would.join(', ')}, or two or three times that.`
  }
  return problemOf(facts, [size as Shape])
}

/** What keeps a file from all of some shapes, in words; null where one takes it. */
export function problemOf(facts: FileFacts, shapes: readonly Shape[]): string | null {
  const { takes, findings } = fileVerdict(facts, shapes)
  if (takes.length > 0) return null
  if (findings.length === 0) return `A ${facts.medium} is nothing that ${shapes.join(', ')} takes.`
  return findings.map(({ is, allowed }) => `It is ${is}; allowed is ${allowed}.`).join(' ')
}
