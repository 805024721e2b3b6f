import { FREQUENCY_BINS, GROUPS, MEASURES_KEPT } from './layout'

/** What the replays share: where totals lie, and what a person may still win. */

/** Week x measure x group of what the current bid wins while rows are matched, and one person's window of times. */
@inline export function weekTotals(totals: usize, week: usize): usize {
  return totals + week * ((MEASURES_KEPT * GROUPS + 1 + <usize>FREQUENCY_BINS) << 3)
}

/** Whether a cap or the gap stops a win now, after `wins` wins at `times`: the rule of `stoppedBy`, over an array. */
@inline export function blocked(wins: i32, now: i32, caps: i32, gap: i32, capTimes: usize, capMinutes: usize, times: usize): bool {
  if (wins > 0 && now - load<i32>(times + (<usize>(wins - 1) << 2)) < gap) return true
  for (let c: i32 = 0; c < caps; c++) {
    const most = load<i32>(capTimes + (<usize>c << 2))
    if (wins >= most && now - load<i32>(times + (<usize>(wins - most) << 2)) < load<i32>(capMinutes + (<usize>c << 2))) return true
  }
  return false
}

/** Adds what one person brought to totals. */
export function book(
  totals: usize, g: usize, wins: i32, spend: f64, squares: f64, views: f64, visited: f64, conversions: f64, full: bool
): void {
  add(totals, 0, g, <f64>wins)
  add(totals, 1, g, spend)
  add(totals, 2, g, 1)
  if (full) {
    add(totals, 3, g, views)
    add(totals, 4, g, visited)
    add(totals, 5, g, conversions)
  }
  const after = totals + ((MEASURES_KEPT * GROUPS) << 3)
  store<f64>(after, load<f64>(after) + squares)
  const bin = after + ((1 + <usize>(wins < FREQUENCY_BINS ? wins - 1 : FREQUENCY_BINS - 1)) << 3)
  store<f64>(bin, load<f64>(bin) + 1)
}

@inline function add(totals: usize, measure: usize, g: usize, value: f64): void {
  const place = totals + ((measure * GROUPS + g) << 3)
  store<f64>(place, load<f64>(place) + value)
}
