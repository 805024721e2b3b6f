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
const BID_ITSELF: u32 = 0xffffffff

@inline function at(p: usize, n: i32): usize {
  return <usize>load<u32>(p + (n << 2))
}

/** Matches all rows; returns how many, and writes the number of people to slot 63 of the block. */
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
  const firstPrice = at(p, 24)
  const groupByPath = at(p, 25)
  const clicks = at(p, 26)
  const opened = at(p, 27)
  const deviceType = at(p, 28)
  const postalCountry = at(p, 29)
  const leastSincePop = <u32>at(p, 30)
  const popGroups = <u32>at(p, 31)
  const outPeople = at(p, 32)
  const outStarts = at(p, 33)
  const outRows = at(p, 34)
  const outNeed = at(p, 35)
  const outPay = at(p, 36)
  const outMinute = at(p, 37)
  const outVisits = at(p, 38)
  const outGroup = at(p, 39)
  const byGroup = at(p, 40)
  let total: i32 = 0
  let people: i32 = 0
  for (let person: i32 = 0; person < peopleCount; person++) {
    let i = load<u32>(starts + (<usize>person << 2))
    const end = load<u32>(starts + (<usize>(person + 1) << 2))
    if (i == end) continue
    const at0 = words + (<usize>person << 4)
    const word0 = load<u32>(at0)
    const word1 = load<u32>(at0, 4)
    const word2 = load<u32>(at0, 8)
    const postal = word0 & 0x3fff
    if ((load<i32>(postalFails + (<usize>postal << 2)) | load<i32>(demographicFails + (<usize>(word1 & 0xff) << 2)) | load<i32>(tongueFails + (<usize>((word1 >> 8) & 0x3f) << 2)) |
      load<i32>(jobFails + (<usize>((word1 >> 14) & 0x1f) << 2)) | load<i32>(profileFails + (<usize>((word1 >> 19) & 0xfff) << 2)) | load<i32>(employerFails + (<usize>(word2 & 0x1ff) << 2))) != 0) continue
    const block = word2 >> 26
    const cell = load<i32>(cellFails + (<usize>((((word2 >> 9) & 0x7f) << 6) + block) << 2))
    const fixed = load<i32>(fixedFails + (<usize>((((word2 >> 16) & 0x7f) << 6) + block) << 2))
    if (cell != 0 && fixed != 0) continue
    const country = <u32>load<u8>(postalCountry + <usize>postal)
    const before = total
    let older: i32 = 0
    for (; i < end; i++) {
      const facts = <u32>load<u16>(state + (<usize>i << 1))
      const way = <u32>load<u16>(path + (<usize>i << 1))
      const kind = <u32>load<u16>(device + (<usize>i << 1))
      if ((load<i32>(pathFails + (<usize>way << 2)) | load<i32>(deviceFails + (<usize>kind << 2)) | load<i32>(pageFails + (<usize>load<u16>(page + (<usize>i << 1)) << 2)) |
        load<i32>(stateFails + (<usize>facts << 2)) | (((facts >> 3) & 3) == CELLULAR ? cell : fixed)) != 0) continue
      if (<u32>load<u16>(sincePop + (<usize>i << 1)) < leastSincePop) continue
      const when = <u32>load<u16>(minute + (<usize>i << 1))
      if (when < WEEK_MINUTES) older++
      const floor = load<u32>(floors + (<usize>way << 2))
      const best = load<u32>(rival + (<usize>i << 2))
      const benchmark = <u32>load<u8>(groupByPath + <usize>way)
      const place = <usize>total
      store<u32>(outRows + (place << 2), i)
      store<u32>(outNeed + (place << 2), floor > best ? floor : best + 1)
      store<u32>(outPay + (place << 2), load<u8>(firstPrice + <usize>way) == 1 ? BID_ITSELF : floor > best ? floor : best)
      store<u16>(outMinute + (place << 1), <u16>when)
      store<u32>(outVisits + (place << 2), benchmark >= popGroups ? load<u32>(opened + (<usize>benchmark << 2)) : load<u32>(clicks + (<usize>((benchmark * 6 + <u32>load<u8>(deviceType + <usize>kind)) * 24 + country) << 2)))
      store<u8>(outGroup + place, <u8>benchmark)
      total++
    }
    if (total > before) {
      const g = <usize>load<u8>(group + <usize>person)
      store<f64>(byGroup + (g << 3), load<f64>(byGroup + (g << 3)) + <f64>older)
      store<f64>(byGroup + ((g + 32) << 3), load<f64>(byGroup + ((g + 32) << 3)) + <f64>(total - before - older))
      store<u32>(outPeople + (<usize>people << 2), person)
      store<u32>(outStarts + (<usize>people << 2), before)
      people++
    }
  }
  store<u32>(outStarts + (<usize>people << 2), total)
  store<u32>(p + (63 << 2), people)
  return total
}

