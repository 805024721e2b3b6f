import { makeInventory, makeProfiles, placementCode, publishMeasures, type WorldSize } from '@tin-harbor/core/market'
import type { Catalogue } from '@tin-harbor/core/dimensions'
import { FORMATS, SHAPE_FORMAT } from '@tin-harbor/core/taxonomy'

export type { Catalogue }

export function makeCatalogue(size: WorldSize): Catalogue {
  const inventory = makeInventory(size.seed)
  return { inventory, profiles: makeProfiles(size.seed), measures: publishMeasures(size.seed, inventory) }
}

/** Format of a placement, by name. */
export const formatOf = ({ placements }: Pick<Catalogue['inventory'], 'placements'>, placement: number) =>
  FORMATS[SHAPE_FORMAT[placements[placement].shape]]

/** Name of a placement's property and where on it the slot is, and the code by which both are known. */
export function placementName({ inventory }: Catalogue, placement: number): { placement: string; property: string; position: string } {
  const place = inventory.placements[placement]
  return { placement: placementCode(inventory, place), property: inventory.properties[place.property].name, position: place.position }
}
