import { COUNTRIES, HALF_HOUR, HALF_HOUR_SHIFT, NEED, Place } from './layout'
import { at } from './memory'
import { book } from './totals'

/**
 * The replay of a line without caps whose charges are small enough for whole numbers: nothing of one win decides about another, so
 * that it needs no order and no branch, and four rows are played at once. A slot is a pair of 64-bit counts, spend and wins, until
 * it is settled.
 */

/**
 * Plays the rows of one person and one week; with `full` what is expected of them too.
 */
export function playUncapped(
  p: usize, totals: usize, g: usize, postal: usize, full: bool, cells: usize, bid: u32, data: u32, from: i32, to: i32
): void {
  const words = at(p, Place.outWord)
  const minutes = at(p, Place.outMinute)
  const halfOf = at(p, Place.halfOf)
  const bids = i32x4.splat(bid)
  const costs = i32x4.splat(data)
  const needs = i32x4.splat(NEED)
  const ones = i32x4.splat(1)
  let left = i32x4.sub(i32x4.splat(to - from), i32x4(0, 1, 2, 3))
  let wins = i32x4.splat(0)
  let spend = i32x4.splat(0)
  let squares = i64x2.splat(0)
  for (let m = from; m < to; m += 4) {
    const word = v128.load(words + (<usize>m << 2))
    const need = v128.and(word, needs)
    // Past the person's last row lie others, which win nothing here.
    const won = v128.and(i32x4.le_u(need, bids), i32x4.gt_s(left, i32x4.splat(0)))
    left = i32x4.sub(left, i32x4.splat(4))
    const second = i32x4.sub(need, v128.and(i32x4.shr_u(word, 30), ones))
    const paid = v128.and(i32x4.add(v128.bitselect(bids, second, i32x4.shr_s(word, 31)), costs), won)
    const counted = v128.and(won, ones)
    wins = i32x4.add(wins, counted)
    spend = i32x4.add(spend, paid)
    squares = i64x2.add(squares, i64x2.add(i64x2.extmul_low_i32x4_u(paid, paid), i64x2.extmul_high_i32x4_u(paid, paid)))
    const when = v128.load64_zero(minutes + (<usize>m << 1))
    const half = i32x4.shr_u(i32x4.mul(i32x4.extend_low_i16x8_u(when), i32x4.splat(HALF_HOUR)), HALF_HOUR_SHIFT)
    // Pairs of a charge and a win: those of rows 0 and 1, and of 2 and 3.
    const front = v128.shuffle<i32>(paid, counted, 0, 4, 1, 5)
    const back = v128.shuffle<i32>(paid, counted, 2, 6, 3, 7)
    count(cells, halfOf, i32x4.extract_lane(half, 0), i64x2.extend_low_i32x4_u(front))
    count(cells, halfOf, i32x4.extract_lane(half, 1), i64x2.extend_high_i32x4_u(front))
    count(cells, halfOf, i32x4.extract_lane(half, 2), i64x2.extend_low_i32x4_u(back))
    count(cells, halfOf, i32x4.extract_lane(half, 3), i64x2.extend_high_i32x4_u(back))
  }
  const won = sum(wins)
  if (won == 0) return
  if (full) expect(p, words, bid, <usize>load<u8>(at(p, Place.postalCountry) + postal), from, to)
  const squared = i64x2.extract_lane(squares, 0) + i64x2.extract_lane(squares, 1)
  book(totals, g, won, <f64>sum(spend), <f64>squared, <f64>views, <f64>visits, conversions, full)
}

let views: u64 = 0
let visits: u64 = 0
let conversions: f64 = 0

/** Sums what is expected of the wins of one person: what kind of outcome a row has is known beforehand, the country is the person's. */
function expect(p: usize, words: usize, bid: u32, country: usize, from: i32, to: i32): void {
  const rows = at(p, Place.outRows)
  const outcome = at(p, Place.outcome)
  const viewsOf = at(p, Place.outcomeViews)
  const visitsOf = at(p, Place.outcomeVisits)
  const conversionsOf = at(p, Place.outcomeConversions)
  let seen: u64 = 0
  let visited: u64 = 0
  let converted: f64 = 0
  for (let m = from; m < to; m++) {
    const won = (load<u32>(words + (<usize>m << 2)) & NEED) <= bid
    const kind = <usize>load<u16>(outcome + (<usize>load<u32>(rows + (<usize>m << 2)) << 1))
    const place = kind * COUNTRIES + country
    const mask = 0 - <u64>won
    seen += <u64>load<u32>(viewsOf + (kind << 2)) & mask
    visited += <u64>load<u32>(visitsOf + (place << 2)) & mask
    converted += select<f64>(load<f64>(conversionsOf + (place << 3)), 0, won)
  }
  views = seen
  visits = visited
  conversions = converted
}

@inline function count(cells: usize, halfOf: usize, half: i32, pair: v128): void {
  const cell = cells + (<usize>load<u8>(halfOf + <usize>half) << 4)
  v128.store(cell, i64x2.add(v128.load(cell), pair))
}

@inline function sum(lanes: v128): i32 {
  return i32x4.extract_lane(lanes, 0) + i32x4.extract_lane(lanes, 1) + i32x4.extract_lane(lanes, 2) + i32x4.extract_lane(lanes, 3)
}

/** Turns counts into the numbers that the other replays leave. */
export function settle(cells: usize, bytes: usize): void {
  for (let at: usize = 0; at < bytes; at += 8) store<f64>(cells + at, <f64>load<u64>(cells + at))
}
