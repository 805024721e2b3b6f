import { COUNTRIES, POSTALS, POSTAL_COUNTRY, POSTAL_ZONE, CITIES, METROS, REGIONS } from '../places/index.js'
import {
  BRANCHES,
  CATEGORIES,
  FORMATS,
  JOB_FUNCTIONS,
  KEYWORDS,
  MOMENTS,
  MUSIC_GENRES,
  PROPERTY_CLASSES,
  SEGMENTS,
  SHAPE_FORMAT
} from '../taxonomy/index.js'
import {
  CARRIERS,
  DEVICE_TYPE,
  EMPLOYERS,
  PERSON_WORDS,
  PROVIDERS,
  SOURCES,
  TASTES,
  connectionOf,
  demographic,
  demographicOf,
  deviceModel,
  inSegment,
  isBlocked,
  isBot,
  isProxy,
  postalOf,
  profileOf,
  tasteOf,
  publishMeasures,
  type World
} from '../market/index.js'
import { ZONES, offsetMinutes, zoneIndex } from '../time/index.js'
import { COUNTED_BY, REPORT_DIMENSIONS, newSeen, readPerson, type CountedBy, type TellingMarket } from '../dimensions/index.js'
import { TAPE_DAYS, type Tape } from './layout.js'

/** Two figures of which the second must be at least `least` times the first. */
export interface Correlation {
  name: string
  low: number
  high: number
  least: number
  holds: boolean
}

export interface WorldCard {
  counts: Record<string, number>
  /** Share of opportunities by value, largest first, for every dimension. */
  shares: Record<string, [value: string, share: number][]>
  correlations: Correlation[]
  /** Median of max(floor, best rival), micros a thousand, by format and tier of the country. */
  prices: { format: string; byTier: number[] }[]
  /** Value of all opportunities of a day, micros. */
  worthADay: number
  activity: { aDay: number; busiestTenth: number; without: number }
  /** Daily totals over their mean by date, and the growth a week that is left after weekdays. */
  days: { swing: number; driftAWeek: number; byDay: number[] }
}

/** Dimensions whose shares are told: those of many values say little, and when something happened is told by days. */
const NOT_TOLD: readonly CountedBy[] = [
  'weekday',
  'hour',
  'hour of the viewer',
  'city',
  'postal code',
  'audience',
  'publisher',
  'property',
  'placement',
  'grade or better'
]
const TOLD = COUNTED_BY.filter((dimension) => !NOT_TOLD.includes(dimension))

