import {
  CELLULAR,
  GROUPS,
  Place,
  READS_DEVICE,
  READS_NETWORK,
  READS_PAGE,
  READS_PATH,
  READS_PERSON,
  READS_STATE,
  WEEK_MINUTES,
  WEEK_SLOTS
} from './layout'
import { at } from './memory'
import { replayEarly } from './replay'
import { weekTotals } from './totals'
import { playUncapped, settle } from './uncapped'

const WEEK_CELLS: usize = WEEK_SLOTS << 4

/**
 * Matches all rows; returns how many, and writes the number of people to the block. On the way, what the current bid
 * wins of each of the two weeks is replayed, so that the first answer to an edit needs one pass.
 */
export function matchRows(p: usize): i32 {
  const peopleCount = <i32>at(p, Place.peopleCount)
  const words = at(p, Place.words)
  const starts = at(p, Place.starts)
  const group = at(p, Place.group)
  const path = at(p, Place.path)
  const device = at(p, Place.device)
  const page = at(p, Place.page)
  const state = at(p, Place.state)
  const sincePop = at(p, Place.sincePop)
  const minute = at(p, Place.minute)
  const priceWord = at(p, Place.priceWord)
  const postalFails = at(p, Place.postalFails)
  const demographicFails = at(p, Place.demographicFails)
  const tongueFails = at(p, Place.tongueFails)
  const jobFails = at(p, Place.jobFails)
  const profileFails = at(p, Place.profileFails)
  const employerFails = at(p, Place.employerFails)
  const cellFails = at(p, Place.cellFails)
  const fixedFails = at(p, Place.fixedFails)
  const pathFails = at(p, Place.pathFails)
  const deviceFails = at(p, Place.deviceFails)
  const pageFails = at(p, Place.pageFails)
  const stateFails = at(p, Place.stateFails)
  const leastSincePop = <u32>at(p, Place.leastSincePop)
  const outPeople = at(p, Place.outPeople)
  const outStarts = at(p, Place.outStarts)
  const outRows = at(p, Place.outRows)
  const outWord = at(p, Place.outWord)
  const outMinute = at(p, Place.outMinute)
  const byGroup = at(p, Place.byGroup)
  // Which tables hold anything at all: a line that restricts nothing reads none of them.
  const reads = <u32>at(p, Place.reads)
  const readsPerson = (reads & READS_PERSON) != 0
  const readsNetwork = (reads & READS_NETWORK) != 0
  const readsDevice = (reads & READS_DEVICE) != 0
  const readsPage = (reads & READS_PAGE) != 0
  const readsState = (reads & READS_STATE) != 0
  const readsPops = leastSincePop > 0
  const readsPath = (reads & READS_PATH) != 0
  const early = at(p, Place.early) != 0
  const readsRows = readsDevice || readsPage || readsState || readsPath || readsPops
  const full = at(p, Place.full) != 0
  const uncapped = at(p, Place.uncapped) != 0
  const totals = at(p, Place.totals)
  const bid = <u32>at(p, Place.bid)
  const data = <u32>at(p, Place.data)
  const cells = at(p, Place.slotTotals)
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
      const fails =
        load<i32>(postalFails + (<usize>postal << 2)) |
        load<i32>(demographicFails + (<usize>(word1 & 0xff) << 2)) |
        load<i32>(tongueFails + (<usize>((word1 >> 8) & 0x3f) << 2)) |
        load<i32>(jobFails + (<usize>((word1 >> 14) & 0x1f) << 2)) |
        load<i32>(profileFails + (<usize>((word1 >> 19) & 0xfff) << 2)) |
        load<i32>(employerFails + (<usize>(load<u32>(at0, 8) & 0x1ff) << 2))
      if (fails != 0) continue
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
    store<f64>(byGroup + ((g + GROUPS) << 3), load<f64>(byGroup + ((g + GROUPS) << 3)) + <f64>(total - before - older))
    store<u32>(outPeople + (<usize>people << 2), person)
    store<u32>(outStarts + (<usize>people << 2), before)
    people++
    if (uncapped) {
      const at0 = full ? g : 0
      const cellsOf = cells + at0 * WEEK_CELLS
      const next = cellsOf + (full ? GROUPS * WEEK_CELLS : WEEK_CELLS)
      const joint = before + older
      if (older > 0) playUncapped(p, weekTotals(totals, 0), at0, <usize>postal, full, cellsOf, bid, data, before, joint)
      if (total > joint) playUncapped(p, weekTotals(totals, 1), at0, <usize>postal, full, next, bid, data, joint, total)
    } else if (early) {
      const at0 = full ? g : 0
      if (older > 0) replayEarly(p, 0, at0, <usize>postal, before, before + older)
      if (total > before + older) replayEarly(p, 1, at0, <usize>postal, before + older, total)
    }
  }
  if (uncapped) settle(cells, 2 * WEEK_CELLS * (full ? GROUPS : 1))
  store<u32>(outStarts + (<usize>people << 2), total)
  store<u32>(p + (<usize>Place.peopleFound << 2), people)
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
