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

function columnsOver<L extends Layout>(layout: L, buffer: ArrayBuffer, n: number): ColumnsOf<L> {
  let at = 0
  const columns: Record<string, Column | number> = { count: n }
  for (const [name, bytes] of layout) {
    columns[name] = bytes === 4 ? new Uint32Array(buffer, at, n) : bytes === 2 ? new Uint16Array(buffer, at, n) : new Uint8Array(buffer, at, n)
    at += bytes * n
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
  const copy = new ArrayBuffer(data.byteLength)
  new Uint8Array(copy).set(data)
  return columnsOver(layout, copy, rows)
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
