import { NEED, Place } from './layout'

/** Where things lie for the loops, and what their words hold. */

@inline export function at(p: usize, place: Place): usize {
  return <usize>load<u32>(p + (<usize>place << 2))
}

/** What is paid, without data, by a bid that wins. */
@inline export function paidFor(word: u32, bid: u32): u32 {
  // No branch: which of the two it is can not be guessed.
  const first = <u32>(<i32>word >> 31)
  return (bid & first) | (((word & NEED) - ((word >> 30) & 1)) & ~first)
}
