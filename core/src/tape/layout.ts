import { hashBytes } from '../random/index.js'
import { COUNTRIES } from '../places/index.js'
import { FORMATS } from '../taxonomy/index.js'
import { OPPORTUNITY_COLUMNS, PERSON_WORDS, type Opportunities } from '../market/index.js'

/** Whole UTC days on a tape. */
export const TAPE_DAYS = 14

/** Groups that people are parted into for ranges, independently of the sample. */
export const GROUPS = 32

export interface TapeHead {
  /** Seed, people and sample of the world it was recorded in. */
  seed: number
  people: number
  /** One person in `sample` is on it. */
  sample: number
  /** First market day (UTC) on the tape. */
  firstDay: number
  rowCount: number
  peopleCount: number
}

/**
 * The recorded sample of past opportunities: the same people always, over the 14 whole UTC days before the clock,
 * sorted by person, then time. A pure function of the world and the last day. All of it lies in one piece of shared
 * memory that is also, byte for byte, the file: a header, then columns.
 */
export interface Tape extends TapeHead {
  buffer: SharedArrayBuffer
  /** First row of each person; one entry more than people. */
  starts: Uint32Array
  /** Numbers of the people in the world, ascending; their words, four each; and their group. */
  numbers: Uint32Array
  words: Int32Array
  group: Uint8Array
  /** Rows of all traffic by (format x country) x day: `(format * COUNTRIES.length + country) * TAPE_DAYS + day`. */
  traffic: Uint32Array
  /** Rows; `person` is a position in `numbers`, `minute` counts from the first day, 0 to 20,159. */
  rows: Opportunities
}

const MAGIC = 'TINTAPE\n'
const TAPE_VERSION = 1
const NAME_BYTES = 16
const COLUMN_BYTES = NAME_BYTES + 16
const FIXED_BYTES = 8 + 9 * 4

interface ColumnPlace {
  name: string
  /** Bytes of an entry. */
  width: number
  offset: number
  bytes: number
}

function columnsOf({
  rowCount,
  peopleCount
}: Pick<TapeHead, 'rowCount' | 'peopleCount'>): readonly [name: string, width: number, entries: number][] {
  return [
    ['starts', 4, peopleCount + 1],
    ['numbers', 4, peopleCount],
    ['words', 4, peopleCount * PERSON_WORDS],
    ['group', 1, peopleCount],
    ['traffic', 4, FORMATS.length * COUNTRIES.length * TAPE_DAYS],
    ...OPPORTUNITY_COLUMNS.map(([name, width]): [string, number, number] => [name, width, rowCount])
  ]
}

/** Where each column lies; all begin at a multiple of eight bytes. */
export function tapePlaces(head: Pick<TapeHead, 'rowCount' | 'peopleCount'>): { places: ColumnPlace[]; size: number } {
  const columns = columnsOf(head)
  let offset = FIXED_BYTES + columns.length * COLUMN_BYTES + 4
  const places = columns.map(([name, width, entries]) => {
    offset += (8 - (offset % 8)) % 8
    const place = { name, width, offset: offset, bytes: width * entries }
    offset += place.bytes
    return place
  })
  return { places, size: offset + ((8 - (offset % 8)) % 8) }
}

const HEAD_FIELDS = ['seed', 'people', 'sample', 'firstDay', 'rowCount', 'peopleCount'] as const

/** Memory for a tape of known counts, its header written but for the checksums. */
export function newTape(head: TapeHead): Tape {
  const { places, size } = tapePlaces(head)
  const buffer = new SharedArrayBuffer(size)
  const view = new DataView(buffer)
  for (let i = 0; i < 8; i++) view.setUint8(i, MAGIC.charCodeAt(i))
  view.setUint32(8, TAPE_VERSION, true)
  HEAD_FIELDS.forEach((field, n) => view.setInt32(12 + n * 4, head[field], true))
  view.setUint32(36, places.length, true)
  view.setUint32(40, size, true)
  places.forEach((place, n) => {
    const offset = FIXED_BYTES + n * COLUMN_BYTES
    for (let i = 0; i < NAME_BYTES; i++) view.setUint8(offset + i, place.name.charCodeAt(i) || 0)
    view.setUint32(offset + NAME_BYTES, place.width, true)
    view.setUint32(offset + NAME_BYTES + 4, place.offset, true)
    view.setUint32(offset + NAME_BYTES + 8, place.bytes, true)
  })
  return openTape(buffer)
}

