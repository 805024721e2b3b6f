/** Where things lie for the loops, and what their words hold. */

@inline export function at(p: usize, n: i32): usize {
  return <usize>load<u32>(p + (n << 2))
}

/** Price of a match in one word: what it takes to win, whether a rival set it, and whether the bid itself is paid. */
export const NEED: u32 = 0x3fffffff
export const FIRST: u32 = 0x80000000

/** What is paid, without data, by a bid that wins. */
@inline export function paidFor(word: u32, bid: u32): u32 {
  // No branch: which of the two it is can not be guessed.
  const first = <u32>(<i32>word >> 31)
  return (bid & first) | (((word & NEED) - ((word >> 30) & 1)) & ~first)
}