/**
 * Replays what a bid wins. Totals go to `totals`: seven measures x 32 groups, then wins, reach, squares and ten bins.
 * With `full` groups are told apart and expected views, visits and conversions summed.
 */
export function replayRows(p: usize): void {
  const group = at(p, 3)
  const people = at(p, 32)
  const starts = at(p, 33)
  const need = at(p, 35)
  const pay = at(p, 36)
  const minutes = at(p, 37)
  const visits = at(p, 38)
  const benchmarks = at(p, 39)
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
  const slotWins = at(p, 58)
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
  let allWins: f64 = 0
  let allReach: f64 = 0
  let allSquares: f64 = 0
  for (let n: i32 = 0; n < persons; n++) {
    const person = load<u32>(people + (<usize>n << 2))
    if (every > 1 && person % every != 0) continue
    const from = load<u32>(starts + (<usize>n << 2))
    const to = load<u32>(starts + (<usize>(n + 1) << 2))
    const g = full ? <usize>load<u8>(group + <usize>person) : 0
    const spendAt = slotSpend + ((g * slots) << 3)
    const winsAt = slotWins + ((g * slots) << 3)
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
          if (load<u32>(need + (<usize>m << 2)) > bid) continue
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
        if (load<u32>(need + (<usize>m << 2)) > bid) continue
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
      const price = load<u32>(pay + (<usize>m << 2))
      const paid = <f64>((price == BID_ITSELF ? bid : price) + data)
      wins++
      spend += paid
      squares += paid * paid
      store<f64>(spendAt + (slot << 3), load<f64>(spendAt + (slot << 3)) + paid)
      store<f64>(winsAt + (slot << 3), load<f64>(winsAt + (slot << 3)) + 1)
      if (full) {
        const visit = <f64>load<u32>(visits + (<usize>m << 2))
        const benchmark = <usize>load<u8>(benchmarks + <usize>m)
        views += <f64>load<u32>(viewChance + (benchmark << 2))
        visited += visit
        conversions += (visit * <f64>load<u32>(conversionChance + (benchmark << 2))) / 1e6
      }
    }
    if (wins == 0) continue
    allWins += <f64>wins
    allReach += 1
    allSquares += squares
    add(totals, 0, g, <f64>wins)
    add(totals, 1, g, spend)
    add(totals, 2, g, 1)
    add(totals, 3, g, spend - <f64>wins * <f64>data)
    add(totals, 4, g, views)
    add(totals, 5, g, visited)
    add(totals, 6, g, conversions)
    const bin = totals + ((7 * 32 + 3 + <usize>(wins < 10 ? wins - 1 : <i32>9)) << 3)
    store<f64>(bin, load<f64>(bin) + 1)
  }
  store<f64>(totals + ((7 * 32) << 3), allWins)
  store<f64>(totals + ((7 * 32 + 1) << 3), allReach)
  store<f64>(totals + ((7 * 32 + 2) << 3), allSquares)
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
      if (bid > 0 && bid >= load<u32>(floors + (<usize>load<u16>(path + (row << 1)) << 2))) eligible++
      if (bid > 0 && bid >= load<u32>(need + (<usize>m << 2))) first++
      else if (bid > load<u32>(second + (row << 2)) && bid <= load<u32>(rival + (row << 2))) next++
    }
    store<f64>(out + (g << 3), load<f64>(out + (g << 3)) + <f64>eligible)
    store<f64>(out + ((g + 32) << 3), load<f64>(out + ((g + 32) << 3)) + <f64>first)
    store<f64>(out + ((g + 64) << 3), load<f64>(out + ((g + 64) << 3)) + <f64>next)
  }
}
