import { DEVICE_TYPE, PERSON_WORDS, SOURCES, postalOf } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import { convertingChance, groupAt, seenChance, stayChance, viewsAt, visitChance, type Benchmarks } from '../response/index.js'

/** What the trade expects of an impression, in millionths: seen, viewed, visited, stayed on, and converting as the mean does. */
export interface Expectations {
  views: number
  visits: number
  stays: number
  converting: number
  seen: number
}
export const noExpectations = (): Expectations => ({ views: 0, visits: 0, stays: 0, converting: 0, seen: 0 })

/**
 * Averages by format, category, device and country, as a forecast reads them.
 * @param viewPoint of the line, thousandths of the length of its ads; none for their end
 */
export function expectations(
  benchmarks: Benchmarks,
  { path, device, state, person }: Readonly<Record<'path' | 'device' | 'state' | 'person', ArrayLike<number>>>,
  i: number,
  words: Int32Array,
  into: Expectations,
  viewPoint?: number
): void {
  const group = groupAt(benchmarks.groupOf[Math.floor(path[i] / SOURCES.length)], state[i])
  into.views = viewsAt(benchmarks, viewPoint)[group]
  const type = DEVICE_TYPE[device[i]]
  const country = POSTAL_COUNTRY[postalOf(words[person[i] * PERSON_WORDS])]
  into.visits = visitChance(benchmarks, group, type, country)
  into.stays = stayChance(benchmarks, into.visits, group, type)
  into.converting = convertingChance(benchmarks, into.visits, group, type, country)
  into.seen = seenChance(benchmarks, group, country)
}
