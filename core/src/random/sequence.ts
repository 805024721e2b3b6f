import { logNormalOf } from './distributions.js'
import { finish, step } from './hash.js'

/** A short sequence of uniform draws below one state; only for building the inventory. */
export function sequence(state: number) {
  let n = 0
  const next = () => finish(step(state, n++))
  return {
    next,
    /** Uniform in [0, 1). */
    unit: () => next() / 4294967296,
    below: (count: number) => Math.floor((next() / 4294967296) * count),
    spread: (sigma: number) => logNormalOf(sigma, next())
  }
}
