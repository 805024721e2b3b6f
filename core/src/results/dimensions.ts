import { CITIES, COUNTRIES, POSTALS, POSTAL_COUNTRY, POSTAL_REGION, POSTAL_ZONE, REGIONS } from '../places/index.js'
import {
  AGES,
  AUCTION_KINDS,
  BROWSERS,
  CATEGORIES,
  CONNECTIONS,
  DEVICE_TYPES,
  ENVIRONMENTS,
  ENVIRONMENT_OF,
  FORMATS,
  GENDERS,
  GRADES,
  INCOMES,
  INDUSTRIES,
  JOB_FUNCTIONS,
  LANGUAGES,
  MAKERS,
  MOMENTS,
  MUSIC_GENRES,
  POPULARITIES,
  PRICE_BANDS,
  PROPERTY_CLASSES,
  RATINGS,
  RESOLUTIONS,
  SEGMENTS,
  SELLERS,
  SHAPES,
  SHAPE_FORMAT,
  SYSTEMS,
  VIDEO_POSITIONS
} from '../taxonomy/index.js'
import {
  CARRIERS,
  CELLULAR,
  DEVICE_BROWSER,
  DEVICE_TYPE,
  EMPLOYERS,
  FIRST_PRICE,
  PERSON_WORDS,
  PROVIDERS,
  SOURCES,
  carrierOf,
  connectionOf,
  demographic,
  demographicOf,
  deviceModel,
  employerOf,
  inSegment,
  isBlocked,
  isBot,
  isProxy,
  jobOf,
  momentOf,
  popularityOf,
  postalOf,
  profileOf,
  providerOf,
  tongueOf,
  type Inventory,
  type Profiles,
  type PublishedMeasures
} from '../market/index.js'
import { dateOfDay, localDayOf, localHourOf, offsetMinutes, weekdayOf } from '../time/index.js'

/** A win as a report reads it. */
export interface Seen {
  line: number
  ad: number
  path: number
  device: number
  page: number
  state: number
  /** Number of the deal; 0 for the open market. */
  deal: number
  nth: number
  /** Market hour. */
  hour: number
  /** The person's four words. */
  word0: number
  word1: number
  word2: number
}

/** What reports read the market's facts from. */
export interface ReportMarket {
  inventory: Inventory
  profiles: Profiles
  measures: PublishedMeasures
  /** Zone in which days and hours are counted. */
  zone: number
}

interface ReportDimension {
  /** Group of the trader's list of dimensions. */
  group: 'when' | 'what' | 'where' | 'device' | 'connection' | 'who' | 'context' | 'slot' | 'inventory'
  /** A number for each value; -1 for what is unknown. A list where a win has several. */
  key: (seen: Seen, market: ReportMarket) => number | readonly number[]
  /** The value in words; null where pages name it (lines, ads and deals). */
  label: (key: number, market: ReportMarket) => string | null
}

const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const labelIn = (values: readonly string[]) => (key: number) => values[key] ?? 'unknown'
const postal = (seen: Seen) => postalOf(seen.word0)
const placementOf = ({ path }: Seen, { inventory }: ReportMarket) => inventory.placements[Math.floor(path / SOURCES.length)]
const propertyOf = (seen: Seen, market: ReportMarket) => market.inventory.properties[placementOf(seen, market).property]
const yes = labelIn(['no', 'yes'])
const languageNames = new Intl.DisplayNames('en', { type: 'language' })
const language = (key: number) => (LANGUAGES[key] ? (languageNames.of(LANGUAGES[key]) ?? LANGUAGES[key]) : 'unknown')
const clock = (hour: number) => `${String(hour).padStart(2, '0')}:00`

