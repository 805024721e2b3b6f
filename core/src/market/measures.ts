import { FORMATS, GRADES, type Grade } from '../taxonomy/index.js'
import { STREAM, hash, normalOf } from '../random/index.js'
import { placementFormats, type Inventory } from './inventory.js'

/**
 * What a measurer would publish of each placement: the hidden true value with a seeded error whose standard
 * deviation is a tenth of it, rounded to 1 %.
 */
export interface PublishedMeasures {
  /** Whole per cent, by placement. */
  viewable: Uint8Array
  bots: Uint8Array
  /** Pops held back by browsers. */
  blocked: Uint8Array
  /** Visitors who stay at least two seconds. */
  stays: Uint8Array
  /** Views past the view point, of video and audio. */
  completes: Uint8Array
  /** 0 to 1: 0.4 of the rank of (1 - bots), 0.3 of that of viewability and 0.3 of that of stays, among placements of the format. */
  score: Float64Array
  /** Scores that part the fifths of each format: E below the first, A from the last on. */
  fifths: readonly (readonly [number, number, number, number])[]
  /** Position of each placement's grade in `GRADES`. */
  grade: Uint8Array
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
  const blocked = published(2, (p) => inventory.placements[p].blocked)
  const stays = published(3, (p) => inventory.placements[p].stays)
  const completes = published(4, (p) => inventory.placements[p].completes)
  const formats = placementFormats(inventory)
  const score = new Float64Array(formats.length)
  const fifths = FORMATS.map((_, format) => {
    const own = Array.from(formats.keys()).filter((p) => formats[p] === format)
    const clean = ranks(own.map((p) => 100 - bots[p]))
    const seen = ranks(own.map((p) => viewable[p]))
    const stay = ranks(own.map((p) => stays[p]))
    own.forEach((p, n) => (score[p] = 0.4 * clean[n] + 0.3 * seen[n] + 0.3 * stay[n]))
    const sorted = own.map((p) => score[p]).sort((a, b) => a - b)
    const cut = (n: number) => sorted[Math.floor((sorted.length * n) / 5)]
    return [cut(1), cut(2), cut(3), cut(4)] as const
  })
  const grade = Uint8Array.from(score, (value, p) => GRADES.indexOf(gradeOf(value, fifths[formats[p]])))
  return { viewable, bots, blocked, stays, completes, score, fifths, grade }
}

/** Letter for a score. */
function gradeOf(score: number, fifths: readonly number[]): Grade {
  let fifth = 0
  while (fifth < 4 && score >= fifths[fifth]) fifth++
  return GRADES[4 - fifth]
}
