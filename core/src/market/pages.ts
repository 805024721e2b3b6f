import { CATEGORIES, KEYWORDS, MUSIC_GENRES, POPULARITIES, RATINGS } from '../taxonomy/index.js'
import { STREAM, fold, sequence } from '../random/index.js'
import type { Property } from './property.js'

/** Pages and episodes: what an opportunity stands on. Each property has the same number, most read first. */
export interface Pages {
  count: number
  category: Uint8Array
  /** Four words a page, indices into `KEYWORDS`. */
  keywords: Uint16Array
  /** Index into `MUSIC_GENRES`; 255 where nothing is played. */
  genre: Uint8Array
  /** 1 for an episode of a podcast: its category is its topic. */
  podcast: Uint8Array
  rating: Uint8Array
}

export const PAGES_EACH = 40
export const KEYWORDS_EACH = 4
const NO_GENRE = 255

/** Position of a page among its property's, in fifths: index into `POPULARITIES`. */
export const popularityOf = (page: number) => Math.floor(((page % PAGES_EACH) * POPULARITIES.length) / PAGES_EACH)
export const propertyOfPage = (page: number) => Math.floor(page / PAGES_EACH)

export function makePages(seed: number, properties: readonly Property[]): Pages {
  const count = properties.length * PAGES_EACH
  const pages: Pages = {
    count,
    category: new Uint8Array(count),
    keywords: new Uint16Array(count * KEYWORDS_EACH),
    genre: new Uint8Array(count).fill(NO_GENRE),
    podcast: new Uint8Array(count),
    rating: new Uint8Array(count)
  }
  const wordsOf = CATEGORIES.map((category) =>
    KEYWORDS.filter((keyword) => keyword.branch === category.branch).map((keyword) => keyword.index)
  )
  const siblings = CATEGORIES.map((category) => CATEGORIES.filter((other) => other.branch === category.branch).map((other) => other.index))
  for (const property of properties) {
    const r = sequence(fold(seed, STREAM.page, property.index))
    const branchName = CATEGORIES[CATEGORIES[property.category].branch].name
    // Who rates their pages rates nearly all of them.
    const rates = r.unit() < (property.anonymous ? 0.25 : 0.85)
    const home = r.below(MUSIC_GENRES.length)
    for (let n = 0; n < PAGES_EACH; n++) {
      const page = property.index * PAGES_EACH + n
      const roll = r.unit()
      // Most pages keep to the property's subject, some to its neighbours, and a few go anywhere.
      const near = siblings[property.category]
      pages.category[page] =
        property.class === 'game' || roll < 0.62
          ? property.category
          : roll < 0.86
            ? near[r.below(near.length)]
            : r.below(CATEGORIES.length - 2)
      const words = wordsOf[pages.category[page]]
      for (let k = 0; k < KEYWORDS_EACH; k++) pages.keywords[page * KEYWORDS_EACH + k] = words[r.below(words.length)]
      if (property.show === 'music') pages.genre[page] = r.unit() < 0.6 ? home : r.below(MUSIC_GENRES.length)
      if (property.show === 'podcast') pages.podcast[page] = 1
      const grown = branchName === 'adult' || CATEGORIES[CATEGORIES[pages.category[page]].branch].name === 'adult'
      pages.rating[page] =
        !rates || r.unit() < 0.05
          ? RATINGS.indexOf('unrated')
          : grown
            ? RATINGS.indexOf('adults only')
            : r.unit() < 0.25
              ? RATINGS.indexOf('teenagers up')
              : 0
    }
  }
  return pages
}
