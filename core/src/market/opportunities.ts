/**
 * Ad opportunities as columns. Four array types at most, so that hot loops stay monomorphic.
 */
export interface Opportunities {
  count: number
  /** Person number. */
  person: Uint32Array
  /** Draw state of (seed, day, person, k): see `draw`. */
  key: Uint32Array
  /** Minute of the UTC day. */
  minute: Uint16Array
  region: Uint16Array
  placement: Uint16Array
  device: Uint8Array
  source: Uint8Array
  /** 1 for a robot. */
  bot: Uint8Array
  /** Micros an impression. */
  floor: Uint32Array
  rival: Uint32Array
  second: Uint32Array
}

const WIDTH = 29

export function opportunityBytes(rows: number): number {
  return rows * WIDTH + 64
}

/** Column views for `rows` rows over one buffer. */
export function opportunitiesOver(buffer: ArrayBufferLike, rows: number): Opportunities {
  let at = 0
  const take = <T>(Type: new (buffer: ArrayBufferLike, at: number, rows: number) => T, width: number): T => {
    const view = new Type(buffer, at, rows)
    at += width * rows
    at += (4 - (at % 4)) % 4
    return view
  }
  return {
    count: rows,
    person: take(Uint32Array, 4), key: take(Uint32Array, 4),
    floor: take(Uint32Array, 4), rival: take(Uint32Array, 4), second: take(Uint32Array, 4),
    minute: take(Uint16Array, 2), region: take(Uint16Array, 2), placement: take(Uint16Array, 2),
    device: take(Uint8Array, 1), source: take(Uint8Array, 1), bot: take(Uint8Array, 1)
  }
}

/** Columns in a fixed order, for checksums. */
export function opportunityColumns(rows: Opportunities): ArrayBufferView[] {
  return [rows.person, rows.key, rows.minute, rows.region, rows.placement, rows.device, rows.source, rows.bot, rows.floor, rows.rival, rows.second]
}
