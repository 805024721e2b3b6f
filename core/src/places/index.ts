import { zoneIndex } from '../time/index.js'
import { COUNTRY_ROWS } from './countries.js'

export interface Country {
  /** Position in `COUNTRIES`; the number that columns hold. */
  index: number
  /** ISO 3166-1 alpha-2. */
  code: string
  name: string
  tier: 1 | 2 | 3
  /** Share of people, relative. */
  weight: number
  /** Price level, 1 = the mean of a tier-1 market. */
  price: number
}

export interface Region {
  index: number
  /** ISO 3166-2. */
  code: string
  name: string
  country: number
  weight: number
  /** Index into `ZONES`. */
  zone: number
}

export const COUNTRIES: readonly Country[] = COUNTRY_ROWS.map(([code, name, tier, weight, price], index) => ({ index, code, name, tier, weight, price }))

export const REGIONS: readonly Region[] = COUNTRY_ROWS.flatMap(([, , , , , zone, regions], country) =>
  regions.map(([code, name, weight, own]) => ({ code, name, country, weight, zone: zoneIndex(own ?? zone) }))
).map((region, index) => ({ index, ...region }))

/** Regions of each country, by country index. */
export const REGIONS_OF: readonly (readonly Region[])[] = COUNTRIES.map((country) => REGIONS.filter((region) => region.country === country.index))

const countryByCode = new Map(COUNTRIES.map((country) => [country.code, country]))
const regionByCode = new Map(REGIONS.map((region) => [region.code, region]))

export function findCountry(code: string): Country | undefined {
  return countryByCode.get(code)
}

export function findRegion(code: string): Region | undefined {
  return regionByCode.get(code)
}
