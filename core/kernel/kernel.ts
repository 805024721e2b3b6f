/**
 * The two loops in which a forecast spends its time, for lines whose bid is the same for every row: which rows match and
 * what they would take to win, and what a bid wins of them. Compiled to WebAssembly by the build. The TypeScript beside it
 * (matched.ts, plain-kernel.ts) says the same in plain words, and tests hold the two together.
 *
 * A block of 32-bit numbers at `p` says where everything lies; its order is that of `kernel-memory.ts`.
 */

const CELLULAR: u32 = 1
const WEEK_MINUTES: u32 = 10080
const PASS_MINUTES: i32 = 20160

@inline function at(p: usize, n: i32): usize {
  return <usize>load<u32>(p + (n << 2))
}

/** Price of a match in one word: what it takes to win, whether a rival set it, and whether the bid itself is paid. */
const NEED: u32 = 0x3fffffff
const BY_RIVAL: u32 = 0x40000000
const FIRST: u32 = 0x80000000

/** What is paid, without data, by a bid that wins. */
@inline function paidFor(word: u32, bid: u32): u32 {
  // No branch: which of the two it is can not be guessed.
  const first = <u32>(<i32>word >> 31)
  return (bid & first) | (((word & NEED) - ((word >> 30) & 1)) & ~first)
}

/** Chance of a visit in millionths. */
@inline function visitChance(p: usize, benchmark: u32, kind: u32, country: u32): u32 {
  return benchmark >= <u32>at(p, 31) ? load<u32>(at(p, 27) + (<usize>benchmark << 2)) : load<u32>(at(p, 26) + (<usize>((benchmark * 6 + <u32>load<u8>(at(p, 28) + <usize>kind)) * 24 + country) << 2))
}

/** Week x measure x group of what the current bid wins while rows are matched, and one person's window of times. */
@inline function weekTotals(totals: usize, week: usize): usize {
  return totals + week * ((6 * 32 + 1 + 10) << 3)
}

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
  const rival = at(p, 10)
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
  const floors = at(p, 23)
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
    const older = price(path, minute, rival, floors, outRows, outWord, outMinute, before, total)
    const g = <usize>load<u8>(group + <usize>person)
    store<f64>(byGroup + (g << 3), load<f64>(byGroup + (g << 3)) + <f64>older)
    store<f64>(byGroup + ((g + 32) << 3), load<f64>(byGroup + ((g + 32) << 3)) + <f64>(total - before - older))
    store<u32>(outPeople + (<usize>people << 2), person)
    store<u32>(outStarts + (<usize>people << 2), before)
    people++
    if (early) {
      const at0 = full ? g : 0
      if (older > 0) replayEarly(p, 0, at0, <usize>postal, before, before + older)
      if (total > before + older) replayEarly(p, 1, at0, <usize>postal, before + older, total)
    }
  }
  store<u32>(outStarts + (<usize>people << 2), total)
  store<u32>(p + (63 << 2), people)
  return total
}

/** What each match takes to win, and when it was; returns how many are of the first week. */
function price(path: usize, minute: usize, rival: usize, floors: usize, outRows: usize, outWord: usize, outMinute: usize, from: i32, to: i32): i32 {
  let older: i32 = 0
  for (let m = from; m < to; m++) {
    const row = <usize>load<u32>(outRows + (<usize>m << 2))
    const floorWord = load<u32>(floors + (<usize>load<u16>(path + (row << 1)) << 2))
    const floor = floorWord & NEED
    const best = load<u32>(rival + (row << 2))
    const when = <u32>load<u16>(minute + (row << 1))
    const byRival = <u32>(floor <= best)
    store<u32>(outWord + (<usize>m << 2), floor ^ ((floor ^ (best + 1)) & (0 - byRival)) | (byRival << 30) | (floorWord & FIRST))
    store<u16>(outMinute + (<usize>m << 1), <u16>when)
    older += <i32>(when < WEEK_MINUTES)
  }
  return older
}

