import { at } from './memory'
import { replayEarly } from './replay'
import { weekTotals } from './totals'
import { playUncapped, settle } from './uncapped'

const CELLULAR: u32 = 1
const WEEK_MINUTES: u32 = 10080
const WEEK_CELLS: usize = 168 << 4

/**
 * Matches all rows; returns how many, and writes the number of people to slot 63 of the block. On the way, what the current bid
 * wins of each of the two weeks is replayed, so that the first answer to an edit needs one pass.
 */
export function matchRows(p: usize): i32 {
  const peopleCount = <i32>at(p, 0)
  const words = at(p, 1)
  const starts = at(p, 2)
  const group = at(p, 3)
  const path = at(p, 4)
  const device = at(p, 5)
  const page = at(p, 6)
  const state = at(p, 7)
  const sincePop = at(p, 8)
  const minute = at(p, 9)
  const priceWord = at(p, 24)
  const postalFails = at(p, 11)
  const demographicFails = at(p, 12)
  const tongueFails = at(p, 13)
  const jobFails = at(p, 14)
  const profileFails = at(p, 15)
  const employerFails = at(p, 16)
  const cellFails = at(p, 17)
  const fixedFails = at(p, 18)
  const pathFails = at(p, 19)
  const deviceFails = at(p, 20)
  const pageFails = at(p, 21)
  const stateFails = at(p, 22)
  const leastSincePop = <u32>at(p, 30)
  const outPeople = at(p, 32)
  const outStarts = at(p, 33)
  const outRows = at(p, 34)
  const outWord = at(p, 35)
  const outMinute = at(p, 37)
  const byGroup = at(p, 40)
  // Which tables hold anything at all: a line that restricts nothing reads none of them.
  const reads = <u32>at(p, 66)
  const readsPerson = (reads & 1) != 0
  const readsNetwork = (reads & 2) != 0
  const readsDevice = (reads & 4) != 0
  const readsPage = (reads & 8) != 0
  const readsState = (reads & 16) != 0
  const readsPops = leastSincePop > 0
  const readsPath = (reads & 32) != 0
  const early = at(p, 67) != 0
  const readsRows = readsDevice || readsPage || readsState || readsPath || readsPops
  const full = at(p, 54) != 0
  const uncapped = at(p, 68) != 0
  const totals = at(p, 59)
  const bid = <u32>at(p, 42)
  const data = <u32>at(p, 43)
  const halfOf = at(p, 69)
  const cells = at(p, 57)
  let total: i32 = 0
  let people: i32 = 0
  for (let person: i32 = 0; person < peopleCount; person++) {
    let i = load<u32>(starts + (<usize>person << 2))
    const end = load<u32>(starts + (<usize>(person + 1) << 2))
    if (i == end) continue
    const at0 = words + (<usize>person << 4)
    const word0 = load<u32>(at0)
    const postal = word0 & 0x3fff
    if (readsPerson) {
      const word1 = load<u32>(at0, 4)
      if ((load<i32>(postalFails + (<usize>postal << 2)) | load<i32>(demographicFails + (<usize>(word1 & 0xff) << 2)) | load<i32>(tongueFails + (<usize>((word1 >> 8) & 0x3f) << 2)) |
        load<i32>(jobFails + (<usize>((word1 >> 14) & 0x1f) << 2)) | load<i32>(profileFails + (<usize>((word1 >> 19) & 0xfff) << 2)) | load<i32>(employerFails + (<usize>(load<u32>(at0, 8) & 0x1ff) << 2))) != 0) continue
    }
    let cell: i32 = 0
    let fixed: i32 = 0
    if (readsNetwork) {
      const word2 = load<u32>(at0, 8)
      const block = word2 >> 26
      cell = load<i32>(cellFails + (<usize>((((word2 >> 9) & 0x7f) << 6) + block) << 2))
      fixed = load<i32>(fixedFails + (<usize>((((word2 >> 16) & 0x7f) << 6) + block) << 2))
      if (cell != 0 && fixed != 0) continue
    }
    // Three short loops over one person's rows instead of one long one: few values are alive in each, so that they stay in registers.
    const before = total
    if (readsRows) {
      for (; i < end; i++) {
        if (readsPath && load<i32>(pathFails + (<usize>load<u16>(path + (<usize>i << 1)) << 2)) != 0) continue
        if (readsDevice && load<i32>(deviceFails + (<usize>load<u16>(device + (<usize>i << 1)) << 2)) != 0) continue
        if (readsPage && load<i32>(pageFails + (<usize>load<u16>(page + (<usize>i << 1)) << 2)) != 0) continue
        if (readsState) {
          const facts = <u32>load<u16>(state + (<usize>i << 1))
          if ((load<i32>(stateFails + (<usize>facts << 2)) | (((facts >> 3) & 3) == CELLULAR ? cell : fixed)) != 0) continue
        }
        if (readsPops && <u32>load<u16>(sincePop + (<usize>i << 1)) < leastSincePop) continue
        store<u32>(outRows + (<usize>total << 2), i)
        total++
      }
    } else for (; i < end; i++, total++) store<u32>(outRows + (<usize>total << 2), i)
    if (total == before) continue
    const older = price(minute, priceWord, outRows, outWord, outMinute, before, total)
    const g = <usize>load<u8>(group + <usize>person)
    store<f64>(byGroup + (g << 3), load<f64>(byGroup + (g << 3)) + <f64>older)
    store<f64>(byGroup + ((g + 32) << 3), load<f64>(byGroup + ((g + 32) << 3)) + <f64>(total - before - older))
    store<u32>(outPeople + (<usize>people << 2), person)
    store<u32>(outStarts + (<usize>people << 2), before)
    people++
    if (uncapped) {
      const at0 = full ? g : 0
      const cellsOf = cells + at0 * WEEK_CELLS
      if (older > 0) playUncapped(p, weekTotals(totals, 0), at0, <usize>postal, full, outWord, outMinute, halfOf, cellsOf, bid, data, before, before + older)
      if (total > before + older) playUncapped(p, weekTotals(totals, 1), at0, <usize>postal, full, outWord, outMinute, halfOf, cellsOf + (full ? 32 * WEEK_CELLS : WEEK_CELLS), bid, data, before + older, total)
    } else if (early) {
      const at0 = full ? g : 0
      if (older > 0) replayEarly(p, 0, at0, <usize>postal, before, before + older)
      if (total > before + older) replayEarly(p, 1, at0, <usize>postal, before + older, total)
    }
  }
  if (uncapped) settle(cells, 2 * WEEK_CELLS * (full ? 32 : 1))
  store<u32>(outStarts + (<usize>people << 2), total)
  store<u32>(p + (63 << 2), people)
  return total
}

/** What each match takes to win, and when it was; returns how many are of the first week. */
@inline function price(minute: usize, priceWord: usize, outRows: usize, outWord: usize, outMinute: usize, from: i32, to: i32): i32 {
  let older: i32 = 0
  for (let m = from; m < to; m++) {
    const row = <usize>load<u32>(outRows + (<usize>m << 2))
    const when = <u32>load<u16>(minute + (row << 1))
    store<u32>(outWord + (<usize>m << 2), load<u32>(priceWord + (row << 2)))
    store<u16>(outMinute + (<usize>m << 1), <u16>when)
    older += <i32>(when < WEEK_MINUTES)
  }
  return older
}
