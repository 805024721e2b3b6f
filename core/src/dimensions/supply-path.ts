import { pathPlacement } from '../market/index.js'
import type { Catalogue } from './lanes.js'

/** The placement of a path. */
export const placementAt = (path: number, { inventory }: Catalogue) => inventory.placements[pathPlacement(path)]
/** The property that it is on. */
export const propertyAt = (path: number, catalogue: Catalogue) => catalogue.inventory.properties[placementAt(path, catalogue).property]
