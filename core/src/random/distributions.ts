import { NORMAL_MILLIONTHS } from './normal-table.js'

/**
 * Tables for drawing, made with IEEE + - x / only, so that they are equal to the bit everywhere.
 */

/** e^x by a Taylor step on x/1024 and ten squarings; relative error below 3e-8 for |x| <= 20. */
export function exactExp(x: number): number {
  const y = x / 1024
  let r = 1 + y * (1 + (y / 2) * (1 + (y / 3) * (1 + y / 4)))
  for (let i = 0; i < 10; i++) r *= r
  return r
}

/** ln x for x > 0, by halving and the series of the inverse hyperbolic tangent; error below 1e-14. */
export function exactLog(x: number): number {
  let power = 0
  let y = x
  for (; y > 1.5; y /= 2) power++
  for (; y < 0.75; y *= 2) power--
  const t = (y - 1) / (y + 1)
  let sum = 0
  for (let n = 19; n >= 1; n -= 2) sum = sum * t * t + 1 / n
  return power * 0.6931471805599453 + 2 * t * sum
}

/** Standard normal quantile for a uniform unsigned 32-bit integer; within +-3.49. */
export function normalOf(uniform: number): number {
  const upper = uniform >= 0x80000000
  const u = upper ? uniform - 0x80000000 : 0x7fffffff - uniform
  const i = u >>> 22
  const part = (u & 0x3fffff) / 0x400000
  const low = NORMAL_MILLIONTHS[i]
  const z = (low + (NORMAL_MILLIONTHS[i + 1] - low) * part) / 1e6
  return upper ? z : -z
}

/** Number of entries of a log-normal table; index it with `uniform >>> LOG_NORMAL_SHIFT`. */
const LOG_NORMAL_SIZE = 4096
export const LOG_NORMAL_SHIFT = 20

/** exp(sigma z) at the mid quantiles of 4,096 equal cells; median 1. */
export function logNormalTable(sigma: number): Float64Array {
  const table = new Float64Array(LOG_NORMAL_SIZE)
  for (let i = 0; i < LOG_NORMAL_SIZE; i++) {
    table[i] = exactExp(sigma * normalOf(i * 2 ** LOG_NORMAL_SHIFT + 2 ** (LOG_NORMAL_SHIFT - 1)))
  }
  return table
}

/** One log-normal draw with median 1. */
export function logNormalOf(sigma: number, uniform: number): number {
  return exactExp(sigma * normalOf(uniform))
}

/**
 * Cumulative Poisson thresholds: the drawn count is the number of thresholds at or under the uniform.
 * @param lambda mean, 0 to 64
 * @param most the largest count that can be drawn
 */
export function poissonThresholds(lambda: number, most: number): Uint32Array {
  const thresholds = new Uint32Array(most)
  let p = exactExp(-lambda)
  let sum = 0
  for (let n = 0; n < most; n++) {
    sum += p
    thresholds[n] = Math.min(0xffffffff, Math.floor(sum * 4294967296))
    p = (p * lambda) / (n + 1)
  }
  return thresholds
}

/** Walker's alias table (Vose 1991): a draw needs one index and one comparison. */
export class AliasTable {
  readonly size: number
  readonly threshold: Uint32Array
  readonly alias: Uint16Array

  /** @param weights non-negative; at least one above 0 */
  constructor(weights: ArrayLike<number>) {
    const n = (this.size = weights.length)
    this.threshold = new Uint32Array(n)
    this.alias = new Uint16Array(n)
    fillAlias(weights, this.threshold, this.alias, 0)
  }

  /** Index for two uniform unsigned 32-bit integers. */
  pick(cell: number, uniform: number): number {
    const i = Math.floor((cell * this.size) / 4294967296)
    return uniform < this.threshold[i] ? i : this.alias[i]
  }
}

/** Fills one alias table into a slice of shared arrays starting at `at`. */
export function fillAlias(weights: ArrayLike<number>, threshold: Uint32Array, alias: Uint16Array, start: number): void {
  const n = weights.length
  let sum = 0
  for (let i = 0; i < n; i++) sum += weights[i]
  if (!(sum > 0)) throw new RangeError('An alias table needs a weight above 0.')
  const scaled = new Float64Array(n)
  const small: number[] = []
  const large: number[] = []
  for (let i = 0; i < n; i++) {
    scaled[i] = (weights[i] * n) / sum
    ;(scaled[i] < 1 ? small : large).push(i)
  }
  while (small.length > 0 && large.length > 0) {
    const s = small.pop() as number
    const l = large[large.length - 1]
    threshold[start + s] = Math.min(0xffffffff, Math.floor(scaled[s] * 4294967296))
    alias[start + s] = l
    scaled[l] -= 1 - scaled[s]
    if (scaled[l] < 1) {
      large.pop()
      small.push(l)
    }
  }
  for (const i of small.concat(large)) {
    threshold[start + i] = 0xffffffff
    alias[start + i] = i
  }
}

/** A guide table: `size` cells shared out to indices by weight, largest remainders first. */
export function guideTable(weights: ArrayLike<number>, size: number, into: Uint8Array, start: number): void {
  let sum = 0
  for (let i = 0; i < weights.length; i++) sum += weights[i]
  let cumulative = 0
  let cell = 0
  for (let i = 0; i < weights.length; i++) {
    cumulative += weights[i]
    const end = i === weights.length - 1 ? size : Math.round((cumulative / sum) * size)
    for (; cell < end; cell++) into[start + cell] = i
  }
}
