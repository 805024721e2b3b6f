import { BRANCHES, CATEGORIES, FORMATS, SHAPE_FORMAT, type PropertyClass } from '../taxonomy/index.js'
import { COUNTRIES } from '../places/index.js'
import { STREAM, fold, hash, sequence } from '../random/index.js'
import { CATEGORY_PRICE } from './category-prices.js'
import { FIRST_WORDS, KIND_WORDS, PUBLISHER_FIRST, PUBLISHER_LAST } from './names.js'
import { makePages, propertyOfPage, type Pages } from './pages.js'
import { SOURCES } from './sources.js'
import type { Placement } from './placement.js'
import type { Property } from './property.js'
import { PRICE_KINDS, evenedOver, type Evened } from './price-kinds.js'
import { evenResponses } from './even-responses.js'
import { drawPlacements } from './draw-placements.js'

export interface Publisher {
  index: number
  name: string
}

export interface Inventory {
  publishers: readonly Publisher[]
  properties: readonly Property[]
  placements: readonly Placement[]
  pages: Pages
  evened: Evened
  /** Floor in micros an impression by path: `placement * SOURCES.length + source`. */
  floors: Uint32Array
  /** Relative weight of each source, by path. */
  sourceWeights: Float64Array
  /** 1 where the source sells for the publisher itself, by path. */
  direct: Uint8Array
}

/** Whose a property is said to be; -1 of one that is sold under a number, of which nobody is told. */
export const toldPublisher = ({ anonymous, publisher }: Property) => (anonymous ? -1 : publisher)
/** What a page is said to be about; -1 where nobody is told whose it is: a source would give itself away by its subject. */
export const toldCategory = ({ properties, pages }: Pick<Inventory, 'properties' | 'pages'>, page: number) =>
  properties[propertyOfPage(page)].anonymous ? -1 : pages.category[page]
/** What is said of what nobody is told. */
export const NOT_TOLD = 'not told'

/** Placement and source of a path. */
export const pathPlacement = (path: number) => Math.floor(path / SOURCES.length)
export const pathSource = (path: number) => path % SOURCES.length

const PUBLISHER_COUNT = 90
const PROPERTY_COUNT = 320

/** Of 100 properties, how many are of each class; the last of a site's are the anonymous sellers of pops. */
const CLASS_SHARES: readonly (readonly [kind: PropertyClass, share: number, anonymous?: boolean])[] = [
  ['site', 38],
  ['app', 13],
  ['game', 9],
  ['social feed', 4],
  ['mail inbox', 3],
  ['newsletter', 6],
  ['show', 11],
  ['channel', 8],
  ['site', 8, true]
]

const CLASS_TRAFFIC: Readonly<Record<PropertyClass, number>> = {
  site: 1,
  app: 1.1,
  game: 1,
  'social feed': 1.6,
  'mail inbox': 1.1,
  newsletter: 0.5,
  show: 1,
  channel: 1.5
}

function makePublishers(seed: number): Publisher[] {
  const names = new Set<string>()
  for (let n = 0; names.size < PUBLISHER_COUNT; n++) {
    const first = PUBLISHER_FIRST[hash(seed, STREAM.property, 900, n) % PUBLISHER_FIRST.length]
    names.add(`${first} ${PUBLISHER_LAST[hash(seed, STREAM.property, 901, n) % PUBLISHER_LAST.length]}`)
  }
  return [...names].map((name, index) => ({ index, name }))
}

const CATEGORY_OF_SUBJECT = CATEGORIES.filter(
  (category) =>
    category.branch !== category.index || !CATEGORIES.some((leaf) => leaf.branch === category.index && leaf.index !== category.index)
)

