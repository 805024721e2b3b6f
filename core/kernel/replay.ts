import { COUNTRIES, ENTRY_BYTES, GROUPS, NEED, PASS_MINUTES, Place } from './layout'
import { at, paidFor } from './memory'
import { blocked, book, weekTotals } from './totals'

/** Replays what the current bid wins of one person's matches of one week. */
export function replayEarly(p: usize, week: usize, g: usize, postal: usize, from: i32, to: i32): void {
  const words = at(p, Place.outWord)
  const minutes = at(p, Place.outMinute)
  const bid = <u32>at(p, Place.bid)
  const data = <u32>at(p, Place.data)
  const slotOf = at(p, Place.slotOf)
  const caps = <i32>at(p, Place.caps)
  const gap = <i32>at(p, Place.gap)
  const full = at(p, Place.full) != 0
  const isCapped = caps > 0 || gap > 0
  const capTimes = at(p, Place.capTimes)
  const capMinutes = at(p, Place.capMinutes)
  const times = at(p, Place.entries) + 2 * ENTRY_BYTES
  const slots = at(p, Place.slotTotals) + (((week * (full ? GROUPS : 1) + g) * <usize>at(p, Place.slots)) << 4)
  let wins: i32 = 0
  let spend: f64 = 0
  let squares: f64 = 0
  let views: f64 = 0
  let visited: f64 = 0
  let conversions: f64 = 0
  // Who wins is as good as random: winners are gathered without a branch, and the loop over them has none to guess.
  const winners = at(p, Place.entries)
  let found: usize = 0
  for (let m = from; m < to; m++) {
    store<u32>(winners + (found << 2), m)
    found += <usize>((load<u32>(words + ((<usize>m) << 2)) & NEED) <= bid)
  }
  for (let n: usize = 0; n < found; n++) {
    const m = load<u32>(winners + (n << 2))
    const word = load<u32>(words + ((<usize>m) << 2))
    const when = <u32>load<u16>(minutes + ((<usize>m) << 1))
    if (isCapped) {
      if (blocked(wins, <i32>when, caps, gap, capTimes, capMinutes, times)) continue
      store<i32>(times + ((<usize>wins) << 2), <i32>when)
    }
    const paid = <f64>(paidFor(word, bid) + data)
    wins++
    spend += paid
    squares += paid * paid
    const cellAt = slots + ((<usize>load<u8>(slotOf + <usize>when)) << 4)
    store<f64>(cellAt, load<f64>(cellAt) + paid)
    store<f64>(cellAt, load<f64>(cellAt, 8) + 1, 8)
    if (full) {
      const kind = <usize>load<u16>(at(p, Place.outcome) + ((<usize>load<u32>(at(p, Place.outRows) + ((<usize>m) << 2))) << 1))
      const place = kind * COUNTRIES + <usize>load<u8>(at(p, Place.postalCountry) + postal)
      views += <f64>load<u32>(at(p, Place.outcomeViews) + (kind << 2))
      visited += <f64>load<u32>(at(p, Place.outcomeVisits) + (place << 2))
      conversions += load<f64>(at(p, Place.outcomeConversions) + (place << 3))
    }
  }
  if (wins > 0) book(weekTotals(at(p, Place.totals), week), g, wins, spend, squares, views, visited, conversions, full)
}

/**
 * Replays what a bid wins. Totals go to `totals`: six measures x 32 groups, then squares and ten bins.
 * With `full` groups are told apart and expected views, visits and conversions summed.
 */
