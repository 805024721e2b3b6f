import { columnsOver, openRows, packRows, rowBytes, type ColumnsOf, type RowOf } from './packing.js'

/**
 * The delivery log of one market hour: a row a win. It is the source of truth; all totals are made from it, and what is in it
 * is enough to read the opportunity, the person and every draw again.
 */
export const WIN_LAYOUT = [
  ['person', 4],
  ['line', 4],
  ['ad', 4],
  /** Key of the opportunity. */
  ['key', 4],
  /** Clearing price, micros an impression. */
  ['price', 4],
  /** What was charged for it: media by its price model, and data, in micros. */
  ['media', 4],
  ['data', 4],
  /** What the line's event was expected to happen, in millionths, when it was bought. */
  ['predicted', 4],
  /** Placement and source, device and browser, page, state: as in the opportunity. */
  ['path', 2],
  ['device', 2],
  ['page', 2],
  ['state', 2],
  /** The deal's place among the line's deals, from 1; 0 for the open market. */
  ['deal', 2],
  /** What the person did at once: see `DID`. */
  ['did', 2],
  /** Minute of the hour. */
  ['minute', 1],
  /** Which exposure of this person to the line it is, in 30 days, up to 255. */
  ['nth', 1]
] as const
export type WinRow = RowOf<typeof WIN_LAYOUT>
export type LogColumns = ColumnsOf<typeof WIN_LAYOUT>
/** Bytes a row takes. */
const LOG_ROW_BYTES = rowBytes(WIN_LAYOUT)
export const packLog = (rows: readonly WinRow[]) => packRows(WIN_LAYOUT, rows)
export const openLog = (data: Uint8Array, rows: number, crc: number): LogColumns => openRows(WIN_LAYOUT, data, rows, crc)

/** Wins of one hour as they come, in the log's own columns: no object is kept for any of them. */
export class WinLog {
  private room = 2048
  private columns = columnsOver(WIN_LAYOUT, new ArrayBuffer(this.room * LOG_ROW_BYTES), this.room)
  length = 0
  spendMicros = 0

  push(row: WinRow): void {
    if (this.length === this.room) this.grow()
    const { columns, length: n } = this
    columns.person[n] = row.person
    columns.line[n] = row.line
    columns.ad[n] = row.ad
    columns.key[n] = row.key
    columns.price[n] = row.price
    columns.media[n] = row.media
    columns.data[n] = row.data
    columns.predicted[n] = row.predicted
    columns.path[n] = row.path
    columns.device[n] = row.device
    columns.page[n] = row.page
    columns.state[n] = row.state
    columns.deal[n] = row.deal
    columns.did[n] = row.did
    columns.minute[n] = row.minute
    columns.nth[n] = row.nth
    this.spendMicros += row.media + row.data
    this.length = n + 1
  }

  private grow(): void {
    const old = this.columns
    this.room *= 2
    this.columns = columnsOver(WIN_LAYOUT, new ArrayBuffer(this.room * LOG_ROW_BYTES), this.room)
    for (const [name] of WIN_LAYOUT) this.columns[name].set(old[name])
  }

  /** The log of the hour. */
  packed(): Uint8Array {
    const buffer = new ArrayBuffer(this.length * LOG_ROW_BYTES)
    const own = columnsOver(WIN_LAYOUT, buffer, this.length)
    for (const [name] of WIN_LAYOUT) own[name].set(this.columns[name].subarray(0, this.length))
    return new Uint8Array(buffer)
  }
}

/** What happened later: a row a conversion, and one for each impression that helped. It lands in the hour in which it happened. */
export const EVENT_LAYOUT = [
  ['line', 4],
  ['ad', 4],
  ['tracker', 4],
  /** The impression: hour of its log and place in it. */
  ['hour', 4],
  ['index', 4],
  /** Micros. */
  ['value', 4],
  ['path', 2],
  ['device', 2],
  /**
   * 0 by a click, 1 by a view; 2 for an assist: what was seen or clicked before the one that earned it. 3 to 5: what was told later of an
   * impression, by `TOLD_EVENTS`.
   */
  ['by', 1],
  ['minute', 1]
] as const
export type EventRow = RowOf<typeof EVENT_LAYOUT>
export type EventColumns = ColumnsOf<typeof EVENT_LAYOUT>
export const packEvents = (rows: readonly EventRow[]) => packRows(EVENT_LAYOUT, rows)
export const openEvents = (data: Uint8Array, rows: number, crc: number): EventColumns => openRows(EVENT_LAYOUT, data, rows, crc)
