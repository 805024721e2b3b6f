import type { Survey } from '@tin-harbor/core/forecast'

/** Beyond this share a curve says nothing more but for very dear bids. */
const MOST_SHARE = 0.985
const LEAST_CPM = 0.01

/** Points of a curve as it is drawn: CPM, and opportunities a day that are won. */
export function pointsOf(curve: Survey['curve'], aDay: number): { x: number; y: number }[] {
  const most = curve.filter((step) => step.share <= MOST_SHARE).at(-1)?.bidMicros ?? 1e6
  return curve
    .filter((step) => step.bidMicros <= most)
    .map((step) => ({ x: Math.max(LEAST_CPM, step.bidMicros / 1e6), y: step.share * aDay }))
}

/** Ends that hold several curves, so that they can be compared by eye; undefined without any. */
export function endsOf(curves: readonly { x: number; y: number }[][]): { from: number; to: number; most: number } | undefined {
  const all = curves.flat()
  if (all.length === 0) return undefined
  const x = all.map((point) => point.x)
  return { from: Math.min(...x), to: Math.max(...x), most: Math.max(...all.map((point) => point.y)) }
}
