import {
  CITIES,
  COUNTRIES,
  METROS,
  POSTALS,
  REGIONS,
  findCountry,
  findRegion,
  kilometres,
  type City,
  type Metro,
  type Postal
} from './places.js'

/**
 * Codes by which a line names places: `DE` a country, `DE-BY` a region, `metro:Lisbon, PT`, `city:Lisbon, PT-11`,
 * `post:PT 1000-100` and `near:38.72,-9.14,25` (latitude, longitude, kilometres).
 */
export const PLACE_KINDS = ['country', 'region', 'metro', 'city', 'postal', 'radius'] as const
export type PlaceKind = (typeof PLACE_KINDS)[number]

export const metroCode = (metro: Metro) => `metro:${metro.name}, ${COUNTRIES[metro.country].code}`
export const cityCode = (city: City) => `city:${city.name}, ${REGIONS[city.region].code}`
export const postalPlaceCode = (postal: Postal) => `post:${COUNTRIES[CITIES[postal.city].country].code} ${postal.code}`

/** Largest radius: beyond it the plane that distances are measured on bends too much. */
export const MOST_RADIUS_KM = 300

let byCode: Map<string, (postal: Postal) => boolean> | undefined
function named(): Map<string, (postal: Postal) => boolean> {
  return (byCode ??= new Map<string, (postal: Postal) => boolean>([
    ...METROS.map((metro) => [metroCode(metro), (postal: Postal) => CITIES[postal.city].metro === metro.index] as const),
    ...CITIES.map((city) => [cityCode(city), (postal: Postal) => postal.city === city.index] as const),
    ...POSTALS.map((own) => [postalPlaceCode(own), (postal: Postal) => postal.index === own.index] as const)
  ]))
}

/** Which postal code areas a place code takes in; undefined for a code we do not know. */
export function placeTest(code: string): ((postal: Postal) => boolean) | undefined {
  const country = findCountry(code)
  if (country) return (postal) => CITIES[postal.city].country === country.index
  const region = findRegion(code)
  if (region) return (postal) => CITIES[postal.city].region === region.index
  const near = /^near:(-?\d{1,2}(?:\.\d{1,4})?),(-?\d{1,3}(?:\.\d{1,4})?),(\d{1,3}(?:\.\d)?)$/.exec(code)
  if (!near) return named().get(code)
  const [lat, lon, km] = near.slice(1).map(Number)
  if (Math.abs(lat) > 90 || Math.abs(lon) > 180 || km <= 0 || km > MOST_RADIUS_KM) return undefined
  return (postal) => kilometres(lat * 100, lon * 100, postal.lat, postal.lon) <= km
}

/** Which of the six kinds a code is; undefined for a code we do not know. */
export function placeKind(code: string): PlaceKind | undefined {
  if (!placeTest(code)) return undefined
  if (code.startsWith('metro:')) return 'metro'
  if (code.startsWith('city:')) return 'city'
  if (code.startsWith('post:')) return 'postal'
  if (code.startsWith('near:')) return 'radius'
  return findCountry(code) ? 'country' : 'region'
}

/** Country that a place lies in; undefined for a radius, which may cross borders, and for an unknown code. */
export function placeCountry(code: string): number | undefined {
  const iso = /^(?:metro:.*, |city:.*, |post:)?([A-Z]{2})(?:[- ]|$)/.exec(code)?.[1]
  return iso ? findCountry(iso)?.index : undefined
}

/** Shortcuts that fill countries in. */
export const COUNTRY_GROUPS: readonly { name: string; codes: readonly string[] }[] = [
  ...([1, 2, 3] as const).map((tier) => ({
    name: `tier ${tier}`,
    codes: COUNTRIES.filter((country) => country.tier === tier).map((country) => country.code)
  })),
  { name: 'German-speaking', codes: ['DE', 'AT', 'CH'] },
  { name: 'Iberia', codes: ['PT', 'ES'] },
  { name: 'Low Countries', codes: ['NL', 'BE'] },
  { name: 'Nordic', codes: ['SE', 'DK'] },
  { name: 'British Isles', codes: ['GB', 'IE'] },
  { name: 'North America', codes: ['US', 'CA', 'MX'] },
  { name: 'South America', codes: ['BR', 'AR'] },
  { name: 'European Union', codes: ['PT', 'ES', 'FR', 'DE', 'AT', 'IT', 'NL', 'BE', 'IE', 'SE', 'DK', 'PL'] }
]
