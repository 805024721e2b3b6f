import { CITIES, METROS, cityCode, findCountry, findRegion, metroCode, placeCountry, placeKind, placeTest, POSTALS } from '../places/index.js'

const cityByCode = new Map(CITIES.map((city) => [cityCode(city), city]))
const metroByCode = new Map(METROS.map((metro) => [metroCode(metro), metro]))

/** Whether all of a place lies inside another. */
export function isInside(value: string, other: string): boolean {
  if (value === other) return false
  const kinds = [placeKind(value), placeKind(other)]
  if (kinds.includes('radius') || kinds.includes(undefined)) return false
  if (kinds[1] === 'country') return kinds[0] !== 'country' && placeCountry(value) === findCountry(other)?.index
  if (kinds[0] === 'country') return false
  const city = cityByCode.get(value)
  if (city && kinds[1] === 'region') return city.region === findRegion(other)?.index
  if (city && kinds[1] === 'metro') return city.metro === metroByCode.get(other)?.index
  if (kinds[0] !== 'postal') return false
  const postal = POSTALS.find((one) => placeTest(value)?.(one))
  return postal !== undefined && (placeTest(other)?.(postal) ?? false)
}

/** Places that add nothing to the others, each with one that takes it in. */
export function coveredPlaces(values: readonly string[]): { value: string; by: string }[] {
  // Long lists of postal codes are what they are: looking each up in each would take longer than it tells.
  if (values.length > 200) return []
  return values.flatMap((value) => {
    const by = values.find((other) => isInside(value, other))
    return by === undefined ? [] : [{ value, by }]
  })
}
