import { NEED, at } from './memory'

/** Standing of matched rows at a bid, by group: at or over the floor, first, between second and best rival. */
export function standRows(p: usize): void {
  const group = at(p, 3)
  const path = at(p, 4)
  const rival = at(p, 10)
  const floors = at(p, 23)
  const people = at(p, 32)
  const starts = at(p, 33)
  const rows = at(p, 34)
  const need = at(p, 35)
  const persons = <i32>at(p, 41)
  const bid = <u32>at(p, 42)
  const second = at(p, 64)
  const out = at(p, 65)
  for (let n: i32 = 0; n < persons; n++) {
    const g = <usize>load<u8>(group + <usize>load<u32>(people + ((<usize>n) << 2)))
    const to = load<u32>(starts + ((<usize>(n + 1)) << 2))
    let eligible: i32 = 0
    let first: i32 = 0
    let next: i32 = 0
    for (let m = load<u32>(starts + ((<usize>n) << 2)); m < to; m++) {
      const row = <usize>load<u32>(rows + ((<usize>m) << 2))
      if (bid > 0 && bid >= (load<u32>(floors + ((<usize>load<u16>(path + (row << 1))) << 2)) & NEED)) eligible++
      if (bid > 0 && bid >= (load<u32>(need + ((<usize>m) << 2)) & NEED)) first++
      else if (bid > load<u32>(second + (row << 2)) && bid <= load<u32>(rival + (row << 2))) next++
    }
    store<f64>(out + (g << 3), load<f64>(out + (g << 3)) + <f64>eligible)
    store<f64>(out + ((g + 32) << 3), load<f64>(out + ((g + 32) << 3)) + <f64>first)
    store<f64>(out + ((g + 64) << 3), load<f64>(out + ((g + 64) << 3)) + <f64>next)
  }
}
