import type { Landscape } from '../exchange/index.js'
import { SOURCES } from '../market/index.js'
import { TAPE_DAYS, type Tape } from '../tape/index.js'
import type { Matched } from './matched.js'
import { localMinuteOfWeek } from './timeline.js'

/** Steps that a landscape tells the prices of a path by. */
const STEPS = 16
/** Opportunities on the tape under which a path says too little; they are taken together by source. */
const LEAST_ROWS = 24

/** The last landscape of a match: it is asked for again while only price, caps or money change. */
const known = new WeakMap<Uint32Array, { offset: number; every: number; landscape: Landscape }>()

/**
 * What the rivals of a line's matched opportunities asked, by placement and source.
 * @param offset of the line's zone, minutes
 * @param every only every n-th person of the tape
 */
export function landscapeOf(matched: Matched, offset: number, tape: Tape, every = 1): Landscape {
  const { rows } = matched
  const last = known.get(rows)
  if (last?.offset === offset && last.every === every) return last.landscape
  const landscape = made(matched, offset, tape, every)
  known.set(rows, { offset, every, landscape })
  return landscape
}

function made({ people, starts, rows, need, minute }: Matched, offset: number, tape: Tape, every: number): Landscape {
  const { path } = tape.rows
  const hours = new Array<number>(168).fill(0)
  const counts = new Map<number, number>()
  let all = 0
  const each = (take: (match: number) => void) => {
    for (let p = 0; p < people.length; p++) if (people[p] % every === 0) for (let m = starts[p]; m < starts[p + 1]; m++) take(m)
  }
  each((m) => {
    all++
    counts.set(path[rows[m]], (counts.get(path[rows[m]]) ?? 0) + 1)
    hours[Math.floor(localMinuteOfWeek(tape, minute[m], offset) / 60)]++
  })
  // Needs path by path in one array, and once more source by source.
  const paths = [...counts.keys()].sort((a, b) => a - b)
  const needs = new Uint32Array(all)
  const next = new Map<number, number>()
  let total = 0
  for (const one of paths) {
    next.set(one, total)
    total += counts.get(one) as number
  }
  each((m) => {
    const place = next.get(path[rows[m]]) as number
    needs[place] = need[m]
    next.set(path[rows[m]], place + 1)
  })
  const byPath = paths.map((one) => needs.subarray((next.get(one) as number) - (counts.get(one) as number), next.get(one)))
  const common = SOURCES.map((_, source) => {
    const parts = byPath.filter((_, n) => paths[n] % SOURCES.length === source)
    const joined = new Uint32Array(parts.reduce((sum, part) => sum + part.length, 0))
    parts.reduce((place, part) => (joined.set(part, place), place + part.length), 0)
    return joined.length > 0 ? quantilesOf(joined) : []
  })
  return {
    path: paths,
    perDay: byPath.map((own) => Math.round((own.length * every * tape.sample * 100) / TAPE_DAYS) / 100),
    needs: byPath.map((own, n) => (own.length >= LEAST_ROWS ? quantilesOf(own) : common[paths[n] % SOURCES.length])),
    hours: hours.map((n) => Math.round((n / Math.max(1, all)) * 1e6) / 1e6)
  }
}

/** Upper ends of equal parts of some needs, which are sorted on the way. */
function quantilesOf(needs: Uint32Array): number[] {
  needs.sort()
  return Array.from({ length: STEPS }, (_, n) => needs[Math.min(needs.length - 1, Math.ceil(((n + 1) * needs.length) / STEPS) - 1)])
}
