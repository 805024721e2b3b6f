import { EVERYTHING, InputError, parseInput, sentenceSchema } from '@tin-harbor/core/buying'
import type { Sentence } from '@tin-harbor/core/forecast'

/** The sentence of an address. A link may hold anything: what is no sentence stands for everything, with what is wrong of it. */
export function readSentence(said: string): { sentence: Sentence; spoilt: string | null } {
  if (!said) return { sentence: EVERYTHING, spoilt: null }
  try {
    return { sentence: parseInput(sentenceSchema, JSON.parse(said)), spoilt: null }
  } catch (error) {
    return { sentence: EVERYTHING, spoilt: error instanceof InputError ? error.message : 'The address holds no sentence that can be read.' }
  }
}

/** The bid of an address, micros a thousand: 1.00 where it holds none. */
export function readBid(text: string): number {
  const micros = Number(text)
  return Number.isInteger(micros) && micros > 0 ? micros : 1_000_000
}
