import {
  CATEGORIES,
  EXCLUSIONS,
  KEYWORDS,
  MOMENTS,
  MUSIC_GENRES,
  POPULARITIES,
  RATINGS,
  findCategory,
  findKeyword
} from '../taxonomy/index.js'
import { KEYWORDS_EACH, NOT_TOLD, momentOf, popularityOf, propertyOfPage, toldCategory } from '../market/index.js'
import { asCalled, attribute, listed, type Restricting, type Telling, type Wanted } from './dimension.js'
import type { Catalogue } from './lanes.js'

function categoryTest({ values, exact }: Wanted): (category: number) => boolean {
  const wanted = new Set(values.map((value) => findCategory(value)?.index))
  return (category) => category >= 0 && (wanted.has(category) || (!exact && wanted.has(CATEGORIES[category].branch)))
}

function keywordTest({ values, exact }: Wanted, { inventory }: Catalogue): (page: number) => boolean {
  const words = new Set<number>()
  for (const value of values) {
    const keyword = findKeyword(value)
    for (const other of KEYWORDS)
      if (keyword && (other.index === keyword.index || (!exact && other.family === keyword.family))) words.add(other.index)
  }
  return (page) => {
    if (toldCategory(inventory, page) < 0) return false
    for (let k = 0; k < KEYWORDS_EACH; k++) if (words.has(inventory.pages.keywords[page * KEYWORDS_EACH + k])) return true
    return false
  }
}

const CATEGORY_NAMES = CATEGORIES.map((category) => category.name)
const knownCategory = (value: string) => findCategory(value) !== undefined
const categoryOf = ({ inventory }: Catalogue, page: number) => toldCategory(inventory, page)
const categoryLabel = (key: number) => CATEGORIES[key]?.name ?? NOT_TOLD

export const CONTEXT = {
  category: {
    restricts: {
      noun: 'category',
      values: CATEGORY_NAMES,
      isKnown: knownCategory,
      tests: (wanted, catalogue) => {
        const test = categoryTest(wanted)
        return { page: (i) => test(categoryOf(catalogue, i)) }
      },
      inFull: ['beside', 'not beside'],
      called: asCalled(CATEGORY_NAMES),
      chooser: { by: ['branch of content', 'category'], value: (_, key) => CATEGORIES[key]?.name ?? null }
    } satisfies Restricting,
    tells: { key: ({ page }, market) => categoryOf(market, page), label: categoryLabel } satisfies Telling
  },
  'branch of content': {
    tells: {
      title: 'subject',
      key: ({ page }, market) => CATEGORIES[categoryOf(market, page)]?.branch ?? -1,
      label: categoryLabel
    } satisfies Telling
  },
  keyword: {
    restricts: {
      noun: 'keyword',
      isKnown: (value) => findKeyword(value) !== undefined,
      tests: (wanted, catalogue) => ({ page: keywordTest(wanted, catalogue) }),
      inFull: ['beside the words', 'not beside the words']
    } satisfies Restricting
  },
  popularity: attribute({
    lane: 'page',
    numberOf: popularityOf,
    values: POPULARITIES,
    noun: 'popularity',
    inOrder: true,
    inFull: ['on pages that are', 'not on pages that are']
  }),
  moment: attribute({
    lane: 'state',
    numberOf: momentOf,
    values: MOMENTS,
    none: 'none that has a name',
    noun: 'moment',
    inFull: ['at the moment of', 'not at the moment of'],
    called: asCalled(MOMENTS)
  }),
  'music genre': attribute({
    lane: 'page',
    numberOf: (i, { inventory }) => inventory.pages.genre[i],
    values: MUSIC_GENRES,
    none: 'no music',
    noun: 'music genre',
    formats: ['audio'],
    inFull: ['within music of', 'not within music of'],
    said: ['with music of', 'without music of'],
    called: asCalled(MUSIC_GENRES)
  }),
  'podcast topic': {
    restricts: {
      noun: 'podcast topic',
      values: CATEGORY_NAMES,
      isKnown: knownCategory,
      formats: ['audio'],
      tests: (wanted, catalogue) => {
        const test = categoryTest(wanted)
        return { page: (i) => catalogue.inventory.pages.podcast[i] === 1 && test(categoryOf(catalogue, i)) }
      },
      inFull: ['within podcasts about', 'not within podcasts about'],
      chooser: { value: (_, key) => CATEGORIES[key]?.name ?? null }
    } satisfies Restricting,
    tells: {
      key: ({ page }, market) => (market.inventory.pages.podcast[page] === 1 ? categoryOf(market, page) : -1),
      label: (key) => (key < 0 ? 'no podcast' : categoryLabel(key))
    } satisfies Telling
  },
  'content left out': {
    restricts: {
      ...listed('kind of content', EXCLUSIONS),
      mode: 'exclude',
      tests: ({ values }, catalogue) => {
        const has = new Set(values)
        const { pages, properties } = catalogue.inventory
        // A source says of itself that it is for grown-ups or a game, also where it says nothing else.
        const branch = (i: number) => CATEGORIES[CATEGORIES[pages.category[i]].branch].name
        return {
          page: (i) =>
            (has.has('games') && (branch(i) === 'games' || properties[propertyOfPage(i)].class === 'game')) ||
            (has.has('adult') && (branch(i) === 'adult' || RATINGS[pages.rating[i]] === 'adults only')) ||
            (has.has('unrated') && RATINGS[pages.rating[i]] === 'unrated')
        }
      },
      inFull: ['beside content of', 'away from']
    } satisfies Restricting
  },
  rating: attribute({
    title: 'content rating',
    lane: 'page',
    numberOf: (i, { inventory }) => inventory.pages.rating[i],
    values: RATINGS,
    noun: 'content rating',
    inOrder: true,
    inFull: ['rated', 'not rated']
  })
}
