import type { MainFigures } from './main-figures.js'
import type { Ranged } from './ranges.js'

/** Figures of a forecast that are compared with what came. */
export const KEPT_FIGURES = ['wins', 'spend', 'views', 'visits', 'conversions'] as const
export type KeptFigure = (typeof KEPT_FIGURES)[number]

/** What came of a line in some hours. */
export type Came = Record<KeptFigure, number>

/** Hours [from, to) in which a revision was in force, and what ended them. */
export interface InForce {
  from: number
  to: number
  /** The flight of the revision, its end exclusive; null for one without an end. */
  flight: { from: number; to: number | null }
}

/** A figure that was said, and what came; null where the period was too short to judge. */
export interface Judged {
  what: KeptFigure
  said: Ranged
  came: number
  held: boolean
}

const WEEK = 7 * 24
/** Expected events under which a range says nothing that could be wrong. */
const LEAST_EVENTS = 3
const COUNTED: readonly KeptFigure[] = ['views', 'visits', 'conversions']

/**
 * What a forecast can be held to: its day, as the mean of seven days in which nothing was changed; or its flight, of one that ran
 * through and was shorter.
 * @returns hours [from, to) to count; null where a change came too soon
 */
export function judgedHours({ from, to, flight }: InForce): { from: number; to: number; by: 'day' | 'flight' } | null {
  if (to - from >= WEEK) return { from, to: from + WEEK, by: 'day' }
  return flight.to !== null && to >= flight.to && from <= flight.from ? { from: flight.from, to: flight.to, by: 'flight' } : null
}

/** Whether a range holds what came: events come whole, so that a range of a few holds the whole numbers about it. */
const holds = ({ low, high }: Ranged, came: number) => came >= Math.floor(low) && came <= Math.ceil(high)

/** Judges a forecast by what came in the hours that it can be held to. */
export function judge(forecast: Pick<MainFigures, 'day' | 'flight'>, by: 'day' | 'flight', came: Came): Judged[] {
  const times = by === 'day' ? 7 : 1
  return KEPT_FIGURES.flatMap((what) => {
    const { value, low, high } = forecast[by][what]
    const said = { value: value * times, low: low * times, high: high * times }
    if (COUNTED.includes(what) && said.value < LEAST_EVENTS) return []
    return [{ what, said, came: came[what], held: holds(said, came[what]) }]
  })
}