function makeProperty(seed: number, index: number, publishers: number, taken: Set<string>): Property {
  const r = sequence(fold(seed, STREAM.property, index))
  const total = CLASS_SHARES.reduce((sum, [, share]) => sum + share, 0)
  // Every stretch of 100 properties holds each class in its share, mixed by a step that is prime to 100.
  let left = (((index * 37) % 100) * total) / 100
  const [kind, , anonymous = false] = CLASS_SHARES.find(([, share]) => (left -= share) < 0) ?? CLASS_SHARES[0]
  // Subjects of grown-ups are few and mostly anonymous.
  let category = CATEGORY_OF_SUBJECT[r.below(CATEGORY_OF_SUBJECT.length)]
  const branchName = () => CATEGORIES[category.branch].name
  if (branchName() === 'adult' && !anonymous && r.unit() < 0.7) category = CATEGORY_OF_SUBJECT[r.below(8)]
  if (anonymous && r.unit() < 0.3) category = CATEGORY_OF_SUBJECT[CATEGORY_OF_SUBJECT.length - 1]
  const show = kind === 'show' ? (r.unit() < 0.5 ? 'music' : 'podcast') : null
  if (kind === 'game') category = CATEGORIES.filter((other) => CATEGORIES[other.branch].name === 'games')[r.below(3)]
  if (show === 'music') category = CATEGORIES.filter((other) => CATEGORIES[other.branch].name === 'music')[r.below(3)]
  const words = FIRST_WORDS[branchName()]
  let name
  let tries = 0
  do
    name =
      `${words[r.below(words.length)]}${tries > 30 ? ` ${PUBLISHER_FIRST[r.below(PUBLISHER_FIRST.length)]}` : ''} ${KIND_WORDS[kind][r.below(KIND_WORDS[kind].length)]}`.trim()
  while (taken.has(name) && ++tries > 0)
  taken.add(name)
  const plain = name
    .toLowerCase()
    .replace(/&/g, 'and')
    .replace(/[^a-z0-9]/g, '')
  const weights = COUNTRIES.reduce((sum, country) => sum + country.weight, 0)
  let home = 0
  for (let left = r.unit() * weights; home < COUNTRIES.length - 1 && left >= COUNTRIES[home].weight; home++) left -= COUNTRIES[home].weight
  return {
    index,
    category: category.index,
    home,
    class: kind,
    show,
    anonymous,
    name: anonymous ? `No. ${40_000 + (hash(seed, STREAM.property, index, 77) % 59_000)}` : name,
    domain: anonymous ? '' : kind === 'app' || kind === 'game' || kind === 'social feed' ? `example.${plain}.app` : `${plain}.example`,
    publisher: r.below(publishers),
    weight: r.spread(0.9) * CLASS_TRAFFIC[kind]
  }
}

/** What rivals pay in the middle for a placement where its property is at home, micros an impression. */
export function priceAtHome({ properties, evened }: Pick<Inventory, 'properties' | 'evened'>, placement: Placement): number {
  const property = properties[placement.property]
  const level = evened.prices[property.home * PRICE_KINDS.length + evened.kinds[placement.index]]
  return placement.price * level * CATEGORY_PRICE[property.category]
}

/** Everything that is sold: publishers, properties, placements, pages, and through which source at what floor. */
export function makeInventory(seed: number): Inventory {
  const publishers = makePublishers(seed)
  const taken = new Set<string>()
  const properties = Array.from({ length: PROPERTY_COUNT }, (_, index) => makeProperty(seed, index, publishers.length, taken))
  const drawn = drawPlacements(seed, properties)
  const pages = makePages(seed, properties)
  const evened = evenedOver(
    drawn.map(({ placement }) => placement),
    { properties, pages },
    drawn.map(({ floorShare }) => floorShare)
  )
  evenResponses(
    drawn.map(({ placement }) => placement),
    evened
  )
  // A floor is a part of what rivals pay at home.
  const placements = drawn.map(({ placement, floorShare }) => ({
    ...placement,
    floor: Math.round(floorShare * priceAtHome({ properties, evened }, placement))
  }))
  const floors = new Uint32Array(placements.length * SOURCES.length)
  const sourceWeights = new Float64Array(floors.length)
  const direct = new Uint8Array(floors.length)
  for (const placement of placements) {
    const format = FORMATS[SHAPE_FORMAT[placement.shape]]
    const r = sequence(fold(seed, STREAM.source, placement.index))
    const best = SOURCES.reduce((a, b) => (b.carries[format] > a.carries[format] ? b : a))
    for (const source of SOURCES) {
      const pathIndex = placement.index * SOURCES.length + source.index
      floors[pathIndex] = Math.max(source.leastBid, Math.floor((placement.floor * source.floorPerMille) / 1000))
      const sold = source === best || r.unit() < 0.45
      sourceWeights[pathIndex] = sold ? source.carries[format] * (0.5 + r.unit()) : 0
      direct[pathIndex] = r.unit() < 0.6 ? 1 : 0
    }
  }
  return { publishers, properties, placements, evened, floors, sourceWeights, direct, pages }
}

/** Format of each placement, index into `FORMATS`. */
export const placementFormats = (inventory: Inventory) =>
  Uint8Array.from(inventory.placements, (placement) => SHAPE_FORMAT[placement.shape])
/** Branch of each placement's property, by position in `BRANCHES`. */
export const placementBranches = ({ placements, properties }: Inventory) =>
  Uint8Array.from(placements, (placement) =>
    BRANCHES.findIndex((branch) => branch.index === CATEGORIES[properties[placement.property].category].branch)
  )
