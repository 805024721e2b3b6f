import { CITIES, COUNTRIES, METROS, POSTALS, REGIONS, cityCode, kilometres, metroCode, postalPlaceCode } from '../../src/places/index.js'
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
  SEGMENTS,
  SHAPES,
  SYSTEMS,
  VIDEO_POSITIONS
} from '../../src/taxonomy/index.js'
import {
  CARRIERS,
  DEVICE_BROWSER,
  EMPLOYERS,
  PROVIDERS,
  SOURCES,
  blockAddress,
  blockOf,
  carrierBlock,
  carrierOf,
  connectionOf,
  demographic,
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
  propertyOfPage,
  providerBlock,
  providerOf,
  tongueOf,
  type Opportunities
} from '../../src/market/index.js'
import type { Catalogue, SegmentGroup } from '../../src/dimensions/index.js'
import type { Restriction } from '../../src/targeting/index.js'

/**
 * Targeting once more, slow and plain: everything that is known of an opportunity as words in an object, and each
 * restriction read against them without a table or a mask.
 */
export interface Facts {
  words: Record<string, string[]>
  numbers: {
    systemVersion: number
    year: number
    sincePop: number
    grade: number
    viewable: number
    lat: number
    lon: number
    address: string
  }
  segments: Set<string>
  categories: string[]
  isPodcast: boolean
  keywords: { word: string; family: number }[]
  unwanted: string[]
  leftOut: string[]
}

export function factsOf(
  { inventory, profiles, measures }: Catalogue,
  words: Int32Array,
  person: number,
  rows: Opportunities,
  i: number
): Facts {
  const [word0, word1, word2] = [words[person * 4], words[person * 4 + 1], words[person * 4 + 2]]
  const postal = POSTALS[postalOf(word0)]
  const city = CITIES[postal.city]
  const { age, gender, income } = demographic(word1 & 0xff)
  const p = Math.floor(rows.path[i] / SOURCES.length)
  const placement = inventory.placements[p]
  const property = inventory.properties[placement.property]
  const source = SOURCES[rows.path[i] % SOURCES.length]
  const model = deviceModel(rows.device[i])
  const page = rows.page[i]
  const { pages } = inventory
  const category = CATEGORIES[pages.category[page]]
  const state = rows.state[i]
  const cellular = CONNECTIONS[connectionOf(state)] === 'cellular'
  const employer = EMPLOYERS[employerOf(word2)]
  const branch = CATEGORIES[category.branch].name
  const isTold = !inventory.properties[propertyOfPage(page)].anonymous
  const rating = RATINGS[pages.rating[page]]
  const yes = (value: boolean) => [value ? 'yes' : 'no']
  return {
    words: {
      where: [
        COUNTRIES[city.country].code,
        REGIONS[city.region].code,
        cityCode(city),
        postalPlaceCode(postal),
        ...(city.metro >= 0 ? [metroCode(METROS[city.metro])] : [])
      ],
      device: [DEVICE_TYPES[model.type]],
      system: [SYSTEMS[model.system]],
      browser: [BROWSERS[DEVICE_BROWSER[rows.device[i]]]],
      'browser language': [tongueOf(word1) >= 32 ? 'en' : LANGUAGES[tongueOf(word1)]],
      maker: [MAKERS[model.maker]],
      'price band': [PRICE_BANDS[model.band]],
      resolution: [RESOLUTIONS[model.resolution]],
      connection: [CONNECTIONS[connectionOf(state)]],
      carrier: cellular ? [CARRIERS[carrierOf(word2)].name] : [],
      provider: cellular ? [] : [PROVIDERS[providerOf(word2)].name],
      age: [AGES[age]],
      gender: [GENDERS[gender]],
      language: [LANGUAGES[tongueOf(word1) % 32]],
      income: [INCOMES[income]],
      employer: employer ? [employer.name] : [],
      industry: employer ? [INDUSTRIES[employer.industry]] : [],
      'job function': jobOf(word1) < JOB_FUNCTIONS.length ? [JOB_FUNCTIONS[jobOf(word1)]] : [],
      popularity: [POPULARITIES[popularityOf(page)]],
      moment: momentOf(state) < 12 ? [MOMENTS[momentOf(state)]] : [],
      'music genre': pages.genre[page] < 255 ? [MUSIC_GENRES[pages.genre[page]]] : [],
      rating: [rating],
      class: [property.class],
      environment: [ENVIRONMENT_OF[property.class]],
      rewarded: yes(placement.rewarded),
      size: [SHAPES[placement.shape]],
      'video position': placement.video < 0 ? [] : [VIDEO_POSITIONS[placement.video]],
      skippable: yes(placement.skippable),
      sound: yes(placement.sound),
      source: [source.name],
      auction: [source.auction],
      seller: [inventory.direct[rows.path[i]] === 1 ? 'direct' : 'reseller'],
      publisher: property.anonymous ? [] : [inventory.publishers[property.publisher].name],
      property: [property.domain || property.name],
      placement: [`${property.domain || property.name}: ${placement.position}`]
    },
    numbers: {
      systemVersion: model.version,
      year: model.year,
      sincePop: rows.sincePop[i],
      grade: measures.grade[p],
      viewable: measures.viewable[p],
      lat: postal.lat,
      lon: postal.lon,
      address: blockAddress(blockOf(word2) + (cellular ? carrierBlock(carrierOf(word2)) : providerBlock(providerOf(word2))))
    },
    segments: new Set(SEGMENTS.filter((segment) => inSegment(profiles, profileOf(word1), segment.index)).map((segment) => segment.name)),
    categories: isTold ? [category.name, branch] : [],
    isPodcast: pages.podcast[page] === 1,
    keywords: Array.from({ length: isTold ? 4 : 0 }, (_, k) => KEYWORDS[pages.keywords[page * 4 + k]]),
    unwanted: [...(isProxy(state) ? ['proxies'] : []), ...(isBot(state) ? ['bots'] : []), ...(isBlocked(state) ? ['pop-up blockers'] : [])],
    leftOut: [
      ...(branch === 'games' || inventory.properties[propertyOfPage(page)].class === 'game' ? ['games'] : []),
      ...(branch === 'adult' || rating === 'adults only' ? ['adult'] : []),
      ...(rating === 'unrated' ? ['unrated'] : [])
    ]
  }
}

