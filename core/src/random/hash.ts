/**
 * Integer hashing. Every draw of the stand-in market is a hash of (seed, stream, day, person, k),
 * so that any part of it can be made again, alone, on any thread.
 * The mixing steps are those of MurmurHash3 x86-32 (A. Appleby, public domain).
 */

/** Folds one 32-bit word into a running state. The state is not yet well mixed: see `finish`. */
export function step(state: number, word: number): number {
  let v = Math.imul(word, 0xcc9e2d51)
  v = (v << 15) | (v >>> 17)
  v = Math.imul(v, 0x1b873593)
  const h = state ^ v
  return (Math.imul((h << 13) | (h >>> 19), 5) + 0xe6546b64) | 0
}

/** Final avalanche. Returns an unsigned 32-bit integer, uniform over its range. */
export function finish(state: number): number {
  let h = state ^ (state >>> 16)
  h = Math.imul(h, 0x85ebca6b)
  h ^= h >>> 13
  h = Math.imul(h, 0xc2b2ae35)
  return (h ^ (h >>> 16)) >>> 0
}

/**
 * One draw below an already folded state as 32 bits in a signed integer, to be cut up with `>>>`.
 * Hot loops use it since V8 keeps signed 32-bit results out of the heap.
 */
export function drawBits(state: number, stream: number): number {
  const h0 = step(state, stream)
  let h = h0 ^ (h0 >>> 16)
  h = Math.imul(h, 0x85ebca6b)
  h ^= h >>> 13
  h = Math.imul(h, 0xc2b2ae35)
  return h ^ (h >>> 16)
}

/** One draw below an already folded state: uniform unsigned 32 bits. */
export function draw(state: number, stream: number): number {
  return finish(step(state, stream))
}

/** Folds any number of words below a seed; the order of the words matters. */
export function fold(seed: number, ...words: number[]): number {
  let state = seed | 0
  for (const word of words) state = step(state, word)
  return state
}

/** Uniform unsigned 32-bit hash of a seed and words. */
export function hash(seed: number, ...words: number[]): number {
  return finish(fold(seed, ...words))
}

/** The streams: one number for each independent kind of draw. Numbers are never reused. */
export const STREAM = {
  sample: 1,
  group: 2,
  property: 3,
  placement: 4,
  person: 5,
  opportunity: 6,
  count: 10,
  minute: 11,
  choices: 12,
  habit: 14,
  cell: 16,
  alias: 17,
  source: 18,
  rivals: 20,
  dayMarket: 30,
  dayPublisher: 31,
  dayPlacement: 32,
  country: 40,
  region: 41,
  rate: 42,
  mix: 43,
  value: 44,
  age: 45,
  income: 46,
  traits: 47,
  work: 48,
  language: 49,
  measure: 50,
  network: 51,
  provider: 52,
  profile: 53,
  segment: 54,
  page: 55,
  moment: 56,
  deal: 57,
  order: 60,
  pace: 61,
  ad: 62,
  viewable: 63,
  click: 64,
  visitor: 65,
  pull: 66,
  hold: 67,
  watch: 68,
  overlay: 69,
  unmute: 70,
  share: 71,
  stay: 72,
  pages: 73,
  convert: 74,
  delay: 75,
  worth: 76,
  tracker: 77,
  learn: 78,
  panel: 80,
  shop: 81,
  lift: 82,
  sells: 83,
  own: 84,
  offer: 85,
  asks: 86
} as const

/** Folds bytes into a 32-bit checksum for golden tests; not cryptographic. */
export function hashBytes(bytes: Uint8Array, seed = 0): number {
  let state = step(seed, bytes.length)
  const words = bytes.length >>> 2
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let i = 0; i < words; i++) state = step(state, view.getInt32(i * 4, true))
  for (let i = words * 4; i < bytes.length; i++) state = step(state, bytes[i])
  return finish(state)
}

/** A checksum over typed-array columns, as eight hexadecimal digits. */
export function hashColumns(columns: readonly ArrayBufferView[]): string {
  let state = 0
  for (const column of columns) {
    state = hashBytes(new Uint8Array(column.buffer, column.byteOffset, column.byteLength), state)
  }
  return (state >>> 0).toString(16).padStart(8, '0')
}
