import { PUBLISHER_FIRST, PUBLISHER_LAST } from './names.js'
import type { Inventory } from './inventory.js'
import type { Placement } from './placement.js'
import type { Property } from './property.js'

/**
 * What everybody calls what is sold: a property by its address or store id, one that is sold under a number by that number
 * (`No. 81438`); a placement by its property and where on it it lies (`tabbyvision.example: page head`); a publisher by name. Restrictions,
 * lists, files and answers hold these; positions in the inventory are ours alone.
 */
export const propertyCode = ({ domain, name }: Pick<Property, 'domain' | 'name'>) => domain || name
export const placementCode = (
  { properties }: Pick<Inventory, 'properties'>,
  { property, position }: Pick<Placement, 'property' | 'position'>
) => `${propertyCode(properties[property])}${OF}${position}`

const OF = ': '
const PROPERTY = String.raw`(?:No\. \d{4,6}|[a-z0-9-]+(?:\.[a-z0-9-]+)+)`
/** What codes look like; whether there is such a one is the inventory's to say. */
export const CODE_FORMS = {
  property: new RegExp(`^${PROPERTY}$`),
  placement: new RegExp(`^${PROPERTY}${OF}[a-z0-9][a-z0-9, -]{1,59}$`),
  publisher: new RegExp(`^(?:${PUBLISHER_FIRST.join('|')}) (?:${PUBLISHER_LAST.join('|')})$`)
} as const
export type Coded = keyof typeof CODE_FORMS

type Positions = Readonly<Record<Coded, ReadonlyMap<string, number>>>
const known = new WeakMap<Inventory, Positions>()

/** Positions in an inventory by code; made once for it. */
export function positionsOf(inventory: Inventory): Positions {
  let positions = known.get(inventory)
  if (!positions) {
    positions = {
      property: new Map(inventory.properties.map((property) => [propertyCode(property), property.index])),
      placement: new Map(inventory.placements.map((placement) => [placementCode(inventory, placement), placement.index])),
      publisher: new Map(inventory.publishers.map(({ name, index }) => [name, index]))
    }
    known.set(inventory, positions)
  }
  return positions
}

/** The code of what stands at a position; null where nothing does. */
export function codeAt(inventory: Inventory, what: Coded, position: number): string | null {
  const { properties, placements, publishers } = inventory
  if (what === 'publisher') return publishers[position]?.name ?? null
  if (what === 'property') return properties[position] ? propertyCode(properties[position]) : null
  return placements[position] ? placementCode(inventory, placements[position]) : null
}
