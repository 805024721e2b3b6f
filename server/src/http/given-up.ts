import type { Response } from 'express'
import { CancelWord } from '../threads/cancel-word.js'

/** A word that is set when whoever asked goes away before the answer is whole; set already where they went while the question was read. */
export function givenUp(res: Response): CancelWord {
  const word = new CancelWord()
  if (res.closed || res.destroyed) word.set()
  else res.once('close', () => word.set())
  return word
}
