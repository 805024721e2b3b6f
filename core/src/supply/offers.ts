import { SOURCES, type Inventory, type Property } from '../market/index.js'
import { hash } from '../random/index.js'
import type { Offer } from './chain.js'

/** Domain of a supply source. */
export const systemOf = (source: number) => `${SOURCES[source].name.toLowerCase()}.example`

/** Domain whose file speaks for a property: of an app its maker's, of which the store id is the reverse. */
export function ownerOf({ domain, class: kind }: Property): string | null {
  if (domain === '') return null
  return kind === 'app' || kind === 'game' ? domain.split('.').slice(0, 2).reverse().join('.') : domain
}
/** Name of that file. */
export const fileOf = ({ class: kind }: Property) => (kind === 'app' || kind === 'game' ? 'app-ads.txt' : 'ads.txt')

/** The account under which a source offers a property: the publisher's own, or a reseller's. */
function offerOf(property: Property, source: number, isDirect: boolean): Offer {
  return isDirect
    ? { system: systemOf(source), seller: `pub-${1000 + property.publisher}-${property.index}`, relation: 'DIRECT' }
    : { system: systemOf(source), seller: `res-${100 + (hash(source, property.publisher) % 12)}`, relation: 'RESELLER' }
}

/** Sources that sell a property and how, by what most of its placements are sold as. */
export function offersOf(inventory: Inventory, property: Property): { source: number; offer: Offer }[] {
  const own = inventory.placements.filter((placement) => placement.property === property.index)
  return SOURCES.flatMap(({ index: source }) => {
    const paths = own.map((placement) => placement.index * SOURCES.length + source).filter((path) => inventory.sourceWeights[path] > 0)
    if (paths.length === 0) return []
    return [{ source, offer: offerOf(property, source, paths.filter((path) => inventory.direct[path] === 1).length * 2 >= paths.length) }]
  })
}