/** Column views over memory that `newTape` or a checked file filled, on this or another thread. */
export function openTape(buffer: SharedArrayBuffer): Tape {
  const view = new DataView(buffer)
  const head = Object.fromEntries(HEAD_FIELDS.map((field, n) => [field, view.getInt32(12 + n * 4, true)])) as unknown as TapeHead
  const { places } = tapePlaces(head)
  const find = (name: string) => places.find((place) => place.name === name) as ColumnPlace
  const words = (name: string) => new Uint32Array(buffer, find(name).offset, find(name).bytes / 4)
  const halves = (name: string) => new Uint16Array(buffer, find(name).offset, find(name).bytes / 2)
  return {
    ...head,
    buffer,
    starts: words('starts'),
    numbers: words('numbers'),
    traffic: words('traffic'),
    words: new Int32Array(buffer, find('words').offset, find('words').bytes / 4),
    group: new Uint8Array(buffer, find('group').offset, find('group').bytes),
    rows: {
      count: head.rowCount,
      person: words('person'),
      key: words('key'),
      rival: words('rival'),
      second: words('second'),
      minute: halves('minute'),
      path: halves('path'),
      device: halves('device'),
      page: halves('page'),
      state: halves('state'),
      sincePop: halves('sincePop')
    }
  }
}

const checksum = (buffer: SharedArrayBuffer, from: number, bytes: number) => hashBytes(new Uint8Array(buffer, from, bytes), TAPE_VERSION)

/** Writes the checksums of a filled tape; from then on its bytes are a file. */
export function sealTape(tape: Tape): void {
  const view = new DataView(tape.buffer)
  const { places } = tapePlaces(tape)
  places.forEach((place, n) =>
    view.setUint32(FIXED_BYTES + n * COLUMN_BYTES + NAME_BYTES + 12, checksum(tape.buffer, place.offset, place.bytes), true)
  )
  const end = FIXED_BYTES + places.length * COLUMN_BYTES
  view.setUint32(end, checksum(tape.buffer, 0, end), true)
}

/** A file that is no tape of this world; `message` says why. */
export class TapeFileError extends Error {}

/** What a file must be of, for a tape that somebody is to be served from. */
export type TapeWish = Pick<TapeHead, 'seed' | 'people' | 'sample'> & Partial<Pick<TapeHead, 'firstDay'>>

/**
 * Checks a file's bytes whole and opens it.
 * @throws TapeFileError that names what is wrong: not a tape, another version, world or day, cut short, damaged column
 */
export function openTapeFile(buffer: SharedArrayBuffer, wish?: TapeWish): Tape {
  const view = new DataView(buffer)
  const bytes = buffer.byteLength
  if (bytes < FIXED_BYTES || [...MAGIC].some((letter, i) => view.getUint8(i) !== letter.charCodeAt(0)))
    throw new TapeFileError('It is no tape file.')
  const version = view.getUint32(8, true)
  if (version !== TAPE_VERSION) throw new TapeFileError(`It is of version ${version}; this program reads version ${TAPE_VERSION}.`)
  const count = view.getUint32(36, true)
  const end = FIXED_BYTES + count * COLUMN_BYTES
  if (count > 64 || end + 4 > bytes || view.getUint32(end, true) !== checksum(buffer, 0, end))
    throw new TapeFileError('Its header is damaged.')
  if (view.getUint32(40, true) !== bytes) throw new TapeFileError(`It has ${bytes} bytes; its header says ${view.getUint32(40, true)}.`)
  const tape = openTape(buffer)
  for (const field of ['seed', 'people', 'sample', 'firstDay'] as const) {
    if (wish?.[field] !== undefined && wish[field] !== tape[field])
      throw new TapeFileError(`It is of another world or day: ${field} is ${tape[field]}, not ${wish[field]}.`)
  }
  tapePlaces(tape).places.forEach((place, n) => {
    const offset = FIXED_BYTES + n * COLUMN_BYTES
    const named = place.name.split('').every((letter, i) => view.getUint8(offset + i) === letter.charCodeAt(0))
    if (
      !named ||
      view.getUint32(offset + NAME_BYTES + 4, true) !== place.offset ||
      view.getUint32(offset + NAME_BYTES + 8, true) !== place.bytes
    )
      throw new TapeFileError(`Its column ${place.name} is not where it belongs.`)
    if (view.getUint32(offset + NAME_BYTES + 12, true) !== checksum(buffer, place.offset, place.bytes))
      throw new TapeFileError(`Its column ${place.name} is damaged.`)
  })
  return tape
}
