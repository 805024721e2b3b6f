import {
  CITIES,
  COUNTRIES,
  METROS,
  POSTALS,
  REGIONS,
  cityCode,
  findRegion,
  metroCode,
  placeCountry,
  placeKind,
  postalPlaceCode,
  type City
} from '../places/index.js'

const ofCity = (city: City) => [
  COUNTRIES[city.country].code,
  REGIONS[city.region].code,
  ...(city.metro < 0 ? [] : [metroCode(METROS[city.metro])])
]
let around: Map<string, readonly string[]> | undefined
/** Places that take in all of each metro area, city and postal code area, made when first asked for. */
const takenIn = () =>
  (around ??= new Map<string, readonly string[]>([
    ...METROS.map((metro) => [metroCode(metro), [COUNTRIES[metro.country].code]] as const),
    ...CITIES.map((city) => [cityCode(city), ofCity(city)] as const),
    ...POSTALS.map((postal) => [postalPlaceCode(postal), [cityCode(CITIES[postal.city]), ...ofCity(CITIES[postal.city])]] as const)
  ]))

/** Places that take in all of a place; none for a country, a radius or a place that we do not know. */
function placesAround(value: string): readonly string[] {
  if (findRegion(value)) return placeKind(value) === 'region' ? [COUNTRIES[placeCountry(value) ?? 0].code] : []
  return takenIn().get(value) ?? []
}

/** Whether all of a place lies inside another. */
export const isInside = (value: string, other: string) => placesAround(value).includes(other)

/** Places that add nothing to the others, each with one that takes it in. */
export function coveredPlaces(values: readonly string[]): { value: string; by: string }[] {
  const chosen = new Set(values)
  return values.flatMap((value) => {
    const by = placesAround(value).find((other) => chosen.has(other))
    return by === undefined ? [] : [{ value, by }]
  })
}
