import { makeGiven, placementCode, publishMeasures, type WorldSize } from '@tin-harbor/core/market'
import type { Catalogue } from '@tin-harbor/core/dimensions'
import { FORMATS, SHAPE_FORMAT } from '@tin-harbor/core/taxonomy'

export type { Catalogue }

/** The last one that was made: of one seed it is the same. */
let last: { seed: number; catalogue: Catalogue } | null = null

export function makeCatalogue({ seed }: Pick<WorldSize, 'seed'>): Catalogue {
  if (last?.seed === seed) return last.catalogue
  const given = makeGiven(seed)
  const catalogue = { ...given, measures: publishMeasures(seed, given.inventory) }
  last = { seed, catalogue }
  return catalogue
}

/** Format of a placement, by name. */
export const formatOf = ({ placements }: Pick<Catalogue['inventory'], 'placements'>, placement: number) =>
  FORMATS[SHAPE_FORMAT[placements[placement].shape]]

/** Name of a placement's property and where on it the slot is, and the code by which both are known. */
export function placementName({ inventory }: Catalogue, placement: number): { placement: string; property: string; position: string } {
  const place = inventory.placements[placement]
  return { placement: placementCode(inventory, place), property: inventory.properties[place.property].name, position: place.position }
}
