import { GRADES, type Grade } from '../taxonomy/index.js'
import { STREAM, hash, normalOf } from '../random/index.js'
import type { Inventory } from './inventory.js'

/**
 * What a measurer would publish of each placement: the hidden true value with a seeded error whose standard
 * deviation is a tenth of it, rounded to 1 %.
 */
export interface PublishedMeasures {
  /** Whole per cent, by placement. */
  viewable: Uint8Array
  bots: Uint8Array
  /** 0 to 1: 4/7 of the rank of (1 - bots) and 3/7 of the rank of viewability among placements; stays join later. */
  score: Float64Array
  /** Scores that part the fifths: E below the first, A from the last on. */
  fifths: readonly [number, number, number, number]
}

/** Fractional ranks, 0 for the least and 1 for the greatest; equal values share their mean rank. */
function ranks(values: ArrayLike<number>): Float64Array {
  const order = Array.from(values, (_, i) => i).sort((a, b) => values[a] - values[b] || a - b)
  const out = new Float64Array(values.length)
  for (let i = 0; i < order.length;) {
    let j = i
    while (j + 1 < order.length && values[order[j + 1]] === values[order[i]]) j++
    for (let m = i; m <= j; m++) out[order[m]] = (i + j) / 2 / Math.max(1, order.length - 1)
    i = j + 1
  }
  return out
}

export function publishMeasures(seed: number, inventory: Inventory): PublishedMeasures {
  const published = (kind: number, value: (placement: number) => number) =>
    Uint8Array.from(inventory.placements, (_, p) => {
      const truth = value(p) / 65536
      const shown = truth * (1 + 0.1 * normalOf(hash(seed, STREAM.measure, kind, p)))
      return Math.round(100 * Math.min(1, Math.max(0, shown)))
    })
  const viewable = published(0, (p) => inventory.placements[p].viewable)
  const bots = published(1, (p) => inventory.placements[p].bots)
  const clean = ranks(Array.from(bots, (share) => 100 - share))
  const seen = ranks(viewable)
  const score = Float64Array.from(clean, (rank, p) => (4 * rank + 3 * seen[p]) / 7)
  const sorted = Float64Array.from(score).sort()
  const cut = (n: number) => sorted[Math.floor((sorted.length * n) / 5)]
  return { viewable, bots, score, fifths: [cut(1), cut(2), cut(3), cut(4)] }
}

/** Letter for a score. */
export function gradeOf(score: number, fifths: readonly number[]): Grade {
  let fifth = 0
  while (fifth < 4 && score >= fifths[fifth]) fifth++
  return GRADES[4 - fifth]
}
