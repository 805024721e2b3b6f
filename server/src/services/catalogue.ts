import { makeInventory, makeProfiles, publishMeasures, type WorldSize } from '@tin-harbor/core/market'
import type { Catalogue } from '@tin-harbor/core/targeting'

export type { Catalogue }

export function makeCatalogue(size: WorldSize): Catalogue {
  const inventory = makeInventory(size.seed)
  return { inventory, profiles: makeProfiles(size.seed), measures: publishMeasures(size.seed, inventory) }
}

/** Name of a placement's property and where on it the slot is. */
export function placementName({ inventory }: Catalogue, placement: number): { property: string; position: string; propertyId: number } {
  const place = inventory.placements[placement]
  return { property: inventory.properties[place.property].name, position: place.position, propertyId: place.property }
}
