import {
  CITIES,
  COUNTRIES,
  COUNTRY_GROUPS,
  METROS,
  POSTALS,
  POSTAL_COUNTRY,
  POSTAL_REGION,
  REGIONS,
  cityCode,
  findCountry,
  findRegion,
  kilometres,
  metroCode,
  placeTest,
  postalPlaceCode
} from '../places/index.js'
import { postalOf } from '../market/index.js'
import type { Restricting, Telling } from './dimension.js'
import type { Seen } from './lanes.js'

/** Whether a postal area lies in one of the places. */
function postalTest(values: readonly string[]): (postal: number) => boolean {
  const wanted = new Set(values)
  const radii = values.filter((value) => value.startsWith('near:')).map((value) => value.slice(5).split(',').map(Number))
  const countries = COUNTRIES.map((country) => wanted.has(country.code))
  const regions = REGIONS.map((region) => countries[region.country] || wanted.has(region.code))
  const metros = METROS.map((metro) => wanted.has(metroCode(metro)))
  const cities = CITIES.map((city) => regions[city.region] || (city.metro >= 0 && metros[city.metro]) || wanted.has(cityCode(city)))
  const postals = values.some((value) => value.startsWith('post:'))
  return (i) => {
    const postal = POSTALS[i]
    return (
      cities[postal.city] ||
      (postals && wanted.has(postalPlaceCode(postal))) ||
      radii.some(([lat, lon, km]) => kilometres(lat * 100, lon * 100, postal.lat, postal.lon) <= km)
    )
  }
}

function placeWords(value: string): string {
  const [lat, lon, km] = value.startsWith('near:') ? value.slice(5).split(',') : []
  return km
    ? `${km} km round ${lat}, ${lon}`
    : (findCountry(value)?.name ?? findRegion(value)?.name ?? value.replace(/^(metro|city|post):/, ''))
}

/** Names of countries and regions; where two share a name it stands for the first, and the other keeps its code. */
const names = (() => {
  const seen = new Set<string>()
  return [...COUNTRIES, ...REGIONS]
    .filter(({ name }) => !seen.has(name.toLowerCase()) && seen.add(name.toLowerCase()))
    .map(({ code, name }) => [code, name] as const)
})()

const postal = (seen: Seen) => postalOf(seen.word0)

export const WHERE = {
  where: {
    restricts: {
      title: 'places',
      noun: 'place',
      isKnown: (value) => findCountry(value) !== undefined || placeTest(value) !== undefined,
      tests: ({ values }) => ({ postal: postalTest(values) }),
      inFull: ['in', 'outside'],
      said: ['in', 'outside', 'and'],
      words: placeWords,
      names,
      called: [
        ...COUNTRIES.flatMap(({ name, code }) => [
          [name, code],
          [code, code]
        ]),
        ...COUNTRY_GROUPS.map((group) => [group.name, ...group.codes]),
        ...REGIONS.flatMap(({ name, code }) => [
          [name, code],
          [code, code]
        ])
      ] as [words: string, ...values: string[]][],
      chooser: { by: ['country', 'region'], value: (by, key) => (by === 'country' ? COUNTRIES[key].code : REGIONS[key].code) }
    } satisfies Restricting
  },
  country: { tells: { key: (seen) => POSTAL_COUNTRY[postal(seen)], label: (key) => COUNTRIES[key].name } satisfies Telling },
  region: {
    tells: {
      key: (seen) => POSTAL_REGION[postal(seen)],
      label: (key) => `${REGIONS[key].name}, ${COUNTRIES[REGIONS[key].country].code}`
    } satisfies Telling
  },
  city: {
    tells: {
      key: (seen) => POSTALS[postal(seen)].city,
      label: (key) => `${CITIES[key].name}, ${COUNTRIES[CITIES[key].country].code}`
    } satisfies Telling
  },
  'postal code': {
    tells: { key: postal, label: (key) => `${COUNTRIES[POSTAL_COUNTRY[key]].code} ${POSTALS[key].code}` } satisfies Telling
  }
}
