import { DEVICE_TYPE } from '../market/index.js'
import { COUNTRIES } from '../places/index.js'
import { convertingChance, groupAt, seenChance, visitChance } from '../response/index.js'
import { DEVICE_TYPES } from '../taxonomy/index.js'
import type { Tape } from '../tape/index.js'
import type { ForecastMarket } from './question.js'

/** What is expected of a win by kind of outcome (benchmark group x device type), what its visitors do by country too: millionths. */
export function outcomesOf({ rows }: Tape, { groupByPath, benchmarks }: ForecastMarket) {
  const kinds = DEVICE_TYPES.length
  const countries = COUNTRIES.length
  const count = benchmarks.views.length * kinds
  const made = {
    outcome: Uint16Array.from(
      rows.path,
      (path, row) => groupAt(groupByPath[path], rows.state[row]) * kinds + DEVICE_TYPE[rows.device[row]]
    ),
    views: new Uint32Array(count),
    visits: new Uint32Array(count * countries),
    converting: new Uint32Array(count * countries),
    seen: new Uint32Array(count * countries)
  }
  for (let kind = 0, offset = 0; kind < count; kind++) {
    const group = Math.floor(kind / kinds)
    made.views[kind] = benchmarks.views[group]
    for (let country = 0; country < countries; country++, offset++) {
      made.visits[offset] = visitChance(benchmarks, group, kind % kinds, country)
      made.converting[offset] = convertingChance(benchmarks, made.visits[offset], group, kind % kinds, country)
      made.seen[offset] = seenChance(benchmarks, group, country)
    }
  }
  return made
}
