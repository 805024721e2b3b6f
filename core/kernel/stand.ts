import { GROUPS, NEED, Place } from './layout'
import { at } from './memory'

/** Standing of matched rows at a bid, by group: at or over the floor, first, between second and best rival. */
export function standRows(p: usize): void {
  const group = at(p, Place.group)
  const path = at(p, Place.path)
  const rival = at(p, Place.rival)
  const floors = at(p, Place.floors)
  const people = at(p, Place.outPeople)
  const starts = at(p, Place.outStarts)
  const rows = at(p, Place.outRows)
  const need = at(p, Place.outWord)
  const persons = <i32>at(p, Place.persons)
  const bid = <u32>at(p, Place.bid)
  const second = at(p, Place.second)
  const out = at(p, Place.standing)
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
    store<f64>(out + ((g + GROUPS) << 3), load<f64>(out + ((g + GROUPS) << 3)) + <f64>first)
    store<f64>(out + ((g + 2 * GROUPS) << 3), load<f64>(out + ((g + 2 * GROUPS) << 3)) + <f64>next)
  }
}