const addressNumber = (address: string) => address.split('.').reduce((number, part) => number * 256 + Number(part), 0)

function names({ dimension, values, exact, group }: Restriction, facts: Facts): boolean {
  const { numbers } = facts
  const treeHolds = (part: SegmentGroup | string): boolean => {
    if (typeof part === 'string') return facts.segments.has(part)
    const held = part.parts.filter(treeHolds).length
    return part.join === 'and' ? held === part.parts.length : part.join === 'or' ? held > 0 : held === 0
  }
  const category = () => values.some((value) => facts.categories[0] === value || (!exact && facts.categories[1] === value))
  switch (dimension) {
    case 'where':
      return values.some((value) => {
        if (!value.startsWith('near:')) return facts.words.where.includes(value)
        const [lat, lon, km] = value.slice(5).split(',').map(Number)
        return kilometres(lat * 100, lon * 100, numbers.lat, numbers.lon) <= km
      })
    case 'system':
      return values.some(
        (value) => facts.words.system[0] === value.split('>=')[0] && numbers.systemVersion >= Number(value.split('>=')[1] ?? 0)
      )
    case 'release year':
      return values.some((value) => (value.startsWith('>=') ? numbers.year >= Number(value.slice(2)) : numbers.year === Number(value)))
    case 'address range':
      return values.some((value) => {
        const [base, bits] = value.split('/')
        const size = 2 ** (32 - Number(bits))
        return Math.floor(addressNumber(base) / size) === Math.floor(addressNumber(numbers.address) / size)
      })
    case 'unwanted':
      return values.some((value) => facts.unwanted.includes(value))
    case 'since pop':
      return numbers.sincePop >= Math.min(...values.map(Number))
    case 'segments':
      return group ? treeHolds(group) : values.some((value) => facts.segments.has(value))
    case 'category':
      return category()
    case 'podcast topic':
      return facts.isPodcast && category()
    case 'keyword':
      return facts.keywords.some(({ word, family }) =>
        values.some((value) => word === value || (!exact && KEYWORDS.find((keyword) => keyword.word === value)?.family === family))
      )
    case 'content left out':
      return values.some((value) => facts.leftOut.includes(value))
    case 'grade':
      return numbers.grade <= Math.max(...values.map((value) => GRADES.indexOf(value as 'A')))
    case 'viewability':
      return numbers.viewable >= Math.min(...values.map(Number))
    default:
      return facts.words[dimension].some((word) => values.includes(word))
  }
}

/** Whether a restriction holds for an opportunity. */
export function holds(restriction: Restriction, facts: Facts): boolean {
  return names(restriction, facts) === (restriction.mode === 'include')
}
