import { FORMATS, isWatched } from '../taxonomy/index.js'
import { exactExp, exactLog } from '../random/index.js'
import { formatOfGroup, type Benchmarks } from './benchmarks.js'

/** Seconds after which a film or a spot counts as viewed; 0 for its end. */
export const VIEW_SECONDS = [2, 6, 15, 30, 0] as const
export type ViewSeconds = (typeof VIEW_SECONDS)[number]

/** Where nothing is chosen: the trade's 30 s, or the end of what is shorter. */
const USUAL_VIEW_SECONDS: ViewSeconds = 30
/** Share of its length at which an ad counts as viewed, in thousandths. @param chosen seconds; none for the usual */
export function viewPoint(chosen: ViewSeconds | null | undefined, adSeconds: number): number {
  const seconds = chosen ?? USUAL_VIEW_SECONDS
  return seconds === 0 || adSeconds <= seconds ? 1000 : Math.max(1, Math.round((1000 * seconds) / adSeconds))
}

const tables = new WeakMap<Benchmarks, Map<number, Uint32Array>>()

/**
 * Views that the trade's means expect by group, in millionths, at a share of the length of what is watched or heard. The share of those who
 * go on falls evenly over it: of those who see the beginning, end ^ share are still there.
 * @param perMille share, 1,000 for the end
 */
export function viewsAt(benchmarks: Benchmarks, perMille: number | undefined): Uint32Array {
  if (perMille === undefined || perMille >= 1000) return benchmarks.views
  const known = tables.get(benchmarks) ?? new Map<number, Uint32Array>()
  tables.set(benchmarks, known)
  let table = known.get(perMille)
  if (!table) {
    table = benchmarks.views.map((views, group) => {
      const name = FORMATS[formatOfGroup(group)]
      if (views === 0 || !isWatched(name)) return views
      // Of places that are seen more than their format's mean, those who watch to the end are at least who saw the beginning.
      const seen = Math.max(views, 1e6 * benchmarks.viewable[formatOfGroup(group)])
      return Math.floor(Math.min(1e6, seen * exactExp((perMille / 1000) * exactLog(views / seen))))
    })
    known.set(perMille, table)
  }
  return table
}
