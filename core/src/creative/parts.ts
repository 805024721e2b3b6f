import type { Shape } from '../taxonomy/index.js'
import type { FileFacts } from './facts.js'
import { findingWords, findingsOf } from './findings.js'
import type { CreativeDraft, CreativeKind } from './kinds.js'
import { BANNER_SLOTS, BESIDE_FILMS, takenBy, takenByDeal, type PartSpecification } from './specification.js'

/** Slot that says what the files of an ad must be; a film is held against each player by itself. */
const SLOT_OF: Readonly<Partial<Record<CreativeKind, (parts: Record<string, unknown>) => Shape>>> = {
  picture: ({ size }) => size as Shape,
  html5: ({ size }) => BANNER_SLOTS[size as string],
  interstitial: ({ upright }) => (upright ? 'interstitial, upright' : 'interstitial, wide'),
  native: () => 'native card',
  notification: () => 'notification',
  video: () => 'small player',
  audio: () => 'audio spot'
}
const NAME = /^sha256:([0-9a-f]{64})$/

/** Files of the library that an ad names: its part, and the hash of its content. */
export function filesNamed({ parts }: Pick<CreativeDraft, 'parts'>): { part: string; sha256: string }[] {
  return Object.entries(parts as Record<string, unknown>).flatMap(([part, value]) => {
    const found = typeof value === 'string' ? NAME.exec(value) : null
    return found ? [{ part, sha256: found[1] }] : []
  })
}

/**
 * What is wrong with a file as a part of an ad, in words; null when nothing is.
 * @param deal by whose terms, as its price is made; by the slot's own where there is none
 */
export function partProblem(
  { kind, parts }: Pick<CreativeDraft, 'kind' | 'parts'>,
  part: string,
  facts: FileFacts,
  deal: 'fixed' | 'floor' | null = null
): string | null {
  const shape = SLOT_OF[kind]?.(parts as Record<string, unknown>)
  const taken: readonly PartSpecification[] = !shape ? [] : deal ? takenByDeal(shape, deal) : takenBy(shape, null)
  const would = [...taken, ...(kind === 'video' ? BESIDE_FILMS : [])].filter((one) => one.part === part)
  if (would.length === 0) return null
  const one = would.find(({ medium }) => (kind === 'html5') === (medium === 'banner')) ?? would[0]
  return findingWords(findingsOf(facts, one))
}
