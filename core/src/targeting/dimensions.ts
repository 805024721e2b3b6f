import { findCountry, placeTest } from '../places/index.js'
import {
  AGES,
  AUCTION_KINDS,
  BROWSERS,
  CONNECTIONS,
  DEVICE_TYPES,
  ENVIRONMENTS,
  EXCLUSIONS,
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
  SYSTEMS,
  VIDEO_POSITIONS,
  CATEGORIES,
  findCategory,
  findKeyword,
  findSegment
} from '../taxonomy/index.js'
import { CARRIERS, EMPLOYERS, PROVIDERS, SOURCES, rangeBlocks } from '../market/index.js'

/**
 * What a line can be restricted by, in the order in which prices are adjusted. Inside a restriction the values are
 * alternatives.
 */
export const DIMENSIONS = [
  'where',
  'device',
  'system',
  'browser',
  'browser language',
  'maker',
  'release year',
  'price band',
  'resolution',
  'connection',
  'carrier',
  'provider',
  'address range',
  'unwanted',
  'since pop',
  'age',
  'gender',
  'language',
  'income',
  'employer',
  'industry',
  'job function',
  'segments',
  'category',
  'keyword',
  'popularity',
  'moment',
  'music genre',
  'podcast topic',
  'content left out',
  'rating',
  'class',
  'environment',
  'rewarded',
  'size',
  'video position',
  'skippable',
  'sound',
  'source',
  'auction',
  'seller',
  'grade',
  'viewability',
  'publisher',
  'property',
  'placement'
] as const
export type Dimension = (typeof DIMENSIONS)[number]

export const DIMENSION_GROUPS: readonly { name: string; dimensions: readonly Dimension[] }[] = [
  { name: 'where', dimensions: ['where'] },
  { name: 'device', dimensions: ['device', 'system', 'browser', 'browser language', 'maker', 'release year', 'price band', 'resolution'] },
  { name: 'connection', dimensions: ['connection', 'carrier', 'provider', 'address range', 'unwanted', 'since pop'] },
  { name: 'who', dimensions: ['age', 'gender', 'language', 'income', 'employer', 'industry', 'job function', 'segments'] },
  {
    name: 'context',
    dimensions: ['category', 'keyword', 'popularity', 'moment', 'music genre', 'podcast topic', 'content left out', 'rating']
  },
  { name: 'slot', dimensions: ['class', 'environment', 'rewarded', 'size', 'video position', 'skippable', 'sound'] },
  { name: 'inventory', dimensions: ['source', 'auction', 'seller', 'grade', 'viewability', 'publisher', 'property', 'placement'] }
]

const UNWANTED = ['proxies', 'bots', 'pop-up blockers'] as const
const YES_NO = ['yes', 'no'] as const

interface DimensionKind {
  /** What a value of it is called when one is not known. */
  noun: string
  isKnown: (value: string) => boolean
  /** All values, where a list of them can be shown. */
  values?: readonly string[]
  /** Set where only one of the modes makes sense. */
  mode?: 'include' | 'exclude'
}

const listed = (noun: string, values: readonly string[], mode?: DimensionKind['mode']): DimensionKind => {
  const set = new Set(values)
  return { noun, values, isKnown: (value) => set.has(value), ...(mode ? { mode } : {}) }
}
const numbered = (noun: string): DimensionKind => ({ noun, isKnown: (value) => /^\d{1,6}$/.test(value) })
const within = (low: number, high: number) => (value: string) => /^\d{1,4}$/.test(value) && Number(value) >= low && Number(value) <= high

const SYSTEM_FORM = new RegExp(`^(${SYSTEMS.join('|')})(>=\\d{1,2})?$`)

export const DIMENSION_KINDS: Readonly<Record<Dimension, DimensionKind>> = {
  where: { noun: 'place', isKnown: (value) => findCountry(value) !== undefined || placeTest(value) !== undefined },
  device: listed('device type', DEVICE_TYPES),
  system: { noun: 'system', values: SYSTEMS, isKnown: (value) => SYSTEM_FORM.test(value) },
  browser: listed('browser', BROWSERS),
  'browser language': listed('language code', LANGUAGES),
  maker: listed('maker', MAKERS),
  'release year': { noun: 'release year', isKnown: (value) => /^(>=)?20[12]\d$/.test(value) },
  'price band': listed('price band', PRICE_BANDS),
  resolution: listed('resolution', RESOLUTIONS),
  connection: listed('connection', CONNECTIONS),
  carrier: listed(
    'carrier',
    CARRIERS.map((network) => network.name)
  ),
  provider: listed(
    'provider',
    PROVIDERS.map((network) => network.name)
  ),
  'address range': { noun: 'address range of at most 22 bits', isKnown: (value) => rangeBlocks(value) !== null },
  unwanted: listed('kind of traffic', UNWANTED, 'exclude'),
  'since pop': { noun: 'number of minutes from 1 to 1,440', isKnown: within(1, 1440), mode: 'include' },
  age: listed('age band', AGES),
  gender: listed('gender', GENDERS),
  language: listed('language code', LANGUAGES),
  income: listed('income band', INCOMES),
  employer: listed(
    'employer',
    EMPLOYERS.map((employer) => employer.name)
  ),
  industry: listed('industry', INDUSTRIES),
  'job function': listed('job function', JOB_FUNCTIONS),
  segments: { noun: 'segment', values: SEGMENTS.map((segment) => segment.name), isKnown: (value) => findSegment(value) !== undefined },
  category: {
    noun: 'category',
    values: CATEGORIES.map((category) => category.name),
    isKnown: (value) => findCategory(value) !== undefined
  },
  keyword: { noun: 'keyword', isKnown: (value) => findKeyword(value) !== undefined },
  popularity: listed('popularity', POPULARITIES),
  moment: listed('moment', MOMENTS),
  'music genre': listed('music genre', MUSIC_GENRES),
  'podcast topic': {
    noun: 'podcast topic',
    values: CATEGORIES.map((category) => category.name),
    isKnown: (value) => findCategory(value) !== undefined
  },
  'content left out': listed('kind of content', EXCLUSIONS, 'exclude'),
  rating: listed('content rating', RATINGS),
  class: listed('property class', PROPERTY_CLASSES),
  environment: listed('environment', ENVIRONMENTS),
  rewarded: listed('answer', YES_NO, 'include'),
  size: listed('slot size or shape', SHAPES),
  'video position': listed('video position', VIDEO_POSITIONS),
  skippable: listed('answer', YES_NO, 'include'),
  sound: listed('answer', YES_NO, 'include'),
  source: listed(
    'supply source',
    SOURCES.map((source) => source.name)
  ),
  auction: listed('auction kind', AUCTION_KINDS),
  seller: listed('kind of seller', SELLERS),
  grade: { ...listed('grade', GRADES, 'include') },
  viewability: { noun: 'number of per cent from 1 to 100', isKnown: within(1, 100), mode: 'include' },
  publisher: numbered('publisher number'),
  property: numbered('property number'),
  placement: numbered('placement number')
}