/** Replays what the current bid wins of one person's matches of one week. */
function replayEarly(p: usize, week: usize, g: usize, postal: usize, from: i32, to: i32): void {
  const words = at(p, 35)
  const minutes = at(p, 37)
  const bid = <u32>at(p, 42)
  const data = <u32>at(p, 43)
  const slotOf = at(p, 45)
  const caps = <i32>at(p, 50)
  const gap = <i32>at(p, 53)
  const full = at(p, 54) != 0
  const isCapped = caps > 0 || gap > 0
  const capTimes = at(p, 51)
  const capMinutes = at(p, 52)
  const times = at(p, 62) + 32768
  const slots = at(p, 57) + (((week * (full ? 32 : 1) + g) * <usize>at(p, 49)) << 4)
  let wins: i32 = 0
  let spend: f64 = 0
  let squares: f64 = 0
  let views: f64 = 0
  let visited: f64 = 0
  let conversions: f64 = 0
  // Who wins is as good as random: winners are gathered without a branch, and the loop over them has none to guess.
  const winners = at(p, 62)
  let found: usize = 0
  for (let m = from; m < to; m++) {
    store<u32>(winners + (found << 2), m)
    found += <usize>((load<u32>(words + (<usize>m << 2)) & NEED) <= bid)
  }
  for (let n: usize = 0; n < found; n++) {
    const m = load<u32>(winners + (n << 2))
    const word = load<u32>(words + (<usize>m << 2))
    const when = <u32>load<u16>(minutes + (<usize>m << 1))
    if (isCapped) {
      if (blocked(wins, <i32>when, caps, gap, capTimes, capMinutes, times)) continue
      store<i32>(times + (<usize>wins << 2), <i32>when)
    }
    const paid = <f64>(paidFor(word, bid) + data)
    wins++
    spend += paid
    squares += paid * paid
    const cellAt = slots + (<usize>load<u8>(slotOf + <usize>when) << 4)
    store<f64>(cellAt, load<f64>(cellAt) + paid)
    store<f64>(cellAt, load<f64>(cellAt, 8) + 1, 8)
    if (full) {
      const row = <usize>load<u32>(at(p, 34) + (<usize>m << 2))
      const benchmark = <u32>load<u8>(at(p, 25) + <usize>load<u16>(at(p, 4) + (row << 1)))
      const visit = <f64>visitChance(p, benchmark, load<u16>(at(p, 5) + (row << 1)), load<u8>(at(p, 29) + postal))
      views += <f64>load<u32>(at(p, 60) + (<usize>benchmark << 2))
      visited += visit
      conversions += (visit * <f64>load<u32>(at(p, 61) + (<usize>benchmark << 2))) / 1e6
    }
  }
  if (wins > 0) book(weekTotals(at(p, 59), week), g, wins, spend, squares, views, visited, conversions, full)
}

/** Whether a cap or the gap stops a win now, after `wins` wins. */
@inline function blocked(wins: i32, now: i32, caps: i32, gap: i32, capTimes: usize, capMinutes: usize, times: usize): bool {
  if (wins > 0 && now - load<i32>(times + (<usize>(wins - 1) << 2)) < gap) return true
  for (let c: i32 = 0; c < caps; c++) {
    const most = load<i32>(capTimes + (<usize>c << 2))
    if (wins >= most && now - load<i32>(times + (<usize>(wins - most) << 2)) < load<i32>(capMinutes + (<usize>c << 2))) return true
  }
  return false
}

