import { CITIES, COUNTRIES, POSTALS } from '../places/index.js'
import { CONNECTIONS, DEVICE_TYPES } from '../taxonomy/index.js'
import {
  BLOCKS,
  CARRIERS,
  CELLULAR,
  DEVICE_TYPE,
  EMPLOYERS,
  PROVIDERS,
  connectionOf,
  isDemographic,
  momentOf,
  pathPlacement,
  propertyOfPage
} from '../market/index.js'
import { LANES, laneSize, type Catalogue, type Lane } from '../dimensions/index.js'
import { type CompiledTargeting } from './compile.js'

export interface Conflict {
  /** Places of the two restrictions in the trader's order. */
  first: number
  second: number
  /** Values that both name, when one includes and the other excludes the same dimension. */
  values: string[]
  /** True when no opportunity can meet both. */
  empty: boolean
}

/** What several lanes know of: a restriction by one of them limits the others through it. */
const FACETS = ['country', 'device type', 'connection', 'property'] as const
type Facet = (typeof FACETS)[number]

const ALL = 'all'
const WIRED = CONNECTIONS.indexOf('wired')
const mobile = (type: number) => DEVICE_TYPES[type] === 'phone' || DEVICE_TYPES[type] === 'tablet'
const languageCountries = new Map<number, number[]>()
for (const country of COUNTRIES)
  for (const { language } of country.languages) languageCountries.set(language, [...(languageCountries.get(language) ?? []), country.index])

/** Whether a lane's value occurs at all. */
function occurs(lane: Lane, i: number, { inventory }: Catalogue): boolean {
  if (lane === 'path') return inventory.sourceWeights[i] > 0
  if (lane === 'demographic') return isDemographic(i)
  if (lane === 'tongue') return languageCountries.has(i & 31)
  if (lane === 'state') return momentOf(i) <= 12 && connectionOf(i) < CONNECTIONS.length
  return true
}

/** Values of a facet that go with a lane's value; `all` where the lane says nothing of it. */
function facetValues(facet: Facet, lane: Lane, i: number, { inventory }: Catalogue): readonly number[] | typeof ALL {
  switch (`${facet} ${lane}`) {
    case 'country postal':
      return [CITIES[POSTALS[i].city].country]
    case 'country cell':
      return [CARRIERS[Math.floor(i / BLOCKS)].country]
    case 'country fixed':
      return [PROVIDERS[Math.floor(i / BLOCKS)].country]
    case 'country employer':
      return i < EMPLOYERS.length ? [EMPLOYERS[i].country] : ALL
    case 'country tongue':
      return languageCountries.get(i & 31) ?? []
    case 'device type path':
      return DEVICE_TYPES.flatMap((_, type) => ((inventory.placements[pathPlacement(i)].devices >> type) & 1 ? [type] : []))
    case 'device type device':
      return [DEVICE_TYPE[i]]
    case 'device type state':
      return connectionOf(i) === CELLULAR
        ? DEVICE_TYPES.flatMap((_, type) => (mobile(type) ? [type] : []))
        : connectionOf(i) === WIRED
          ? DEVICE_TYPES.flatMap((_, type) => (mobile(type) ? [] : [type]))
          : ALL
    case 'connection state':
      return [connectionOf(i)]
    case 'connection cell':
      return [CELLULAR]
    case 'connection fixed':
      return CONNECTIONS.flatMap((_, connection) => (connection === CELLULAR ? [] : [connection]))
    case 'connection device':
      return mobile(DEVICE_TYPE[i]) ? [0, CELLULAR] : [0, WIRED]
    case 'property path':
      return [inventory.placements[pathPlacement(i)].property]
    case 'property page':
      return [propertyOfPage(i)]
    default:
      return ALL
  }
}

/** A lane's value that goes with any value of a facet, and one that does not occur. */
const ANY = -1
const ABSENT = -2
const facetTables = new WeakMap<Catalogue['inventory'], Map<string, Int32Array>>()

/** What goes with each value of a lane: bits of a facet's values, of properties the number; made once for an inventory. */
function facetOf(facet: Facet, lane: Lane, catalogue: Catalogue): Int32Array {
  const { inventory } = catalogue
  const made = facetTables.get(inventory) ?? new Map<string, Int32Array>()
  facetTables.set(inventory, made)
  const known = made.get(`${facet} ${lane}`)
  if (known) return known
  const table = Int32Array.from({ length: laneSize(lane, inventory) }, (_, i) => {
    if (!occurs(lane, i, catalogue)) return ABSENT
    const values = facetValues(facet, lane, i, catalogue)
    return values === ALL ? ANY : facet === 'property' ? values[0] : values.reduce((bits, value) => bits | (1 << value), 0)
  })
  made.set(`${facet} ${lane}`, table)
  return table
}

