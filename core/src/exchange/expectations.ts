import { DEVICE_TYPE, PERSON_WORDS, SOURCES, postalOf } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import { clickAt, type Benchmarks } from '../response/index.js'
import { BRANCHES, FORMATS } from '../taxonomy/index.js'

const POP = FORMATS.indexOf('pop')

/** What the trade expects of an impression, in millionths: views, visits and conversions. */
export interface Expectations {
  views: number
  visits: number
  conversions: number
}

/** Averages by format, category, device and country, as a forecast reads them. */
export function expectations(benchmarks: Benchmarks, path: number, device: number, words: Int32Array, person: number, into: Expectations): void {
  const group = benchmarks.groupOf[Math.floor(path / SOURCES.length)]
  into.views = benchmarks.views[group]
  into.visits = Math.floor(group / BRANCHES.length) === POP ? benchmarks.opened[group] : benchmarks.clicks[clickAt(group, DEVICE_TYPE[device], POSTAL_COUNTRY[postalOf(words[person * PERSON_WORDS])])]
  into.conversions = Math.floor((into.visits * benchmarks.conversions[group]) / 1e6)
}