/** Adds what one person brought to totals. */
function book(totals: usize, g: usize, wins: i32, spend: f64, squares: f64, views: f64, visited: f64, conversions: f64, full: bool): void {
  add(totals, 0, g, <f64>wins)
  add(totals, 1, g, spend)
  add(totals, 2, g, 1)
  if (full) {
    add(totals, 3, g, views)
    add(totals, 4, g, visited)
    add(totals, 5, g, conversions)
  }
  const after = totals + ((6 * 32) << 3)
  store<f64>(after, load<f64>(after) + squares)
  const bin = after + ((1 + <usize>(wins < 10 ? wins - 1 : <i32>9)) << 3)
  store<f64>(bin, load<f64>(bin) + 1)
}

/**
 * Replays what a bid wins. Totals go to `totals`: six measures x 32 groups, then squares and ten bins.
 * With `full` groups are told apart and expected views, visits and conversions summed.
 */
export function replayRows(p: usize): void {
  const group = at(p, 3)
  const people = at(p, 32)
  const starts = at(p, 33)
  const need = at(p, 35)
  const minutes = at(p, 37)
  const rows = at(p, 34)
  const words = at(p, 1)
  const path = at(p, 4)
  const device = at(p, 5)
  const groupByPath = at(p, 25)
  const postalCountry = at(p, 29)
  const persons = <i32>at(p, 41)
  const bid = <u32>at(p, 42)
  const data = <u32>at(p, 43)
  const time = at(p, 44)
  const slotOf = at(p, 45)
  const repeats = <i32>at(p, 46)
  const firstMinute = <i32>at(p, 47)
  const span = <i32>at(p, 48)
  const slots = <usize>at(p, 49)
  const caps = <i32>at(p, 50)
  const capTimes = at(p, 51)
  const capMinutes = at(p, 52)
  const gap = <i32>at(p, 53)
  const full = at(p, 54) != 0
  const every = <u32>at(p, 55)
  const isFlight = at(p, 56) != 0
  const slotSpend = at(p, 57)
  const totals = at(p, 59)
  const viewChance = at(p, 60)
  const conversionChance = at(p, 61)
  const entries = at(p, 62)
  const entryMatch = entries + 16384
  const times = entries + 32768
  const isCapped = caps > 0 || gap > 0
  const simple = !isCapped && repeats == 1 && firstMinute == 0
  const single = isCapped && caps == 1 && gap == 0
  const most0 = caps > 0 ? load<i32>(capTimes) : 0
  const window0 = caps > 0 ? load<i32>(capMinutes) : 0
  for (let n: i32 = 0; n < persons; n++) {
    const person = load<u32>(people + (<usize>n << 2))
    if (every > 1 && person % every != 0) continue
    const from = load<u32>(starts + (<usize>n << 2))
    const to = load<u32>(starts + (<usize>(n + 1) << 2))
    const g = full ? <usize>load<u8>(group + <usize>person) : 0
    const slotsAt = slotSpend + ((g * slots) << 4)
    let wins: i32 = 0
    let spend: f64 = 0
    let squares: f64 = 0
    let views: f64 = 0
    let visited: f64 = 0
    let conversions: f64 = 0
    let count: i32 = 0
    if (!simple) {
      for (let pass: i32 = 0; pass < repeats; pass++) {
        const more = pass * PASS_MINUTES
        for (let m = from; m < to; m++) {
          if ((load<u32>(need + (<usize>m << 2)) & NEED) > bid) continue
          const t = load<i32>(time + (<usize>load<u16>(minutes + (<usize>m << 1)) << 2))
          const when = t + more
          if (t < 0 || when < firstMinute || when >= span) continue
          let j = count++
          if (isCapped) {
            while (j > 0 && load<i32>(entries + (<usize>(j - 1) << 2)) > when) {
              store<i32>(entries + (<usize>j << 2), load<i32>(entries + (<usize>(j - 1) << 2)))
              store<u32>(entryMatch + (<usize>j << 2), load<u32>(entryMatch + (<usize>(j - 1) << 2)))
              j--
            }
          }
          store<i32>(entries + (<usize>j << 2), when)
          store<u32>(entryMatch + (<usize>j << 2), m)
        }
      }
    }
    const end = simple ? to : <u32>count
    for (let e: u32 = simple ? from : 0; e < end; e++) {
      let m = e
      let slot: usize
      if (simple) {
        if ((load<u32>(need + (<usize>m << 2)) & NEED) > bid) continue
        const s = load<i16>(slotOf + (<usize>load<u16>(minutes + (<usize>m << 1)) << 1))
        if (s < 0) continue
        slot = <usize>s
      } else {
        const when = load<i32>(entries + (<usize>e << 2))
        if (isCapped) {
          if (single) {
            if (wins >= most0 && when - load<i32>(times + (<usize>(wins - most0) << 2)) < window0) continue
          } else {
            if (wins > 0 && when - load<i32>(times + (<usize>(wins - 1) << 2)) < gap) continue
            let capped = false
            for (let c: i32 = 0; c < caps; c++) {
              const most = load<i32>(capTimes + (<usize>c << 2))
              if (wins >= most && when - load<i32>(times + (<usize>(wins - most) << 2)) < load<i32>(capMinutes + (<usize>c << 2))) {
                capped = true
                break
              }
            }
            if (capped) continue
          }
          store<i32>(times + (<usize>wins << 2), when)
        }
        m = load<u32>(entryMatch + (<usize>e << 2))
        slot = isFlight ? <usize>(when / 60) : <usize>load<i16>(slotOf + (<usize>load<u16>(minutes + (<usize>m << 1)) << 1))
      }
      const paid = <f64>(paidFor(load<u32>(need + (<usize>m << 2)), bid) + data)
      wins++
      spend += paid
      squares += paid * paid
      const cellAt = slotsAt + (slot << 4)
      store<f64>(cellAt, load<f64>(cellAt) + paid)
      store<f64>(cellAt, load<f64>(cellAt, 8) + 1, 8)
      if (full) {
        const row = <usize>load<u32>(rows + (<usize>m << 2))
        const benchmark = <u32>load<u8>(groupByPath + <usize>load<u16>(path + (row << 1)))
        const visit = <f64>visitChance(p, benchmark, load<u16>(device + (row << 1)), load<u8>(postalCountry + <usize>(load<u32>(words + (<usize>person << 4)) & 0x3fff)))
        views += <f64>load<u32>(viewChance + (<usize>benchmark << 2))
        visited += visit
        conversions += (visit * <f64>load<u32>(conversionChance + (<usize>benchmark << 2))) / 1e6
      }
    }
    if (wins > 0) book(totals, g, wins, spend, squares, views, visited, conversions, full)
  }
}

