import { letters } from './letters.js'

interface TextLimit {
  /** As it is called where it is asked for. */
  what: string
  /** Letters, as they are seen. */
  most: number
  /** An ad may go without. */
  optional?: true
}

/** Longest texts of an ad, by its kind and the part that they are. One table for the page that shows it, and for every check. */
export const TEXTS = {
  native: {
    headline: { what: 'The short headline', most: 25 },
    longHeadline: { what: 'The long headline', most: 90 },
    text: { what: 'The text', most: 90 },
    brand: { what: 'The brand', most: 25 },
    button: { what: 'The button', most: 20 }
  },
  notification: {
    title: { what: 'The title', most: 40 },
    text: { what: 'The text', most: 100 }
  },
  video: {
    overlay: { what: 'The call over the film', most: 20, optional: true }
  },
  audio: {
    tagline: { what: 'The tagline', most: 60, optional: true },
    button: { what: 'The button', most: 20, optional: true }
  }
} as const satisfies Record<string, Record<string, TextLimit>>

/** What is too long of an ad that was written when more was allowed, in words. */
export function textFindings({ kind, parts }: { kind: string; parts: object }): string[] {
  const limits: Readonly<Record<string, TextLimit>> = kind in TEXTS ? TEXTS[kind as keyof typeof TEXTS] : {}
  return Object.entries(limits).flatMap(([part, { what, most }]) => {
    const text: unknown = (parts as Record<string, unknown>)[part]
    const there = typeof text === 'string' ? letters(text) : 0
    return there > most ? [`${what} has ${there} letters; ${most} are allowed.`] : []
  })
}
