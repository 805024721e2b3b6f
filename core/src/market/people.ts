import { COUNTRIES, REGIONS_OF } from '../places/index.js'
import { AliasTable, STREAM, draw, exactExp, finish, fold, normalOf, step } from '../random/index.js'

/** People of the stand-in market as columns; a person is a row number. */
export interface People {
  count: number
  /** Index into `REGIONS`; the region implies the country. */
  region: Uint16Array
  /** Activity class, 0 to RATE_CLASSES - 1: see `rateOf`. */
  rate: Uint8Array
  /** Which devices they use, and how much: row of `DEVICE_MIXES`. */
  mix: Uint8Array
  /** What advertisers pay for them, class 0 to 63: see `valueOf`. */
  value: Uint8Array
}

export const RATE_CLASSES = 128
/** Mean opportunities a person and day. */
export const MEAN_RATE = 2
/** Spread of activity: with 1.09 the busiest tenth makes about 42 % of all opportunities. */
const RATE_SIGMA = 1.09
const MOST_RATE = 38
const VALUE_SIGMA = 0.42

/** Share of phone, tablet and desktop for eight kinds of people. */
export const DEVICE_MIXES: readonly (readonly number[])[] = [
  [100, 0, 0], [85, 0, 15], [70, 8, 22], [60, 25, 15], [45, 5, 50], [30, 20, 50], [15, 0, 85], [50, 50, 0]
]
const MIX_BY_TIER: Readonly<Record<1 | 2 | 3, readonly number[]>> = {
  1: [18, 24, 18, 8, 16, 6, 7, 3], 2: [26, 26, 16, 6, 14, 4, 6, 2], 3: [52, 22, 10, 3, 7, 1, 4, 1]
}

/** Opportunities a day of an activity class, before the day's own factor. */
export function rateOf(rateClass: number): number {
  const z = normalOf(((rateClass + 0.5) / RATE_CLASSES) * 4294967296)
  return Math.min(MOST_RATE, MEAN_RATE * exactExp(RATE_SIGMA * z - (RATE_SIGMA * RATE_SIGMA) / 2) * 1.035)
}

/** Price factor of a value class; median 1. */
export function valueOf(valueClass: number): number {
  return exactExp(VALUE_SIGMA * normalOf(((valueClass + 0.5) / 64) * 4294967296))
}

/** Bytes that `peopleOver` needs. */
export function peopleBytes(count: number): number {
  return count * 5
}

/** Column views over one buffer, which may be shared between threads. */
export function peopleOver(buffer: ArrayBufferLike, count: number): People {
  return {
    count,
    region: new Uint16Array(buffer, 0, count),
    rate: new Uint8Array(buffer, count * 2, count),
    mix: new Uint8Array(buffer, count * 3, count),
    value: new Uint8Array(buffer, count * 4, count)
  }
}

/** Fills the columns of every person; a pure function of the seed. */
export function fillPeople(seed: number, people: People): void {
  const countries = new AliasTable(COUNTRIES.map((country) => country.weight))
  const regions = REGIONS_OF.map((of) => new AliasTable(of.map((region) => region.weight)))
  const mixes = ([1, 2, 3] as const).map((tier) => new AliasTable(MIX_BY_TIER[tier]))
  const base = fold(seed, STREAM.person)
  for (let person = 0; person < people.count; person++) {
    const key = step(base, person)
    const pick = (table: AliasTable, stream: number) => table.pick(draw(key, stream), finish(step(step(key, stream), 1)))
    const country = pick(countries, STREAM.country)
    const region = REGIONS_OF[country][pick(regions[country], STREAM.region)]
    const tier = COUNTRIES[country].tier
    people.region[person] = region.index
    people.rate[person] = draw(key, STREAM.rate) >>> 25
    people.mix[person] = pick(mixes[tier - 1], STREAM.mix)
    people.value[person] = draw(key, STREAM.value) >>> 26
  }
}