/** Describes a world by what its tape shows: nothing here is read from the tables it was made with, but names. */
export function worldCard(world: World, tape: Tape): WorldCard {
  const { inventory, profiles } = world
  const { placements, properties, pages, floors } = inventory
  const { rows, words } = tape
  const n = tape.rowCount
  const tallies = new Map<string, Map<string, number>>()
  const tally = (dimension: string, value: string | undefined) => {
    if (value === undefined) return
    let counts = tallies.get(dimension)
    if (!counts) tallies.set(dimension, (counts = new Map()))
    counts.set(value, (counts.get(value) ?? 0) + 1)
  }
  const market: TellingMarket = { inventory, profiles, measures: publishMeasures(world.seed, inventory), zone: zoneIndex('UTC') }
  const told = TOLD.map((dimension) => ({ dimension, key: REPORT_DIMENSIONS[dimension].key, counts: new Map<number, number>() }))
  const seen = newSeen()
  const means = new Map<string, { sum: number; n: number }>()
  const mean = (name: string, value: number) => {
    let mean = means.get(name)
    if (!mean) means.set(name, (mean = { sum: 0, n: 0 }))
    mean.sum += value
    mean.n++
  }
  const meanOf = (name: string) => {
    const mean = means.get(name)
    return mean && mean.n > 0 ? mean.sum / mean.n : 0
  }
  const prices = FORMATS.map(() => [1, 2, 3].map((): number[] => []))
  const offsets = ZONES.map((_, zone) => offsetMinutes(zone, tape.firstDay * 24 + 12))
  let worth = 0
  for (let i = 0; i < n; i++) {
    const word = rows.person[i] * PERSON_WORDS
    const [word0, word1, word2] = [words[word], words[word + 1], words[word + 2]]
    const { age, gender, income } = demographic(demographicOf(word1))
    const postal = postalOf(word0)
    const placement = placements[Math.floor(rows.path[i] / SOURCES.length)]
    const property = properties[placement.property]
    const source = SOURCES[rows.path[i] % SOURCES.length]
    const model = deviceModel(rows.device[i])
    const state = rows.state[i]
    const page = rows.page[i]
    const country = COUNTRIES[POSTAL_COUNTRY[postal]]
    const hour = Math.floor((rows.minute[i] + offsets[POSTAL_ZONE[postal]] + 1440) / 60) % 24
    const price = Math.max(floors[rows.path[i]], rows.rival[i])
    worth += price
    prices[SHAPE_FORMAT[placement.shape]][country.tier - 1].push(price)
    seen.path = rows.path[i]
    seen.device = rows.device[i]
    seen.page = rows.page[i]
    seen.state = rows.state[i]
    readPerson(seen, words, rows.person[i])
    told.forEach(({ key, counts }) => {
      const keys = key(seen, market)
      if (typeof keys === 'number') counts.set(keys, (counts.get(keys) ?? 0) + 1)
      else for (const one of keys) counts.set(one, (counts.get(one) ?? 0) + 1)
    })
    tally('unwanted', isBot(state) ? 'bots' : isProxy(state) ? 'proxies' : isBlocked(state) ? 'pop-up blockers' : 'none of them')
    tally('since pop', rows.sincePop[i] >= 1440 ? 'no pop that day' : rows.sincePop[i] < 60 ? 'under an hour' : 'an hour or more')
    tally('podcast topic', pages.podcast[page] === 1 ? CATEGORIES[pages.category[page]].name : undefined)

    const isPodcast = property.show === 'podcast' ? 1 : 0
    const branch = CATEGORIES[CATEGORIES[property.category].branch].name
    if (model.type === 0 && income < 5) mean(`band ${income}`, model.band)
    if (age < 7) mean(age <= 2 ? 'podcast young' : age >= 5 ? 'podcast old' : 'podcast middle', isPodcast)
    mean(TASTES[tasteOf(word2)] === 'commuters' ? 'podcast commuters' : 'podcast others', isPodcast)
    mean(
      hour >= 19 && hour < 23 ? 'channel evening' : hour >= 9 && hour < 17 ? 'channel day' : 'channel else',
      property.class === 'channel' ? 1 : 0
    )
    if (model.type === 0)
      mean(
        hour === 7 || hour === 8 || hour === 17 || hour === 18 ? 'cellular commute' : hour < 6 ? 'cellular night' : 'cellular else',
        connectionOf(state) === 1 ? 1 : 0
      )
    mean(`price tier ${country.tier}`, price)
    if (age < 7) mean(age <= 1 ? 'console young' : age >= 5 ? 'console old' : 'console middle', DEVICE_TYPE[rows.device[i]] === 4 ? 1 : 0)
    if (gender < 2) mean(gender === 0 ? 'family women' : 'family men', branch === 'style' || branch === 'family' ? 1 : 0)
    if (gender < 2) mean(gender === 0 ? 'motor women' : 'motor men', branch === 'motoring' || branch === 'sport' ? 1 : 0)
    mean(`bots ${source.name}`, isBot(state) ? 1 : 0)
    mean(`phone tier ${country.tier}`, model.type === 0 ? 1 : 0)
    mean(property.home === country.index ? 'home' : 'abroad', 1)
  }
  const intent = SEGMENTS.filter((segment) => segment.kind === 'purchase intent')
  for (let person = 0; person < tape.peopleCount; person += 7) {
    const word = person * PERSON_WORDS
    const { income } = demographic(demographicOf(words[word + 1]))
    if (income === 5) continue
    const profile = profileOf(words[word + 1])
    mean(
      income >= 3 ? 'intent rich' : income <= 1 ? 'intent poor' : 'intent middle',
      intent.reduce((sum, segment) => sum + (inSegment(profiles, profile, segment.index) ? 1 : 0), 0)
    )
  }
  const correlation = (name: string, low: number, high: number, least: number): Correlation => ({
    name,
    low,
    high,
    least,
    holds: high >= low * least && high > 0
  })
  const counts = Array.from({ length: tape.peopleCount }, (_, p) => tape.starts[p + 1] - tape.starts[p]).sort((a, b) => b - a)
  const byDay = new Array<number>(TAPE_DAYS).fill(0)
  tape.traffic.forEach((count, place) => (byDay[place % TAPE_DAYS] += count))
  const week = (from: number) => byDay.slice(from, from + 7).reduce((sum, count) => sum + count, 0)
  const dayMean = n / TAPE_DAYS
  const inWords = ({ dimension, counts: found }: (typeof told)[number]) =>
    [dimension, new Map([...found].map(([key, count]) => [REPORT_DIMENSIONS[dimension].label(key, market) ?? '', count]))] as const
  return {
    counts: {
      countries: COUNTRIES.length,
      regions: REGIONS.length,
      'metro areas': METROS.length,
      cities: CITIES.length,
      'postal codes': POSTALS.length,
      publishers: inventory.publishers.length,
      properties: properties.length,
      placements: placements.length,
      'supply sources': SOURCES.length,
      pages: pages.count,
      carriers: CARRIERS.length,
      providers: PROVIDERS.length,
      segments: SEGMENTS.length,
      keywords: KEYWORDS.length,
      'job functions': JOB_FUNCTIONS.length,
      employers: EMPLOYERS.length,
      moments: MOMENTS.length,
      genres: MUSIC_GENRES.length,
      branches: BRANCHES.length,
      'property classes': PROPERTY_CLASSES.length,
      people: world.people,
      'opportunities a day': Math.round((n * tape.sample) / TAPE_DAYS)
    },
    shares: Object.fromEntries(
      [...tallies, ...told.map(inWords)].map(([dimension, tally]): [string, [string, number][]] => {
        const total = [...tally.values()].reduce((sum, count) => sum + count, 0)
        return [dimension, [...tally].map(([value, count]): [string, number] => [value, count / total]).sort((a, b) => b[1] - a[1])]
      })
    ),
    correlations: [
      correlation('devices follow income: price band of phones, lowest against highest fifth', meanOf('band 0'), meanOf('band 4'), 1.5),
      correlation(
        'podcasts follow age: share of those over 55 against those under 35',
        meanOf('podcast old'),
        meanOf('podcast young'),
        1.5
      ),
      correlation('podcasts follow commuting: others against commuters', meanOf('podcast others'), meanOf('podcast commuters'), 1.3),
      correlation('channels are watched in the evening: 9 to 17 against 19 to 23', meanOf('channel day'), meanOf('channel evening'), 1.5),
      correlation('phones are off Wi-Fi on the way: night against rush hours', meanOf('cellular night'), meanOf('cellular commute'), 2),
      correlation('prices follow the country: tier 3 against tier 1', meanOf('price tier 3'), meanOf('price tier 1'), 2.5),
      correlation('consoles belong to the young: over 55 against under 25', meanOf('console old'), meanOf('console young'), 2),
      correlation('style and family: men against women', meanOf('family men'), meanOf('family women'), 1.4),
      correlation('motoring and sport: women against men', meanOf('motor women'), meanOf('motor men'), 1.4),
      correlation('robots by source: Graven against Sluice', meanOf('bots Graven'), meanOf('bots Sluice'), 3),
      correlation('phones follow the country: tier 1 against tier 3', meanOf('phone tier 1'), meanOf('phone tier 3'), 1.2),
      correlation(
        'purchase intent follows income: two lowest fifths against two highest',
        meanOf('intent poor'),
        meanOf('intent rich'),
        1.3
      )
    ],
    prices: FORMATS.map((format, f) => ({
      format,
      byTier: prices[f].map((list) => (list.length === 0 ? 0 : Float64Array.from(list).sort()[list.length >> 1] * 1000))
    })),
    worthADay: (worth * tape.sample) / TAPE_DAYS,
    activity: {
      aDay: n / tape.peopleCount / TAPE_DAYS,
      busiestTenth: counts.slice(0, Math.floor(counts.length / 10)).reduce((sum, count) => sum + count, 0) / n,
      without: counts.filter((count) => count === 0).length / counts.length
    },
    days: {
      swing: (Math.max(...byDay) - Math.min(...byDay)) / dayMean,
      driftAWeek: week(7) / week(0) - 1,
      byDay: byDay.map((count) => count / dayMean)
    }
  }
}