/** Everything results can be told apart by: what targeting knows, and what came of buying. */
export const REPORT_DIMENSIONS = {
  line: { group: 'what', key: ({ line }) => line, label: () => null },
  ad: { group: 'what', key: ({ ad }) => ad, label: () => null },
  'nth exposure': {
    group: 'what',
    key: ({ nth }) => Math.min(nth, 12),
    label: (key) =>
      key >= 12 ? '12th and later' : `${key}${['th', 'st', 'nd', 'rd'][key % 10 < 4 && Math.floor(key / 10) !== 1 ? key % 10 : 0]}`
  },
  deal: { group: 'what', key: ({ deal }) => deal, label: (key) => (key === 0 ? 'the open market' : null) },
  day: { group: 'when', key: ({ hour }, { zone }) => localDayOf(zone, hour), label: (key) => dateOfDay(key) },
  weekday: { group: 'when', key: ({ hour }, { zone }) => weekdayOf(localDayOf(zone, hour)), label: labelIn(WEEKDAYS) },
  hour: { group: 'when', key: ({ hour }, { zone }) => localHourOf(zone, hour), label: clock },
  'hour of the viewer': {
    group: 'when',
    key: (seen) => Math.floor(((((seen.hour * 60 + offsetMinutes(POSTAL_ZONE[postal(seen)], seen.hour)) % 1440) + 1440) % 1440) / 60),
    label: clock
  },
  country: { group: 'where', key: (seen) => POSTAL_COUNTRY[postal(seen)], label: (key) => COUNTRIES[key].name },
  region: {
    group: 'where',
    key: (seen) => POSTAL_REGION[postal(seen)],
    label: (key) => `${REGIONS[key].name}, ${COUNTRIES[REGIONS[key].country].code}`
  },
  city: {
    group: 'where',
    key: (seen) => POSTALS[postal(seen)].city,
    label: (key) => `${CITIES[key].name}, ${COUNTRIES[CITIES[key].country].code}`
  },
  'postal code': { group: 'where', key: postal, label: (key) => `${COUNTRIES[POSTAL_COUNTRY[key]].code} ${POSTALS[key].code}` },
  device: { group: 'device', key: ({ device }) => DEVICE_TYPE[device], label: labelIn(DEVICE_TYPES) },
  system: { group: 'device', key: ({ device }) => deviceModel(device).system, label: labelIn(SYSTEMS) },
  browser: { group: 'device', key: ({ device }) => DEVICE_BROWSER[device], label: labelIn(BROWSERS) },
  maker: { group: 'device', key: ({ device }) => deviceModel(device).maker, label: labelIn(MAKERS) },
  'release year': { group: 'device', key: ({ device }) => deviceModel(device).year, label: String },
  'price band': { group: 'device', key: ({ device }) => deviceModel(device).band, label: labelIn(PRICE_BANDS) },
  resolution: { group: 'device', key: ({ device }) => deviceModel(device).resolution, label: labelIn(RESOLUTIONS) },
  connection: { group: 'connection', key: ({ state }) => connectionOf(state), label: labelIn(CONNECTIONS) },
  carrier: {
    group: 'connection',
    key: ({ state, word2 }) => (connectionOf(state) === CELLULAR ? carrierOf(word2) : -1),
    label: (key) => CARRIERS[key]?.name ?? 'not by a carrier'
  },
  provider: {
    group: 'connection',
    key: ({ state, word2 }) => (connectionOf(state) === CELLULAR ? -1 : providerOf(word2)),
    label: (key) => PROVIDERS[key]?.name ?? 'not by a provider'
  },
  robots: { group: 'connection', key: ({ state }) => (isBot(state) ? 1 : 0), label: labelIn(['people', 'robots']) },
  proxies: { group: 'connection', key: ({ state }) => (isProxy(state) ? 1 : 0), label: yes },
  'blocked pops': { group: 'connection', key: ({ state }) => (isBlocked(state) ? 1 : 0), label: yes },
  age: { group: 'who', key: ({ word1 }) => demographic(demographicOf(word1)).age, label: labelIn(AGES) },
  gender: { group: 'who', key: ({ word1 }) => demographic(demographicOf(word1)).gender, label: labelIn(GENDERS) },
  income: { group: 'who', key: ({ word1 }) => demographic(demographicOf(word1)).income, label: labelIn(INCOMES) },
  language: { group: 'who', key: ({ word1 }) => tongueOf(word1) & 31, label: language },
  employer: { group: 'who', key: ({ word2 }) => employerOf(word2), label: (key) => EMPLOYERS[key]?.name ?? 'unknown' },
  industry: { group: 'who', key: ({ word2 }) => EMPLOYERS[employerOf(word2)]?.industry ?? -1, label: labelIn(INDUSTRIES) },
  'job function': { group: 'who', key: ({ word1 }) => jobOf(word1), label: labelIn(JOB_FUNCTIONS) },
  audience: { group: 'who', key: ({ word1 }, { profiles }) => segmentsOf(profiles, profileOf(word1)), label: (key) => SEGMENTS[key].name },
  category: { group: 'context', key: ({ page }, { inventory }) => inventory.pages.category[page], label: (key) => CATEGORIES[key].name },
  'branch of content': {
    group: 'context',
    key: ({ page }, { inventory }) => CATEGORIES[inventory.pages.category[page]].branch,
    label: (key) => CATEGORIES[key].name
  },
  popularity: { group: 'context', key: ({ page }) => popularityOf(page), label: labelIn(POPULARITIES) },
  moment: { group: 'context', key: ({ state }) => momentOf(state), label: (key) => MOMENTS[key] ?? 'none that has a name' },
  'music genre': {
    group: 'context',
    key: ({ page }, { inventory }) => inventory.pages.genre[page],
    label: (key) => MUSIC_GENRES[key] ?? 'no music'
  },
  rating: { group: 'context', key: ({ page }, { inventory }) => inventory.pages.rating[page], label: labelIn(RATINGS) },
  class: {
    group: 'slot',
    key: (seen, market) => PROPERTY_CLASSES.indexOf(propertyOf(seen, market).class),
    label: labelIn(PROPERTY_CLASSES)
  },
  environment: {
    group: 'slot',
    key: (seen, market) => ENVIRONMENTS.indexOf(ENVIRONMENT_OF[propertyOf(seen, market).class]),
    label: labelIn(ENVIRONMENTS)
  },
  format: { group: 'slot', key: (seen, market) => SHAPE_FORMAT[placementOf(seen, market).shape], label: labelIn(FORMATS) },
  size: { group: 'slot', key: (seen, market) => placementOf(seen, market).shape, label: labelIn(SHAPES) },
  'video position': {
    group: 'slot',
    key: (seen, market) => placementOf(seen, market).video,
    label: (key) => VIDEO_POSITIONS[key] ?? 'no video'
  },
  skippable: { group: 'slot', key: (seen, market) => (placementOf(seen, market).skippable ? 1 : 0), label: yes },
  rewarded: { group: 'slot', key: (seen, market) => (placementOf(seen, market).rewarded ? 1 : 0), label: yes },
  sound: { group: 'slot', key: (seen, market) => (placementOf(seen, market).sound ? 1 : 0), label: yes },
  source: { group: 'inventory', key: ({ path }) => path % SOURCES.length, label: (key) => SOURCES[key].name },
  auction: { group: 'inventory', key: ({ path }) => (FIRST_PRICE[path % SOURCES.length] === 1 ? 0 : 1), label: labelIn(AUCTION_KINDS) },
  seller: { group: 'inventory', key: ({ path }, { inventory }) => (inventory.direct[path] === 1 ? 0 : 1), label: labelIn(SELLERS) },
  grade: { group: 'inventory', key: ({ path }, { measures }) => measures.grade[Math.floor(path / SOURCES.length)], label: labelIn(GRADES) },
  publisher: {
    group: 'inventory',
    key: (seen, market) => propertyOf(seen, market).publisher,
    label: (key, { inventory }) => inventory.publishers[key].name
  },
  property: {
    group: 'inventory',
    key: (seen, market) => placementOf(seen, market).property,
    label: (key, { inventory }) => inventory.properties[key].name
  },
  placement: {
    group: 'inventory',
    key: ({ path }) => Math.floor(path / SOURCES.length),
    label: (key, { inventory }) => `${inventory.properties[inventory.placements[key].property].name}, ${inventory.placements[key].position}`
  }
} as const satisfies Record<string, ReportDimension>
export type ReportDimensionName = keyof typeof REPORT_DIMENSIONS
export const REPORT_DIMENSION_NAMES = Object.keys(REPORT_DIMENSIONS) as ReportDimensionName[]

const segmentsByProfile = new WeakMap<Profiles, Map<number, readonly number[]>>()
/** Segments that people of a profile are in. */
function segmentsOf(profiles: Profiles, profile: number): readonly number[] {
  let known = segmentsByProfile.get(profiles)
  if (!known) segmentsByProfile.set(profiles, (known = new Map()))
  let found = known.get(profile)
  if (!found)
    known.set(profile, (found = SEGMENTS.filter((segment) => inSegment(profiles, profile, segment.index)).map((segment) => segment.index)))
  return found
}

/** A person's words into a win that is read. */
export function readPerson(seen: Seen, words: Int32Array, person: number): void {
  const word = person * PERSON_WORDS
  seen.word0 = words[word]
  seen.word1 = words[word + 1]
  seen.word2 = words[word + 2]
}
