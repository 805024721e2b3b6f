import { SEGMENTS } from '../taxonomy/index.js'
import { hash } from '../random/index.js'

/** What knowing a segment costs, micros a thousand: a fixed list of the data market, a step of 0.05. */
export const DATA_COSTS: readonly number[] = SEGMENTS.map((segment) => {
  const [low, high] = segment.kind === 'interest' ? [2, 8] : segment.kind === 'purchase intent' ? [8, 36] : [6, 18]
  return 50_000 * (low + (hash(313, segment.index) % (high - low + 1)))
})
