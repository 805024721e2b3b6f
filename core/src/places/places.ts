import { LANGUAGES, type Language } from '../taxonomy/people.js'
import { zoneIndex } from '../time/index.js'
import { COUNTRY_ROWS } from './countries.js'
import { REGION_DATA } from './places-data.js'

export interface Country {
  /** Position in `COUNTRIES`; the number that columns hold. */
  index: number
  /** ISO 3166-1 alpha-2. */
  code: string
  name: string
  tier: 1 | 2 | 3
  /** Share of people, relative. */
  weight: number
  /** Price level, 1 in the middle of tier 1. */
  price: number
  /** First languages with their shares, relative. */
  languages: readonly { language: number; share: number }[]
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

export interface City {
  index: number
  name: string
  region: number
  country: number
  /** Hundredths of a degree. */
  lat: number
  lon: number
  weight: number
  /** Index into `METROS`, or -1. */
  metro: number
}

export interface Metro {
  index: number
  name: string
  country: number
  /** The city in its middle. */
  city: number
}

/** A postal code area: the smallest place of the market. */
export interface Postal {
  index: number
  code: string
  city: number
  lat: number
  lon: number
}

export const COUNTRIES: readonly Country[] = COUNTRY_ROWS.map(([code, name, tier, weight, price, , languages], index) => ({
  index,
  code,
  name,
  tier,
  weight,
  price,
  languages: languages.split(', ').map((text) => {
    const [language, share] = text.split(' ')
    return { language: LANGUAGES.indexOf(language as Language), share: Number(share) }
  })
}))
const countryByCode = new Map(COUNTRIES.map((country) => [country.code, country]))
const regionData = REGION_DATA.map(([country, code, name, zone, places], index) => ({
  index,
  code,
  name,
  zone,
  country: (countryByCode.get(country) as Country).index,
  places: places.split(';').map((text) => {
    const [city, lat, lon, people] = text.split('|')
    return { name: city, lat: Number(lat), lon: Number(lon), people: Number(people) }
  })
}))

/** People live in regions by the root of the thousands in their places, so that no country is all capital. */
export const REGIONS: readonly Region[] = regionData.map(({ index, code, name, country, zone, places }) => ({
  index,
  code,
  name,
  country,
  zone: zoneIndex(zone),
  weight: Math.sqrt(places.reduce((sum, place) => sum + place.people, 1))
}))

const METROS_WANTED = 126
/** How far around its middle a metro area reaches. */
const METRO_KM = 45

/** Cosine of an angle in hundredths of a degree by its series, so that it is equal to the bit everywhere. */
function cosine(hundredths: number): number {
  const x = (hundredths / 100) * 0.017453292519943295
  const y = x * x
  return 1 - (y / 2) * (1 - (y / 12) * (1 - (y / 30) * (1 - (y / 56) * (1 - y / 90))))
}

/**
 * Distance in kilometres of two points in hundredths of a degree, on a plane at their mean latitude; good within a few
 * hundred kilometres.
 */
export function kilometres(lat: number, lon: number, otherLat: number, otherLon: number): number {
  const north = (lat - otherLat) * 1.1132
  let turn = Math.abs(lon - otherLon)
  if (turn > 18000) turn = 36000 - turn
  const east = turn * 1.1132 * cosine((lat + otherLat) / 2)
  return Math.sqrt(north * north + east * east)
}

const bare = regionData
  .flatMap(({ index: region, country, places }) => places.map((place) => ({ ...place, region, country })))
  .map((place, index) => ({ ...place, index }))

/** The largest places by the root of their people and their country's, none within another's reach. */
export const METROS: readonly Metro[] = (() => {
  const score = (city: (typeof bare)[0]) => city.people * COUNTRIES[city.country].weight
  const chosen: (typeof bare)[0][] = []
  for (const city of [...bare].sort((a, b) => score(b) - score(a) || a.index - b.index)) {
    if (chosen.length === METROS_WANTED) break
    if (!chosen.some((other) => other.country === city.country && kilometres(city.lat, city.lon, other.lat, other.lon) < 2 * METRO_KM))
      chosen.push(city)
  }
  return chosen
    .sort((a, b) => a.index - b.index)
    .map((city, index) => ({ index, name: city.name, country: city.country, city: city.index }))
})()

export const CITIES: readonly City[] = bare.map(({ index, name, region, country, lat, lon, people }) => {
  const near = METROS.map((metro) => ({
    metro,
    away: metro.country === country ? kilometres(lat, lon, bare[metro.city].lat, bare[metro.city].lon) : Infinity
  })).reduce((best, other) => (other.away < best.away ? other : best))
  return { index, name, region, country, lat, lon, weight: Math.sqrt(people + 1), metro: near.away <= METRO_KM ? near.metro.index : -1 }
})

const POSTALS_WANTED = 10_400

/** The n-th of `count` codes of a postal form, in rising order. */
function postalCode(form: string, n: number, count: number): string {
  const places = [...form]
  const radix = (place: string) => (place === '#' ? 10 : place === 'A' ? 26 : 1)
  const capacity = places.reduce((product, place) => product * radix(place), 1)
  let value = Math.floor(capacity * 0.1 + (capacity * 0.88 * n) / count)
  return places
    .reverse()
    .map((place) => {
      const digit = value % radix(place)
      value = Math.floor(value / radix(place))
      return place === '#' ? String(digit) : place === 'A' ? String.fromCharCode(65 + digit) : place
    })
    .reverse()
    .join('')
}

export const POSTALS: readonly Postal[] = (() => {
  const sum = CITIES.reduce((total, city) => total + city.weight, 0)
  const list: Omit<Postal, 'code'>[] = CITIES.flatMap((city) => {
    const count = Math.max(1, Math.round((city.weight / sum) * POSTALS_WANTED))
    // Areas lie on a small spiral around the middle: five kilometres for the outermost of thirty.
    return Array.from({ length: count }, (_, n) => {
      const turn = [
        [1, 0],
        [0, 1],
        [-1, 0],
        [0, -1],
        [1, 1],
        [-1, 1],
        [-1, -1],
        [1, -1]
      ][n % 8]
      const away = Math.ceil(n / 8)
      return { index: 0, city: city.index, lat: city.lat + (n === 0 ? 0 : turn[0] * away), lon: city.lon + (n === 0 ? 0 : turn[1] * away) }
    })
  })
  const counts = COUNTRIES.map((country) => list.filter((postal) => CITIES[postal.city].country === country.index).length)
  const soFar = COUNTRIES.map(() => 0)
  return list.map((postal, index) => {
    const { country } = CITIES[postal.city]
    return { ...postal, index, code: postalCode(COUNTRY_ROWS[country][5], soFar[country]++, counts[country]) }
  })
})()

/** Regions of each country, by country index. */
export const REGIONS_OF: readonly (readonly Region[])[] = COUNTRIES.map((country) =>
  REGIONS.filter((region) => region.country === country.index)
)
/** Country, region and zone of each postal code area. */
export const POSTAL_REGION = Uint16Array.from(POSTALS, (postal) => CITIES[postal.city].region)
export const POSTAL_COUNTRY = Uint8Array.from(POSTALS, (postal) => CITIES[postal.city].country)
export const POSTAL_ZONE = Uint8Array.from(POSTALS, (postal) => REGIONS[CITIES[postal.city].region].zone)

const regionByCode = new Map(REGIONS.map((region) => [region.code, region]))

export function findCountry(code: string): Country | undefined {
  return countryByCode.get(code)
}

export function findRegion(code: string): Region | undefined {
  return regionByCode.get(code)
}
