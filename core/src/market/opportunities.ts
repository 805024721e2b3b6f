/**
 * Ad opportunities as columns. Few array types, so that hot loops stay monomorphic.
 */
export interface Opportunities {
  count: number
  /** Person number; on a tape the position of the person on it. */
  person: Uint32Array
  /** Draw state of (seed, day, person, k): see `draw`. */
  key: Uint32Array
  /** Best and second rival price, micros an impression; 0 for none. */
  rival: Uint32Array
  second: Uint32Array
  /** Minute of the UTC day; on a tape since its first day. */
  minute: Uint16Array
  /** Placement and source in one: `placement * SOURCES.length + source`. */
  path: Uint16Array
  /** Model and browser: see `devices`. */
  device: Uint16Array
  page: Uint16Array
  /** Moment, connection, robot, proxy, blocked: see `stateOf`. */
  state: Uint16Array
  /** Minutes since the person's previous pop opportunity of the same UTC day; 1,440 for none. */
  sincePop: Uint16Array
}

export const NO_POP = 1440

/** The small facts of an opportunity in one number below `STATES`; moment 12 is none of those that have a name. */
export const stateOf = (moment: number, connection: number, bot: number, proxy: number, blocked: number) =>
  (moment << 5) | (connection << 3) | (bot << 2) | (proxy << 1) | blocked
export const STATES = 13 * 32
export const momentOf = (state: number) => state >> 5
export const connectionOf = (state: number) => (state >> 3) & 3
export const isBot = (state: number) => (state & 4) !== 0
export const isProxy = (state: number) => (state & 2) !== 0
export const isBlocked = (state: number) => (state & 1) !== 0
/** Index of cellular in `CONNECTIONS`. */
export const CELLULAR = 1

const WIDTH = 28

export function opportunityBytes(rows: number): number {
  return rows * WIDTH + 64
}

/** The columns in the order in which they lie in memory and files, with the bytes of an entry. */
export const OPPORTUNITY_COLUMNS = [
  ['person', 4],
  ['key', 4],
  ['rival', 4],
  ['second', 4],
  ['minute', 2],
  ['path', 2],
  ['device', 2],
  ['page', 2],
  ['state', 2],
  ['sincePop', 2]
] as const

/** Column views for `rows` rows over one buffer. */
export function opportunitiesOver(buffer: ArrayBufferLike, rows: number, from = 0): Opportunities {
  let offset = from
  const take = <T>(Type: new (buffer: ArrayBufferLike, offset: number, rows: number) => T, width: number): T => {
    const view = new Type(buffer, offset, rows)
    offset += width * rows
    offset += (4 - (offset % 4)) % 4
    return view
  }
  return {
    count: rows,
    person: take(Uint32Array, 4),
    key: take(Uint32Array, 4),
    rival: take(Uint32Array, 4),
    second: take(Uint32Array, 4),
    minute: take(Uint16Array, 2),
    path: take(Uint16Array, 2),
    device: take(Uint16Array, 2),
    page: take(Uint16Array, 2),
    state: take(Uint16Array, 2),
    sincePop: take(Uint16Array, 2)
  }
}

/** Columns in a fixed order, for checksums. */
export function opportunityColumns(rows: Opportunities): ArrayBufferView[] {
  return OPPORTUNITY_COLUMNS.map(([name]) => rows[name])
}
