/**
 * Rows packed by column into one buffer, widest columns first, so that every column lies on its own width. Multi-byte columns
 * are little-endian, as every machine that runs Node is.
 */
export type Layout = readonly (readonly [name: string, bytes: 1 | 2 | 4])[]
export type RowOf<L extends Layout> = Record<L[number][0], number>
type Column = Uint8Array | Uint16Array | Uint32Array
type ColumnOf<B> = B extends 4 ? Uint32Array : B extends 2 ? Uint16Array : Uint8Array
export type ColumnsOf<L extends Layout> = { [P in L[number] as P[0]]: ColumnOf<P[1]> } & { count: number }

export const rowBytes = (layout: Layout) => layout.reduce((sum, [, bytes]) => sum + bytes, 0)

export function columnsOver<L extends Layout>(layout: L, buffer: ArrayBuffer, n: number, from = 0): ColumnsOf<L> {
  let offset = from
  const columns: Record<string, Column | number> = { count: n }
  for (const [name, bytes] of layout) {
    columns[name] =
      bytes === 4
        ? new Uint32Array(buffer, offset, n)
        : bytes === 2
          ? new Uint16Array(buffer, offset, n)
          : new Uint8Array(buffer, offset, n)
    offset += bytes * n
  }
  return columns as unknown as ColumnsOf<L>
}

/** Packs rows in the order given. Empty for none. */
export function packRows<L extends Layout>(layout: L, rows: readonly RowOf<L>[]): Uint8Array {
  const buffer = new ArrayBuffer(rows.length * rowBytes(layout))
  const columns = columnsOver(layout, buffer, rows.length)
  for (const [name] of layout) {
    const column = (columns as unknown as Record<string, Column>)[name]
    for (let i = 0; i < rows.length; i++) column[i] = rows[i][name as L[number][0]]
  }
  return new Uint8Array(buffer)
}

export class LogDamageError extends Error {}

/**
 * Opens packed rows.
 * @throws LogDamageError when length or checksum do not fit; damage is refused, never guessed
 */
export function openRows<L extends Layout>(layout: L, data: Uint8Array, rows: number, crc: number): ColumnsOf<L> {
  if (data.byteLength !== rows * rowBytes(layout)) throw new LogDamageError(`The log says ${rows} rows but holds ${data.byteLength} bytes.`)
  if (crc32(data) !== crc) throw new LogDamageError('The checksum of a log row does not fit its data.')
  // A piece of a larger buffer may lie on an odd place, where wider columns cannot begin.
  if (data.byteOffset % 4 === 0 && data.buffer instanceof ArrayBuffer) return columnsOver(layout, data.buffer, rows, data.byteOffset)
  const copy = new ArrayBuffer(data.byteLength)
  new Uint8Array(copy).set(data)
  return columnsOver(layout, copy, rows)
}

/** Tables for four bytes at a time ("slicing by four", Kounavis and Berry 2005). */
const CRC_TABLES = (() => {
  const tables = Array.from({ length: 4 }, () => new Int32Array(256))
  for (let n = 0; n < 256; n++) {
    let c = n
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
    tables[0][n] = c
  }
  for (let n = 0; n < 256; n++) for (let t = 1; t < 4; t++) tables[t][n] = (tables[t - 1][n] >>> 8) ^ tables[0][tables[t - 1][n] & 0xff]
  return tables
})()

const NO_WORDS = new Int32Array(0)

/** CRC-32 of ISO 3309, as in zip and PNG. */
export function crc32(data: Uint8Array): number {
  const [t0, t1, t2, t3] = CRC_TABLES
  let c = -1
  // Words are read whole from where they lie on their width.
  const from = Math.min(data.length, -data.byteOffset & 3)
  const words = from < data.length ? new Int32Array(data.buffer, data.byteOffset + from, (data.length - from) >> 2) : NO_WORDS
  let i = 0
  for (; i < from; i++) c = t0[(c ^ data[i]) & 0xff] ^ (c >>> 8)
  for (let w = 0; w < words.length; w++) {
    c ^= words[w]
    c = t3[c & 0xff] ^ t2[(c >>> 8) & 0xff] ^ t1[(c >>> 16) & 0xff] ^ t0[c >>> 24]
  }
  for (i += words.length * 4; i < data.length; i++) c = t0[(c ^ data[i]) & 0xff] ^ (c >>> 8)
  return (c ^ -1) >>> 0
}
