import { AUCTION_KINDS, GRADES, SELLERS } from '../taxonomy/index.js'
import { CODE_FORMS, FIRST_PRICE, NOT_TOLD, SOURCES, pathPlacement, positionsOf, toldPublisher, type Coded } from '../market/index.js'
import { asCalled, attribute, within, type Restricting, type Telling, type TellingMarket } from './dimension.js'
import type { Catalogue } from './lanes.js'
import { placementAt, propertyAt } from './supply-path.js'

const sourceOf = (path: number) => path % SOURCES.length

/** A dimension whose values are what is sold, each by the code by which everybody knows it. */
function coded(
  what: Coded,
  many: string,
  noun: string,
  numberOf: (path: number, catalogue: Catalogue) => number,
  label: (key: number, market: TellingMarket) => string
): { restricts: Restricting; tells: Telling } {
  return {
    restricts: {
      noun,
      isKnown: (value) => CODE_FORMS[what].test(value),
      tests: ({ values }, catalogue) => {
        const positions = positionsOf(catalogue.inventory)[what]
        const has = new Set(values.map((value) => positions.get(value)))
        return { path: (i) => has.has(numberOf(i, catalogue)) }
      },
      inFull: [`at the ${many}`, `without the ${many}`],
      said: ['at', 'without'],
      counted: [what, many],
      chooser: { value: (_, __, ___, code) => code ?? null }
    },
    tells: { key: ({ path }, market) => numberOf(path, market), label }
  }
}

export const INVENTORY = {
  source: attribute({
    lane: 'path',
    numberOf: sourceOf,
    values: SOURCES.map((source) => source.name),
    noun: 'supply source',
    inFull: ['through the source', 'not through the source'],
    said: ['sold through', 'not sold through'],
    called: asCalled(SOURCES.map((source) => source.name))
  }),
  auction: attribute({
    title: 'kind of auction',
    lane: 'path',
    numberOf: (i) => (FIRST_PRICE[sourceOf(i)] === 1 ? 0 : 1),
    values: AUCTION_KINDS,
    noun: 'auction kind',
    inFull: ['at', 'not at'],
    said: ['at a', 'not at a']
  }),
  seller: attribute({
    title: 'direct or resold',
    lane: 'path',
    numberOf: (i, { inventory }) => (inventory.direct[i] === 1 ? 0 : 1),
    values: SELLERS,
    noun: 'kind of seller',
    inFull: ['sold by the', 'not sold by the'],
    said: ['sold by', 'not sold by']
  }),
  grade: attribute({
    lane: 'path',
    numberOf: (i, { measures }) => measures.grade[pathPlacement(i)],
    values: GRADES,
    noun: 'grade',
    mode: 'include',
    inOrder: 'upwards',
    chooser: { by: ['grade or better'], value: (_, key) => GRADES[key] ?? null },
    tests: ({ values }, { measures }) => {
      const worst = Math.max(...values.map((value) => (GRADES as readonly string[]).indexOf(value)))
      return { path: (i) => measures.grade[pathPlacement(i)] <= worst }
    },
    inFull: ['graded at least', 'not graded at least'],
    said: ['graded', 'not graded', 'and'],
    words: (value) => `${value} or better`
  }),
  /** Counted at each grade that takes it in. */
  'grade or better': {
    tells: {
      key: ({ path }, { measures }) => {
        const own = measures.grade[pathPlacement(path)]
        return GRADES.flatMap((_, grade) => (grade >= own ? [grade] : []))
      },
      label: (key) => `${GRADES[key]} or better`,
      several: true,
      onlyCounted: true
    } satisfies Telling
  },
  viewability: {
    restricts: {
      noun: 'number of per cent from 1 to 100',
      isKnown: within(1, 100),
      mode: 'include',
      tests: ({ values }, { measures }) => {
        const least = Math.min(...values.map(Number))
        return { path: (i) => measures.viewable[pathPlacement(i)] >= least }
      },
      inFull: ['viewable at least', 'not viewable at least'],
      said: ['in slots', 'not in slots'],
      words: (value) => `at least ${value} % viewable`,
      unit: ' %',
      number: { hint: '', like: '' }
    } satisfies Restricting
  },
  publisher: coded(
    'publisher',
    'publishers',
    'publisher by name',
    (path, catalogue) => toldPublisher(propertyAt(path, catalogue)),
    (key, { inventory }) => inventory.publishers[key]?.name ?? NOT_TOLD
  ),
  property: coded(
    'property',
    'properties',
    'property by address or number',
    (path, catalogue) => placementAt(path, catalogue).property,
    (key, { inventory }) => inventory.properties[key].name
  ),
  placement: coded(
    'placement',
    'placements',
    'placement by property and position',
    pathPlacement,
    (key, { inventory }) => `${inventory.properties[inventory.placements[key].property].name}, ${inventory.placements[key].position}`
  )
}
