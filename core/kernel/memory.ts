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

/** Chance of a visit in millionths. */
@inline export function visitChance(p: usize, benchmark: u32, kind: u32, country: u32): u32 {
  return benchmark >= <u32>at(p, 31) ? load<u32>(at(p, 27) + (<usize>benchmark << 2)) : load<u32>(at(p, 26) + (<usize>((benchmark * 6 + <u32>load<u8>(at(p, 28) + <usize>kind)) * 24 + country) << 2))
}
