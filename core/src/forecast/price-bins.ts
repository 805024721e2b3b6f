/**
 * Prices in bins of 1/64 of an octave (1.6 % at most); exact under 256 micros. Integer work only, so that it is the same
 * wherever it is done.
 */
const EXACT = 256
const PER_OCTAVE = 64
export const PRICE_BINS = EXACT + (31 - 8) * PER_OCTAVE

export function priceBin(micros: number): number {
  if (micros < EXACT) return micros
  const octave = 31 - Math.clz32(micros)
  return EXACT + (octave - 8) * PER_OCTAVE + ((micros >>> (octave - 6)) & (PER_OCTAVE - 1))
}

/** Middle of a bin, micros. */
export function binPrice(bin: number): number {
  if (bin < EXACT) return bin
  const octave = Math.floor((bin - EXACT) / PER_OCTAVE) + 8
  const low = (PER_OCTAVE + ((bin - EXACT) % PER_OCTAVE)) * 2 ** (octave - 6)
  return Math.floor(low + 2 ** (octave - 6) / 2)
}

/** Median over counts by bin, the lower of the two middle values; 0 when there are none. */
export function binMedian(counts: ArrayLike<number>, from = 0): number {
  let total = 0
  for (let bin = 0; bin < PRICE_BINS; bin++) total += counts[from + bin]
  let before = 0
  for (let bin = 0; bin < PRICE_BINS; bin++) {
    before += counts[from + bin]
    if (before * 2 >= total && total > 0) return binPrice(bin)
  }
  return 0
}
