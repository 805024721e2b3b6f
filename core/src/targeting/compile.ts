import { CITIES, COUNTRIES, POSTALS, REGIONS, kilometres, cityCode, metroCode, postalPlaceCode, METROS } from '../places/index.js'
import {
  AGES,
  BROWSERS,
  CATEGORIES,
  CONNECTIONS,
  DEVICE_TYPES,
  ENVIRONMENT_OF,
  GENDERS,
  GRADES,
  INCOMES,
  INDUSTRIES,
  JOB_FUNCTIONS,
  KEYWORDS,
  LANGUAGES,
  MAKERS,
  MOMENTS,
  MUSIC_GENRES,
  POPULARITIES,
  PRICE_BANDS,
  RATINGS,
  RESOLUTIONS,
  SELLERS,
  SHAPES,
  SYSTEMS,
  VIDEO_POSITIONS,
  findCategory,
  findKeyword,
  findSegment
} from '../taxonomy/index.js'
import {
  BLOCKS,
  CARRIERS,
  CELLULAR,
  DEMOGRAPHICS,
  DEVICE_BROWSER,
  DEVICE_CODES,
  EMPLOYERS,
  FIRST_PRICE,
  KEYWORDS_EACH,
  PROFILES,
  PROVIDERS,
  SOURCES,
  STATES,
  TONGUES,
  carrierBlock,
  connectionOf,
  demographic,
  deviceModel,
  inSegment,
  isBlocked,
  isBot,
  isProxy,
  momentOf,
  popularityOf,
  propertyOfPage,
  providerBlock,
  rangeBlocks,
  type Inventory,
  type Profiles,
  type PublishedMeasures
} from '../market/index.js'
import { MOST_RESTRICTIONS, type Restriction, type SegmentGroup, type Targeting } from './specification.js'

/** What a specification is compiled against: all that is sold, who is in which segment, and what is published of it. */
export interface Catalogue {
  inventory: Inventory
  profiles: Profiles
  measures: PublishedMeasures
}

/**
 * The look-up tables, one for each attribute that a restriction can read: of the person, and of the opportunity.
 * `cell` and `fixed` are the person's two networks; the opportunity's connection says which one counts.
 */
const PERSON_LANES = ['postal', 'demographic', 'tongue', 'job', 'profile', 'employer'] as const
const NETWORK_LANES = ['cell', 'fixed'] as const
const ROW_LANES = ['path', 'device', 'page', 'state'] as const
export const LANES = [...PERSON_LANES, ...NETWORK_LANES, ...ROW_LANES] as const
export type Lane = (typeof LANES)[number]

export function laneSize(lane: Lane, inventory: Inventory): number {
  switch (lane) {
    case 'postal':
      return POSTALS.length
    case 'demographic':
      return DEMOGRAPHICS
    case 'tongue':
      return TONGUES
    case 'job':
      return JOB_FUNCTIONS.length + 1
    case 'profile':
      return PROFILES
    case 'employer':
      return EMPLOYERS.length + 1
    case 'cell':
      return CARRIERS.length * BLOCKS
    case 'fixed':
      return PROVIDERS.length * BLOCKS
    case 'path':
      return inventory.floors.length
    case 'device':
      return DEVICE_CODES
    case 'page':
      return inventory.pages.count
    case 'state':
      return STATES
  }
}

/**
 * A specification as look-up tables. A set bit says that the restriction of that place in the trader's order fails; no
 * bit set in any of them is a match. A lane that no restriction reads is null.
 */
export interface CompiledTargeting {
  restrictions: readonly Restriction[]
  lanes: Readonly<Record<Lane, Int32Array | null>>
  /** Bit of the restriction by minutes since the last pop, 0 for none; it fails below `sincePop`. */
  sincePopBit: number
  sincePop: number
  /** All of them, where several stand side by side: adjustments of a price may have many. */
  sincePops: readonly { bit: number; minutes: number }[]
}

/** Whether value `i` of a lane carries what a restriction names, by lane. */
type Tests = Partial<Record<Lane, (i: number) => boolean>>

const never = () => false

