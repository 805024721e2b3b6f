/**
 * The delivery log of one market hour: a row a win, packed by column. It is the source of truth; all totals are
 * made from it. Multi-byte columns are little-endian, as every machine that runs Node is.
 */
export interface WinRow {
  person: number
  line: number
  ad: number
  placement: number
  source: number
  region: number
  device: number
  /** Minute of the hour. */
  minute: number
  /** Clearing price in micros; what was charged, data cost aside. */
  price: number
  viewable: boolean
  clicked: boolean
}

const VIEWABLE = 1
const CLICKED = 2
/** Bytes a row takes. */
export const LOG_ROW_BYTES = 24

export interface LogColumns {
  count: number
  person: Uint32Array
  line: Uint32Array
  ad: Uint32Array
  price: Uint32Array
  placement: Uint16Array
  region: Uint16Array
  source: Uint8Array
  device: Uint8Array
  minute: Uint8Array
  flags: Uint8Array
}

function columnsOver(buffer: ArrayBuffer, n: number): LogColumns {
  return {
    count: n,
    person: new Uint32Array(buffer, 0, n), line: new Uint32Array(buffer, n * 4, n), ad: new Uint32Array(buffer, n * 8, n),
    price: new Uint32Array(buffer, n * 12, n), placement: new Uint16Array(buffer, n * 16, n), region: new Uint16Array(buffer, n * 18, n),
    source: new Uint8Array(buffer, n * 20, n), device: new Uint8Array(buffer, n * 21, n),
    minute: new Uint8Array(buffer, n * 22, n), flags: new Uint8Array(buffer, n * 23, n)
  }
}

/** Packs rows in the order given. Empty for none. */
export function packLog(rows: readonly WinRow[]): Uint8Array {
  const buffer = new ArrayBuffer(rows.length * LOG_ROW_BYTES)
  const columns = columnsOver(buffer, rows.length)
  rows.forEach((row, i) => {
    columns.person[i] = row.person
    columns.line[i] = row.line
    columns.ad[i] = row.ad
    columns.price[i] = row.price
    columns.placement[i] = row.placement
    columns.region[i] = row.region
    columns.source[i] = row.source
    columns.device[i] = row.device
    columns.minute[i] = row.minute
    columns.flags[i] = (row.viewable ? VIEWABLE : 0) | (row.clicked ? CLICKED : 0)
  })
  return new Uint8Array(buffer)
}

export class LogDamageError extends Error {}

/**
 * Opens a packed hour.
 * @throws LogDamageError when length or checksum do not fit; a damaged hour is refused, never guessed
 */
export function openLog(data: Uint8Array, rows: number, crc: number): LogColumns {
  if (data.byteLength !== rows * LOG_ROW_BYTES) throw new LogDamageError(`The log says ${rows} rows but holds ${data.byteLength} bytes.`)
  if (crc32(data) !== crc) throw new LogDamageError('The checksum of a log row does not fit its data.')
  const copy = new ArrayBuffer(data.byteLength)
  new Uint8Array(copy).set(data)
  return columnsOver(copy, rows)
}

export function flagsOf(flags: number): Pick<WinRow, 'viewable' | 'clicked'> {
  return { viewable: (flags & VIEWABLE) !== 0, clicked: (flags & CLICKED) !== 0 }
}

const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
  return c
})

/** CRC-32 of ISO 3309, as in zip and PNG. */
export function crc32(data: Uint8Array): number {
  let c = 0xffffffff
  for (let i = 0; i < data.length; i++) c = CRC_TABLE[(c ^ data[i]) & 0xff] ^ (c >>> 8)
  return (c ^ 0xffffffff) >>> 0
}
