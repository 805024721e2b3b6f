/** At most `times` exposures of one person in any window of `hours`; windows are half-open. */
export interface Cap {
  times: number
  /** 1 to 720: a cap looks back 30 days at most. */
  hours: number
}

/** Minutes after which no cap can see an exposure any more. */
export const LONGEST_CAP_MINUTES = 30 * 1440

/** Minute of an exposure that never was: older than any window. */
export const NEVER_SEEN = -(2 ** 30)

/** When somebody was shown something, by age. */
export interface Seen {
  /** Minute of the n-th newest exposure, 1 for the newest; `NEVER_SEEN` where there are fewer. */
  newest: (n: number) => number
}

/**
 * Whether one more exposure at `minute` would break the least gap or a cap: a gap looks at the newest exposure, a cap of n times at
 * the n-th newest. An exposure exactly one window old is free.
 */
export function stoppedBy(seen: Seen, minute: number, caps: readonly Cap[], gapMinutes: number): boolean {
  if (gapMinutes > 0 && minute - seen.newest(1) < gapMinutes) return true
  for (let c = 0; c < caps.length; c++) if (minute - seen.newest(caps[c].times) < caps[c].hours * 60) return true
  return false
}
