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

// Every thread and every page makes these as it starts: cities look at the metro areas of their own country alone.
const METROS_OF: readonly Metro[][] = COUNTRIES.map(() => [])
for (const metro of METROS) METROS_OF[metro.country].push(metro)

export const CITIES: readonly City[] = bare.map(({ index, name, region, country, lat, lon, people }) => {
  let [near, least] = [-1, Infinity]
  for (const metro of METROS_OF[country]) {
    const away = kilometres(lat, lon, bare[metro.city].lat, bare[metro.city].lon)
    if (away < least) [near, least] = [metro.index, away]
  }
  return { index, name, region, country, lat, lon, weight: Math.sqrt(people + 1), metro: least <= METRO_KM ? near : -1 }
})

const POSTALS_WANTED = 10_400

/** The n-th of `count` codes of a postal form, in rising order. */
function postalCode(form: string, n: number, count: number): string {
  let capacity = 1
  for (const place of form) capacity *= radixOf(place)
  let value = Math.floor(capacity * 0.1 + (capacity * 0.88 * n) / count)
  let code = ''
  for (let place = form.length - 1; place >= 0; place--) {
    const radix = radixOf(form[place])
    const digit = value % radix
    value = Math.floor(value / radix)
    code = (radix === 10 ? String(digit) : radix === 26 ? String.fromCharCode(65 + digit) : form[place]) + code
  }
  return code
}
const radixOf = (place: string) => (place === '#' ? 10 : place === 'A' ? 26 : 1)

/** Areas lie on a small spiral around the middle: five kilometres for the outermost of thirty. */
const NORTHWARDS = [1, 0, -1, 0, 1, -1, -1, 1]
const EASTWARDS = [0, 1, 0, -1, 1, 1, -1, -1]

export const POSTALS: readonly Postal[] = (() => {
  const sum = CITIES.reduce((total, city) => total + city.weight, 0)
  const list: Omit<Postal, 'code'>[] = []
  for (const city of CITIES) {
    const count = Math.max(1, Math.round((city.weight / sum) * POSTALS_WANTED))
    list.push({ index: 0, city: city.index, lat: city.lat, lon: city.lon })
    for (let n = 1; n < count; n++) {
      const away = Math.ceil(n / 8)
      list.push({ index: 0, city: city.index, lat: city.lat + NORTHWARDS[n % 8] * away, lon: city.lon + EASTWARDS[n % 8] * away })
    }
  }
  const counts = COUNTRIES.map(() => 0)
  for (const { city } of list) counts[CITIES[city].country]++
  const soFar = COUNTRIES.map(() => 0)
  return list.map((postal, index) => {
    const { country } = CITIES[postal.city]
    return { ...postal, index, code: postalCode(COUNTRY_ROWS[country][5], soFar[country]++, counts[country]) }
  })
})()

/** Regions of each country, by country index. */
export const REGIONS_OF: readonly (readonly Region[])[] = (() => {
  const byCountry: Region[][] = COUNTRIES.map(() => [])
  for (const region of REGIONS) byCountry[region.country].push(region)
  return byCountry
})()
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
