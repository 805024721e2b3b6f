import { DEVICE_TYPE, PERSON_WORDS, SOURCES, postalOf } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import { visitChance, type Benchmarks } from '../response/index.js'

/** What the trade expects of an impression, in millionths: views, visits and conversions. */
export interface Expectations {
  views: number
  visits: number
  conversions: number
}

/** Averages by format, category, device and country, as a forecast reads them. */
export function expectations(
  benchmarks: Benchmarks,
  path: number,
  device: number,
  words: Int32Array,
  person: number,
  into: Expectations
): void {
  const group = benchmarks.groupOf[Math.floor(path / SOURCES.length)]
  into.views = benchmarks.views[group]
  into.visits = visitChance(benchmarks, group, DEVICE_TYPE[device], POSTAL_COUNTRY[postalOf(words[person * PERSON_WORDS])])
  into.conversions = Math.floor((into.visits * benchmarks.conversions[group]) / 1e6)
}