@inline function add(totals: usize, measure: usize, g: usize, value: f64): void {
  const place = totals + ((measure * 32 + g) << 3)
  store<f64>(place, load<f64>(place) + value)
}

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
    const g = <usize>load<u8>(group + <usize>load<u32>(people + (<usize>n << 2)))
    const to = load<u32>(starts + (<usize>(n + 1) << 2))
    let eligible: i32 = 0
    let first: i32 = 0
    let next: i32 = 0
    for (let m = load<u32>(starts + (<usize>n << 2)); m < to; m++) {
      const row = <usize>load<u32>(rows + (<usize>m << 2))
      if (bid > 0 && bid >= (load<u32>(floors + (<usize>load<u16>(path + (row << 1)) << 2)) & NEED)) eligible++
      if (bid > 0 && bid >= (load<u32>(need + (<usize>m << 2)) & NEED)) first++
      else if (bid > load<u32>(second + (row << 2)) && bid <= load<u32>(rival + (row << 2))) next++
    }
    store<f64>(out + (g << 3), load<f64>(out + (g << 3)) + <f64>eligible)
    store<f64>(out + ((g + 32) << 3), load<f64>(out + ((g + 32) << 3)) + <f64>first)
    store<f64>(out + ((g + 64) << 3), load<f64>(out + ((g + 64) << 3)) + <f64>next)
  }
}
