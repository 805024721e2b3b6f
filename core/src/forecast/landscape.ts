import type { Landscape } from '../exchange/index.js'
import { SOURCES } from '../market/index.js'
import { TAPE_DAYS, type Tape } from '../tape/index.js'
import type { Matched } from './matched.js'
import { localMinuteOfWeek } from './timeline.js'

/** Steps that a landscape tells the prices of a path by. */
const STEPS = 16
/** Opportunities on the tape under which a path says too little; they are taken together by source. */
const LEAST_ROWS = 24

/** What the rivals of a line's matched opportunities asked, by placement and source. @param offset of the line's zone, minutes */
export function landscapeOf({ rows, need, minute }: Matched, offset: number, tape: Tape): Landscape {
  const byPath = new Map<number, number[]>()
  const hours = new Array<number>(168).fill(0)
  for (let m = 0; m < rows.length; m++) {
    const path = tape.rows.path[rows[m]]
    const own = byPath.get(path)
    if (own) own.push(need[m])
    else byPath.set(path, [need[m]])
    hours[Math.floor(localMinuteOfWeek(tape, minute[m], offset) / 60)]++
  }
  const quantilesOf = (needs: number[]) => {
    needs.sort((a, b) => a - b)
    return Array.from({ length: STEPS }, (_, n) => needs[Math.min(needs.length - 1, Math.ceil(((n + 1) * needs.length) / STEPS) - 1)])
  }
  const bySource = new Map<number, number[]>()
  for (const [path, needs] of byPath) bySource.set(path % SOURCES.length, (bySource.get(path % SOURCES.length) ?? []).concat(needs))
  const common = new Map([...bySource].map(([source, needs]) => [source, quantilesOf(needs)]))
  const paths = [...byPath].sort(([a], [b]) => a - b)
  const all = Math.max(1, rows.length)
  return {
    path: paths.map(([path]) => path),
    perDay: paths.map(([, needs]) => Math.round((needs.length * tape.sample * 100) / TAPE_DAYS) / 100),
    needs: paths.map(([path, needs]) =>
      needs.length >= LEAST_ROWS ? quantilesOf([...needs]) : (common.get(path % SOURCES.length) as number[])
    ),
    hours: hours.map((n) => Math.round((n / all) * 1e6) / 1e6)
  }
}
