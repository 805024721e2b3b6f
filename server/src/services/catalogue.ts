import { makeInventory, publishMeasures, type Inventory, type PublishedMeasures, type WorldSize } from '@tin-harbor/core/market'

/** What everybody in the trade can know of the inventory: names, slots and published measures. */
export interface Catalogue {
  inventory: Inventory
  measures: PublishedMeasures
}

export function makeCatalogue(size: WorldSize): Catalogue {
  const inventory = makeInventory(size.seed)
  return { inventory, measures: publishMeasures(size.seed, inventory) }
}

/** Name of a placement's property and where on it the slot is. */
export function placementName({ inventory }: Catalogue, placement: number): { property: string; position: string; propertyId: number } {
  const place = inventory.placements[placement]
  return { property: inventory.properties[place.property].name, position: place.position, propertyId: place.property }
}
