import type { Opportunities } from '../market/index.js'
import type { Tape } from '../tape/index.js'
import type { CompiledTargeting } from '../targeting/index.js'

/** Raised inside a job whose cancel word was set: a newer question, or nobody waits for the answer. */
export class CancelledError extends Error {
  constructor() {
    super('The forecast was cancelled.')
  }
}

/** People between two looks at the cancel word. */
const LOOK_EVERY = 4096

/**
 * First pass over the tape for one line: which rows match, and which of them its bid would win.
 */
export interface Scan {
  matched: number
  /** Matched rows with a bid at or over the floor. */
  eligible: number
  /** Ranks over matched rows: over the best rival and the floor; between second and best; lower. */
  first: number
  second: number
  /** Rows the bid wins before caps and budget, in the order of the tape. */
  rows: Uint32Array
  /** First entry of `rows` for each person that has one, and one more entry at the end. */
  starts: Uint32Array
}

/**
 * @param bid micros an impression, fixed over the scan
 * @param cancelled read every 4,096 people
 * @throws CancelledError
 */
export function scanTape(tape: Tape, compiled: CompiledTargeting, bid: number, cancelled: () => boolean): Scan {
  const { region, device, placement, source, floor, rival, second }: Opportunities = tape.rows
  const { region: regionFails, device: deviceFails, placement: placementFails, source: sourceFails } = compiled
  const { starts: personStarts, peopleCount } = tape
  let rows = new Uint32Array(1 << 14)
  const starts: number[] = []
  let won = 0
  let matched = 0
  let eligible = 0
  let secondRank = 0
  for (let person = 0; person < peopleCount; person++) {
    if (person % LOOK_EVERY === 0 && cancelled()) throw new CancelledError()
    const end = personStarts[person + 1]
    let i = personStarts[person]
    // A person lives in one region, so one look decides about all of their rows.
    if (i === end || regionFails[region[i]] !== 0) continue
    const before = won
    for (; i < end; i++) {
      if ((placementFails[placement[i]] | deviceFails[device[i]] | sourceFails[source[i]]) !== 0) continue
      matched++
      if (bid >= floor[i]) {
        eligible++
        if (bid > rival[i]) {
          if (won === rows.length) rows = grown(rows)
          rows[won++] = i
          continue
        }
      }
      if (bid > second[i] && bid <= rival[i]) secondRank++
    }
    if (won > before) starts.push(before)
  }
  starts.push(won)
  return { matched, eligible, first: won, second: secondRank, rows: rows.subarray(0, won), starts: Uint32Array.from(starts) }
}

function grown(from: Uint32Array<ArrayBuffer>): Uint32Array<ArrayBuffer> {
  const to = new Uint32Array(from.length * 2)
  to.set(from)
  return to
}