export function replayRows(p: usize): void {
  const group = at(p, Place.group)
  const people = at(p, Place.outPeople)
  const starts = at(p, Place.outStarts)
  const need = at(p, Place.outWord)
  const minutes = at(p, Place.outMinute)
  const rows = at(p, Place.outRows)
  const words = at(p, Place.words)
  const outcome = at(p, Place.outcome)
  const viewsOf = at(p, Place.outcomeViews)
  const visitsOf = at(p, Place.outcomeVisits)
  const conversionsOf = at(p, Place.outcomeConversions)
  const postalCountry = at(p, Place.postalCountry)
  const persons = <i32>at(p, Place.persons)
  const bid = <u32>at(p, Place.bid)
  const data = <u32>at(p, Place.data)
  const time = at(p, Place.time)
  const slotOf = at(p, Place.slotOf)
  const repeats = <i32>at(p, Place.repeats)
  const firstMinute = <i32>at(p, Place.firstMinute)
  const span = <i32>at(p, Place.span)
  const slots = <usize>at(p, Place.slots)
  const caps = <i32>at(p, Place.caps)
  const capTimes = at(p, Place.capTimes)
  const capMinutes = at(p, Place.capMinutes)
  const gap = <i32>at(p, Place.gap)
  const full = at(p, Place.full) != 0
  const every = <u32>at(p, Place.every)
  const isFlight = at(p, Place.isFlight) != 0
  const slotSpend = at(p, Place.slotTotals)
  const totals = at(p, Place.totals)
  const entries = at(p, Place.entries)
  const entryMatch = entries + ENTRY_BYTES
  const times = entries + 2 * ENTRY_BYTES
  const isCapped = caps > 0 || gap > 0
  const simple = !isCapped && repeats == 1 && firstMinute == 0
  const single = isCapped && caps == 1 && gap == 0
  const most0 = caps > 0 ? load<i32>(capTimes) : 0
  const window0 = caps > 0 ? load<i32>(capMinutes) : 0
  for (let n: i32 = 0; n < persons; n++) {
    const person = load<u32>(people + ((<usize>n) << 2))
    if (every > 1 && person % every != 0) continue
    const from = load<u32>(starts + ((<usize>n) << 2))
    const to = load<u32>(starts + ((<usize>(n + 1)) << 2))
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
          if ((load<u32>(need + ((<usize>m) << 2)) & NEED) > bid) continue
          const t = load<i32>(time + ((<usize>load<u16>(minutes + ((<usize>m) << 1))) << 2))
          const when = t + more
          if (t < 0 || when < firstMinute || when >= span) continue
          let j = count++
          if (isCapped) {
            while (j > 0 && load<i32>(entries + ((<usize>(j - 1)) << 2)) > when) {
              store<i32>(entries + ((<usize>j) << 2), load<i32>(entries + ((<usize>(j - 1)) << 2)))
              store<u32>(entryMatch + ((<usize>j) << 2), load<u32>(entryMatch + ((<usize>(j - 1)) << 2)))
              j--
            }
          }
          store<i32>(entries + ((<usize>j) << 2), when)
          store<u32>(entryMatch + ((<usize>j) << 2), m)
        }
      }
    }
    const end = simple ? to : <u32>count
    for (let e: u32 = simple ? from : 0; e < end; e++) {
      let m = e
      let slot: usize
      if (simple) {
        if ((load<u32>(need + ((<usize>m) << 2)) & NEED) > bid) continue
        const s = load<i16>(slotOf + ((<usize>load<u16>(minutes + ((<usize>m) << 1))) << 1))
        if (s < 0) continue
        slot = <usize>s
      } else {
        const when = load<i32>(entries + ((<usize>e) << 2))
        if (isCapped) {
          if (single) {
            if (wins >= most0 && when - load<i32>(times + ((<usize>(wins - most0)) << 2)) < window0) continue
          } else if (blocked(wins, when, caps, gap, capTimes, capMinutes, times)) continue
          store<i32>(times + ((<usize>wins) << 2), when)
        }
        m = load<u32>(entryMatch + ((<usize>e) << 2))
        slot = isFlight ? <usize>(when / 60) : <usize>load<i16>(slotOf + ((<usize>load<u16>(minutes + ((<usize>m) << 1))) << 1))
      }
      const paid = <f64>(paidFor(load<u32>(need + ((<usize>m) << 2)), bid) + data)
      wins++
      spend += paid
      squares += paid * paid
      const cellAt = slotsAt + (slot << 4)
      store<f64>(cellAt, load<f64>(cellAt) + paid)
      store<f64>(cellAt, load<f64>(cellAt, 8) + 1, 8)
      if (full) {
        const kind = <usize>load<u16>(outcome + ((<usize>load<u32>(rows + ((<usize>m) << 2))) << 1))
        const place = kind * COUNTRIES + <usize>load<u8>(postalCountry + <usize>(load<u32>(words + ((<usize>person) << 4)) & 0x3fff))
        views += <f64>load<u32>(viewsOf + (kind << 2))
        visited += <f64>load<u32>(visitsOf + (place << 2))
        conversions += load<f64>(conversionsOf + (place << 3))
      }
    }
    if (wins > 0) book(totals, g, wins, spend, squares, views, visited, conversions, full)
  }
}