/** Lanes that the restriction of each place reads: found in one pass over the tables, since pairs ask again and again. */
function lanesRead({ lanes, restrictions }: CompiledTargeting): Lane[][] {
  const read = LANES.map((lane) => [lane, lanes[lane]?.reduce((all, bits) => all | bits, 0) ?? 0] as const)
  return restrictions.map((_, place) => read.flatMap(([lane, bits]) => ((bits >> place) & 1 ? [lane] : [])))
}

/** Values of a facet that leave a restriction a chance; null when any does. */
function chances(
  compiled: CompiledTargeting,
  place: number,
  read: readonly Lane[],
  facet: Facet,
  catalogue: Catalogue
): Set<number> | null {
  if (read.length === 0) return null
  const seen = new Set<number>()
  let bits = 0
  // Of the two networks one is enough: an opportunity has only the one.
  const both =
    read.includes('cell') !== read.includes('fixed') && (read.includes('cell') || read.includes('fixed'))
      ? [...new Set<Lane>([...read, 'cell', 'fixed'])]
      : read
  for (const lane of both) {
    const table = compiled.lanes[lane]
    const values = facetOf(facet, lane, catalogue)
    for (let i = 0; i < values.length; i++) {
      if (values[i] === ABSENT || (table && (table[i] >> place) & 1)) continue
      if (values[i] === ANY) return null
      if (facet === 'property') seen.add(values[i])
      else bits |= values[i]
    }
  }
  for (let value = 0; bits >> value > 0; value++) if ((bits >> value) & 1) seen.add(value)
  return seen
}

/** Whether a value of some lane passes both restrictions, for the lanes that both read. */
function shareValue(compiled: CompiledTargeting, read: readonly Lane[][], first: number, second: number, catalogue: Catalogue): boolean {
  const [a, b] = [read[first], read[second]]
  const networks = (['cell', 'fixed'] as const).filter((lane) => a.includes(lane) || b.includes(lane))
  const passes = (lane: Lane) => {
    const table = compiled.lanes[lane]
    const size = laneSize(lane, catalogue.inventory)
    for (let i = 0; i < size; i++)
      if (occurs(lane, i, catalogue) && !(((table?.[i] ?? 0) >> first) & 1) && !(((table?.[i] ?? 0) >> second) & 1)) return true
    return false
  }
  const others = a.filter((lane) => lane !== 'cell' && lane !== 'fixed' && b.includes(lane))
  return (
    others.every(passes) &&
    (networks.length === 0 ||
      a.every((lane) => !networks.includes(lane as 'cell')) ||
      b.every((lane) => !networks.includes(lane as 'cell')) ||
      (['cell', 'fixed'] as const).some(passes))
  )
}

function inBoth(values: readonly string[], others: readonly string[]): string[] {
  const known = new Set(others)
  return values.filter((value) => known.has(value))
}

/** Pairs of restrictions that no opportunity can meet, and values both included and excluded. */
export function conflicts(compiled: CompiledTargeting, catalogue: Catalogue): Conflict[] {
  const found: Conflict[] = []
  const { restrictions } = compiled
  const read = lanesRead(compiled)
  const facets = restrictions.map((_, place) => FACETS.map((facet) => chances(compiled, place, read[place], facet, catalogue)))
  for (let first = 0; first < restrictions.length; first++) {
    for (let second = first + 1; second < restrictions.length; second++) {
      const a = restrictions[first]
      const b = restrictions[second]
      const values = a.dimension === b.dimension ? inBoth(a.values, b.values) : []
      const apart = FACETS.some((_, f) => {
        const [x, y] = [facets[first][f], facets[second][f]]
        return x !== null && y !== null && ![...x].some((value) => y.has(value))
      })
      const empty = apart || !shareValue(compiled, read, first, second, catalogue)
      if (values.length > 0 || empty) found.push({ first, second, values, empty })
    }
  }
  return found
}

/** Restrictions that nothing in the market passes, whatever else is asked. */
export function impossible(compiled: CompiledTargeting, catalogue: Catalogue): number[] {
  const lanes = lanesRead(compiled)
  return compiled.restrictions.flatMap((_, place) => {
    const read = lanes[place]
    const some = (lane: Lane) => {
      const table = compiled.lanes[lane]
      const size = laneSize(lane, catalogue.inventory)
      for (let i = 0; i < size; i++) if (occurs(lane, i, catalogue) && !(((table?.[i] ?? 0) >> place) & 1)) return true
      return false
    }
    if (read.length === 0) return []
    const network = read.some((lane) => lane === 'cell' || lane === 'fixed')
    const ok = network ? some('cell') || some('fixed') : read.every(some)
    return ok ? [] : [place]
  })
}
