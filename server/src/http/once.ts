import { conflict } from './errors.js'
import { IdempotentAnswer } from './answer-model.js'
import type { Actor } from '../security/sessions.js'

/** The answer that a confirmation was given before; undefined for a new one. @throws where its token was for something else */
async function answered<T>(actor: Actor, token: string, route: string): Promise<T | undefined> {
  const seen = await IdempotentAnswer.findOne({ where: { userId: actor.id, token } })
  if (seen && seen.route !== route) throw conflict('This confirmation was for something else; confirm anew.')
  return seen?.answer as T | undefined
}

/**
 * Does what a confirmation asks for once: asked again with the same token, also at the same time, it answers as before.
 * @param useCase keeps its answer under the token in its own transaction
 */
export async function once<T>(actor: Actor, token: string, route: string, useCase: () => Promise<T>): Promise<T> {
  const before = await answered<T>(actor, token, route)
  if (before !== undefined) return before
  try {
    return await useCase()
  } catch (error) {
    // One with the same token was quicker: what stopped this one is what that one did.
    const meanwhile = await answered<T>(actor, token, route)
    if (meanwhile !== undefined) return meanwhile
    throw error
  }
}