function whereTest(values: readonly string[]): (postal: number) => boolean {
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

/** Values such as `Corvid` or `Corvid>=12` against a name and a number. */
function atLeast(values: readonly string[]): (name: string, number: number) => boolean {
  const rows = values.map((value) => {
    const [name, least] = value.split('>=')
    return { name, least: least === undefined ? -Infinity : Number(least) }
  })
  return (name, number) => rows.some((row) => row.name === name && number >= row.least)
}

function categoryTest({ values, exact }: Restriction): (category: number) => boolean {
  const wanted = new Set(values.map((value) => findCategory(value)?.index))
  return (category) => wanted.has(category) || (!exact && wanted.has(CATEGORIES[category].branch))
}

/** Whether a profile's segments make a tree true. */
function groupHolds(group: SegmentGroup | string, isIn: (segment: string) => boolean): boolean {
  if (typeof group === 'string') return isIn(group)
  const holds = (part: SegmentGroup | string) => groupHolds(part, isIn)
  return group.join === 'and' ? group.parts.every(holds) : group.join === 'or' ? group.parts.some(holds) : !group.parts.some(holds)
}

/** Segments that a tree or a list names. */
export function segmentsIn(restriction: Pick<Restriction, 'values' | 'group'>): string[] {
  const walk = (part: SegmentGroup | string): string[] => (typeof part === 'string' ? [part] : part.parts.flatMap(walk))
  return restriction.group ? walk(restriction.group) : restriction.values
}

function profileTest(restriction: Restriction, profiles: Profiles): (profile: number) => boolean {
  const numbers = new Map(segmentsIn(restriction).map((name) => [name, findSegment(name)?.index as number]))
  const group = restriction.group ?? { join: 'or', parts: restriction.values }
  return (profile) => groupHolds(group, (name) => inSegment(profiles, profile, numbers.get(name) as number))
}

function keywordTest({ values, exact }: Restriction, inventory: Inventory): (page: number) => boolean {
  const words = new Set<number>()
  for (const value of values) {
    const keyword = findKeyword(value)
    for (const other of KEYWORDS)
      if (keyword && (other.index === keyword.index || (!exact && other.family === keyword.family))) words.add(other.index)
  }
  return (page) => {
    for (let k = 0; k < KEYWORDS_EACH; k++) if (words.has(inventory.pages.keywords[page * KEYWORDS_EACH + k])) return true
    return false
  }
}

/** How a restriction reads the lanes. */
function testsOf(restriction: Restriction, { inventory, profiles, measures }: Catalogue): Tests {
  const { dimension, values } = restriction
  const { placements, properties, pages } = inventory
  const has = new Set(values)
  const least = Math.min(...values.map(Number))
  const placementOf = (path: number) => placements[Math.floor(path / SOURCES.length)]
  const sourceOf = (path: number) => path % SOURCES.length
  const propertyOf = (path: number) => properties[placementOf(path).property]
  const yes = (value: boolean) => has.has(value ? 'yes' : 'no')
  const ranges = dimension === 'address range' ? values.map(rangeBlocks) : []
  const inRange = (block: number) => ranges.some((range) => range !== null && block >= range.from && block < range.to)
  switch (dimension) {
    case 'where':
      return { postal: whereTest(values) }
    case 'device':
      return { device: (i) => has.has(DEVICE_TYPES[deviceModel(i).type]) }
    case 'system': {
      const test = atLeast(values)
      return { device: (i) => test(SYSTEMS[deviceModel(i).system], deviceModel(i).version) }
    }
    case 'browser':
      return { device: (i) => has.has(BROWSERS[DEVICE_BROWSER[i]]) }
    case 'browser language':
      return { tongue: (i) => has.has(i >= 32 ? 'en' : LANGUAGES[i]) }
    case 'maker':
      return { device: (i) => has.has(MAKERS[deviceModel(i).maker]) }
    case 'release year':
      return {
        device: (i) =>
          values.some((value) =>
            value.startsWith('>=') ? deviceModel(i).year >= Number(value.slice(2)) : deviceModel(i).year === Number(value)
          )
      }
    case 'price band':
      return { device: (i) => has.has(PRICE_BANDS[deviceModel(i).band]) }
    case 'resolution':
      return { device: (i) => has.has(RESOLUTIONS[deviceModel(i).resolution]) }
    case 'connection':
      return { state: (i) => has.has(CONNECTIONS[connectionOf(i)]) }
    case 'carrier':
      return { cell: (i) => has.has(CARRIERS[Math.floor(i / BLOCKS)].name), fixed: never }
    case 'provider':
      return { fixed: (i) => has.has(PROVIDERS[Math.floor(i / BLOCKS)].name), cell: never }
    case 'address range':
      return { cell: (i) => inRange(carrierBlock(0) + i), fixed: (i) => inRange(providerBlock(0) + i) }
    case 'unwanted':
      return {
        state: (i) => (has.has('bots') && isBot(i)) || (has.has('proxies') && isProxy(i)) || (has.has('pop-up blockers') && isBlocked(i))
      }
    case 'since pop':
      return {}
    case 'age':
      return { demographic: (i) => has.has(AGES[demographic(i).age]) }
    case 'gender':
      return { demographic: (i) => has.has(GENDERS[demographic(i).gender]) }
    case 'income':
      return { demographic: (i) => has.has(INCOMES[demographic(i).income]) }
    case 'language':
      return { tongue: (i) => has.has(LANGUAGES[i & 31]) }
    case 'employer':
      return { employer: (i) => has.has(EMPLOYERS[i]?.name) }
    case 'industry':
      return { employer: (i) => has.has(INDUSTRIES[EMPLOYERS[i]?.industry]) }
    case 'job function':
      return { job: (i) => has.has(JOB_FUNCTIONS[i]) }
    case 'segments':
      return { profile: profileTest(restriction, profiles) }
    case 'category': {
      const test = categoryTest(restriction)
      return { page: (i) => test(pages.category[i]) }
    }
    case 'keyword':
      return { page: keywordTest(restriction, inventory) }
    case 'popularity':
      return { page: (i) => has.has(POPULARITIES[popularityOf(i)]) }
    case 'moment':
      return { state: (i) => has.has(MOMENTS[momentOf(i)]) }
    case 'music genre':
      return { page: (i) => has.has(MUSIC_GENRES[pages.genre[i]]) }
    case 'podcast topic': {
      const test = categoryTest(restriction)
      return { page: (i) => pages.podcast[i] === 1 && test(pages.category[i]) }
    }
    case 'content left out': {
      const branch = (i: number) => CATEGORIES[CATEGORIES[pages.category[i]].branch].name
      return {
        page: (i) =>
          (has.has('games') && (branch(i) === 'games' || properties[propertyOfPage(i)].class === 'game')) ||
          (has.has('adult') && (branch(i) === 'adult' || RATINGS[pages.rating[i]] === 'adults only')) ||
          (has.has('unrated') && RATINGS[pages.rating[i]] === 'unrated')
      }
    }
    case 'rating':
      return { page: (i) => has.has(RATINGS[pages.rating[i]]) }
    case 'class':
      return { path: (i) => has.has(propertyOf(i).class) }
    case 'environment':
      return { path: (i) => has.has(ENVIRONMENT_OF[propertyOf(i).class]) }
    case 'rewarded':
      return { path: (i) => yes(placementOf(i).rewarded) }
    case 'size':
      return { path: (i) => has.has(SHAPES[placementOf(i).shape]) }
    case 'video position':
      return { path: (i) => has.has(VIDEO_POSITIONS[placementOf(i).video]) }
    case 'skippable':
      return { path: (i) => yes(placementOf(i).skippable) }
    case 'sound':
      return { path: (i) => yes(placementOf(i).sound) }
    case 'source':
      return { path: (i) => has.has(SOURCES[sourceOf(i)].name) }
    case 'auction':
      return { path: (i) => has.has(FIRST_PRICE[sourceOf(i)] === 1 ? 'first price' : 'second price') }
    case 'seller':
      return { path: (i) => has.has(SELLERS[inventory.direct[i] === 1 ? 0 : 1]) }
    case 'grade': {
      const worst = Math.max(...values.map((value) => (GRADES as readonly string[]).indexOf(value)))
      return { path: (i) => measures.grade[Math.floor(i / SOURCES.length)] <= worst }
    }
    case 'viewability':
      return { path: (i) => measures.viewable[Math.floor(i / SOURCES.length)] >= least }
    case 'publisher':
      return { path: (i) => has.has(String(propertyOf(i).publisher)) }
    case 'property':
      return { path: (i) => has.has(String(placementOf(i).property)) }
    case 'placement':
      return { path: (i) => has.has(String(Math.floor(i / SOURCES.length))) }
  }
}

/** Which values of a lane carry what a restriction names: 1 or 0 for each. */
interface Carried {
  lane: Lane
  carries: Uint8Array
}
const carried = new WeakMap<Catalogue['inventory'], Map<string, Carried[]>>()
/** Restrictions whose tables are kept: an edit changes one of a line's, the others are those of the last question. */
const MOST_CARRIED = 64

function carriedBy(restriction: Restriction, catalogue: Catalogue): Carried[] {
  let known = carried.get(catalogue.inventory)
  if (!known) carried.set(catalogue.inventory, (known = new Map()))
  const key = JSON.stringify([restriction.dimension, restriction.values, restriction.group ?? null, restriction.exact ?? false])
  let found = known.get(key)
  if (!found) {
    const tests = testsOf(restriction, catalogue)
    found = (Object.keys(tests) as Lane[]).map((lane) => {
      const test = tests[lane] as (i: number) => boolean
      const carries = new Uint8Array(laneSize(lane, catalogue.inventory))
      for (let i = 0; i < carries.length; i++) carries[i] = test(i) ? 1 : 0
      return { lane, carries }
    })
    if (known.size >= MOST_CARRIED) known.delete(known.keys().next().value as string)
    known.set(key, found)
  }
  return found
}

/**
 * Compiles a checked specification.
 * @throws RangeError for more restrictions than there are bits
 */
export function compileTargeting(targeting: Targeting, catalogue: Catalogue): CompiledTargeting {
  const { restrictions } = targeting
  if (restrictions.length > MOST_RESTRICTIONS)
    throw new RangeError(`${restrictions.length} restrictions; at most ${MOST_RESTRICTIONS} fit.`)
  const lanes = Object.fromEntries(LANES.map((lane) => [lane, null])) as Record<Lane, Int32Array | null>
  const sincePops: { bit: number; minutes: number }[] = []
  restrictions.forEach((restriction, place) => {
    const bit = 1 << place
    if (restriction.dimension === 'since pop') {
      sincePops.push({ bit, minutes: Math.min(...restriction.values.map(Number)) })
      return
    }
    const failsOn = restriction.mode === 'exclude' ? 1 : 0
    for (const { lane, carries } of carriedBy(restriction, catalogue)) {
      const table = (lanes[lane] ??= new Int32Array(carries.length))
      for (let i = 0; i < table.length; i++) if (carries[i] === failsOn) table[i] |= bit
    }
  })
  return { restrictions, lanes, sincePopBit: sincePops[0]?.bit ?? 0, sincePop: sincePops[0]?.minutes ?? 0, sincePops }
}

/** The lane values of one opportunity and its person. */
export interface LaneValues {
  postal: number
  demographic: number
  tongue: number
  job: number
  profile: number
  employer: number
  cell: number
  fixed: number
  path: number
  device: number
  page: number
  state: number
  sincePop: number
}

/** Bits of the restrictions that fail; 0 is a match. */
export function failures({ lanes, sincePopBit, sincePop }: CompiledTargeting, values: LaneValues): number {
  let bits = values.sincePop < sincePop ? sincePopBit : 0
  for (const lane of PERSON_LANES) bits |= lanes[lane]?.[values[lane]] ?? 0
  for (const lane of ROW_LANES) bits |= lanes[lane]?.[values[lane]] ?? 0
  const network = connectionOf(values.state) === CELLULAR ? 'cell' : 'fixed'
  return bits | (lanes[network]?.[values[network]] ?? 0)
}

/** Whether all restrictions hold. */
export function matches(compiled: CompiledTargeting, values: LaneValues): boolean {
  return failures(compiled, values) === 0
}

/** The restrictions that fail, in the trader's order. Empty for a match. */
export function explain(compiled: CompiledTargeting, values: LaneValues): Restriction[] {
  const bits = failures(compiled, values)
  return compiled.restrictions.filter((_, place) => (bits >> place) & 1)
}
