import { GROUPS } from '../tape/index.js'

export const FREQUENCY_BINS = 10

/** Totals by group; by one group only where ranges are not wanted. */
export interface GroupTotals {
  wins: Float64Array
  spend: Float64Array
  reach: Float64Array
  /** Price paid without the cost of data. */
  clearing: Float64Array
  views: Float64Array
  visits: Float64Array
  conversions: Float64Array
}

export const MEASURES = ['wins', 'spend', 'reach', 'clearing', 'views', 'visits', 'conversions'] as const
export type Measure = (typeof MEASURES)[number]

/** A capped replay without budget, in sampled people: multiply by the tape's sample for the market. */
export interface Replay {
  wins: number
  reach: number
  /** People by number of exposures: entry n - 1 for n, the last for that many or more. */
  frequency: number[]
  /** Spend and wins by group x hour slot: `group * slots + slot`; of one group only where ranges are not wanted. */
  slotSpend: Float64Array
  slotWins: Float64Array
  slots: number
  byGroup: GroupTotals
  /** Sum of squared charges, for the noise of money. */
  squares: number
  /** Events of an aim that are expected, in millionths; 0 for a line without. */
  aimed: number
  /** Won rows and their minute of the replay, in person order; empty unless asked for. */
  won: { rows: Uint32Array; minutes: Int32Array; charges: Float64Array; persons: Uint32Array }
}

export const NOTHING_WON: Replay['won'] = {
  rows: new Uint32Array(0),
  minutes: new Int32Array(0),
  charges: new Float64Array(0),
  persons: new Uint32Array(0)
}

/** Zeros for `full` all groups, or one. */
export function noTotals(full: boolean): GroupTotals {
  const zeros = () => new Float64Array(full ? GROUPS : 1)
  return { wins: zeros(), spend: zeros(), reach: zeros(), clearing: zeros(), views: zeros(), visits: zeros(), conversions: zeros() }
}

export function sumOf(totals: Float64Array): number {
  let sum = 0
  for (const value of totals) sum += value
  return sum
}

/** Sums over groups of a slot array. */
export function overGroups(values: Float64Array, slots: number): Float64Array {
  if (values.length === slots) return values
  const sums = new Float64Array(slots)
  for (let i = 0; i < values.length; i++) sums[i % slots] += values[i]
  return sums
}

/** A replay of so many times the people: what was counted, multiplied. */
export function grown(replay: Replay, factor: number): Replay {
  if (factor === 1) return replay
  const times = (values: Float64Array) => values.map((value) => value * factor)
  const { byGroup } = replay
  return {
    ...replay,
    wins: replay.wins * factor,
    reach: replay.reach * factor,
    frequency: replay.frequency.map((people) => people * factor),
    slotSpend: times(replay.slotSpend),
    slotWins: times(replay.slotWins),
    squares: replay.squares * factor,
    aimed: replay.aimed * factor,
    byGroup: Object.fromEntries(MEASURES.map((name) => [name, times(byGroup[name])])) as unknown as GroupTotals
  }
}
