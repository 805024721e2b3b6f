import { CITIES, COUNTRIES, METROS, POSTALS, REGIONS, cityCode, metroCode, postalPlaceCode } from '../../src/places/index.js'
import { KEYWORDS, SEGMENTS } from '../../src/taxonomy/index.js'
import { blockAddress, codeAt } from '../../src/market/index.js'
import { DIMENSIONS, DIMENSION_KINDS, type Dimension, type SegmentGroup } from '../../src/dimensions/index.js'
import { type Restriction, type Targeting } from '../../src/targeting/index.js'
import { smallWorld } from './lines.js'

type Below = (n: number) => number

function place(below: Below): string {
  const city = CITIES[below(CITIES.length)]
  switch (below(8)) {
    case 0:
      return REGIONS[below(REGIONS.length)].code
    case 1:
      return metroCode(METROS[below(METROS.length)])
    case 2:
      return cityCode(city)
    case 3:
      return postalPlaceCode(POSTALS[below(POSTALS.length)])
    case 4:
      return `near:${(city.lat / 100).toFixed(2)},${(city.lon / 100).toFixed(2)},${5 + below(200)}`
    default:
      return COUNTRIES[below(COUNTRIES.length)].code
  }
}

function group(below: Below, depth = 0): SegmentGroup {
  return {
    join: (['and', 'or', 'not'] as const)[below(3)],
    parts: Array.from({ length: 1 + below(3) }, () =>
      depth < 2 && below(3) === 0 ? group(below, depth + 1) : SEGMENTS[below(SEGMENTS.length)].name
    )
  }
}

function value(dimension: Dimension, below: Below): string {
  const { values } = DIMENSION_KINDS[dimension]
  switch (dimension) {
    case 'where':
      return place(below)
    case 'system':
      return `${values?.[below(values.length)] ?? ''}${below(2) ? `>=${8 + below(9)}` : ''}`
    case 'release year':
      return `${below(2) ? '>=' : ''}${2016 + below(11)}`
    case 'address range':
      return `${blockAddress(below(11_000))}/${10 + below(13)}`
    case 'since pop':
      return String(1 + below(1440))
    case 'keyword':
      return KEYWORDS[below(KEYWORDS.length)].word
    case 'viewability':
      return String(1 + below(90))
    case 'publisher':
    case 'property':
    case 'placement': {
      const { inventory } = smallWorld()
      const all = { publisher: inventory.publishers, property: inventory.properties, placement: inventory.placements }[dimension]
      return codeAt(inventory, dimension, below(all.length)) ?? ''
    }
    default:
      return values?.[below(values.length)] ?? ''
  }
}

/** A random restriction of a dimension, of values enough that something passes now and then. */
export function randomRestriction(dimension: Dimension, below: Below): Restriction {
  const { mode: only, values } = DIMENSION_KINDS[dimension]
  const single = ['since pop', 'grade', 'viewability'].includes(dimension)
  const many = values
    ? Math.max(1, Math.ceil(values.length / 3))
    : ({ where: 6, keyword: 60, publisher: 30, property: 100, placement: 300 }[dimension as 'where'] ?? 4)
  const mode = only ?? (below(4) === 0 ? 'exclude' : 'include')
  const chosen = [...new Set(Array.from({ length: single ? 1 : 1 + below(many) }, () => value(dimension, below)))]
  const exact = ['category', 'keyword', 'podcast topic'].includes(dimension) && below(2) === 0 ? { exact: true } : {}
  if (dimension === 'segments' && below(2)) return { dimension, mode, values: [], group: group(below) }
  return { dimension, mode, values: chosen, ...exact }
}

/** A random specification; few restrictions, so that it often matches something. */
export function randomTargeting(below: Below, most = 4): Targeting {
  const dimensions = new Set(Array.from({ length: below(most + 1) }, () => DIMENSIONS[below(DIMENSIONS.length)]))
  return { restrictions: [...dimensions].map((dimension) => randomRestriction(dimension, below)) }
}
