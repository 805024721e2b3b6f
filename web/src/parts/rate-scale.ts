/** A few rows with wide ranges must not squeeze all others: ranges are drawn to so many times the mean. */
const MOST_TIMES = 3

/** Right end of a column of ranges: the widest, but no more than a few times the mean. */
export const drawnTo = (mean: number, widest: number): number => (mean > 0 ? Math.min(widest, MOST_TIMES * mean) : widest)
