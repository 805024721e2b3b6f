import { COUNTRIES } from '@tin-harbor/core/places'
import { SOURCES, placementCode, positionsOf, propertyCode } from '@tin-harbor/core/market'
import {
  checkChain,
  fileOf,
  offersOf,
  ownerOf,
  parseAdsTxt,
  parseSellersJson,
  systemOf,
  type AdsTxt,
  type SellersJson
} from '@tin-harbor/core/supply'
import { LRUCache } from 'lru-cache'
import { CATEGORIES, GRADES, SHAPES } from '@tin-harbor/core/taxonomy'
import type { PropertyView } from '@tin-harbor/core/contract'
import { notCalled, notReady } from '../http/errors.js'
import type { Deps } from '../deps.js'

/** Files of publishers and sources as they were last fetched; they are fetched anew after an hour. */
const KEPT_MS = 3_600_000
/** Files that are kept, of those fetched last. */
const MOST_KEPT = 500
const kept = new LRUCache<string, { text: string | null }>({ max: MOST_KEPT, ttl: KEPT_MS })

/** A file, or null where there is none. @throws not ready where its site does not say; that is not kept */
async function fetched(address: string): Promise<string | null> {
  const known = kept.get(address)
  if (known) return known.text
  const response = await fetch(address, { signal: AbortSignal.timeout(4000) }).catch(() => null)
  if (response === null || (!response.ok && response.status !== 404 && response.status !== 410))
    throw notReady('The site of this property does not answer; try again in a moment.')
  const text = response.ok ? await response.text() : null
  kept.set(address, { text })
  return text
}

/** What a property is, its placements, and whether those who sell it may. */
export async function propertyOf({ catalogue, sellersWeb }: Pick<Deps, 'catalogue' | 'sellersWeb'>, code: string): Promise<PropertyView> {
  const { inventory, measures } = catalogue
  const property = inventory.properties[positionsOf(inventory).property.get(code) ?? -1]
  if (!property) throw notCalled('property', code)
  const owner = ownerOf(property)
  const text = owner === null ? null : await fetched(`${sellersWeb.address}/site/${owner}/${fileOf(property)}`)
  const adsTxt: AdsTxt | null = text === null ? null : parseAdsTxt(text)
  const sellers = await Promise.all(
    offersOf(inventory, property).map(async ({ source, offer }) => {
      const file = await fetched(`${sellersWeb.address}/system/${systemOf(source)}/sellers.json`)
      const known: SellersJson | null = file === null ? null : parseSellersJson(file)
      const verdict =
        owner === null
          ? ({ ok: false, problem: 'Nobody is told what this property is: no file can say who sells for it.' } as const)
          : checkChain(offer, adsTxt, known, owner)
      return {
        source: SOURCES[source].name,
        ...offer,
        // An account says whose it is.
        seller: owner === null ? null : offer.seller,
        sellerName: owner === null ? null : (known?.sellers.get(offer.seller)?.name ?? null),
        authorised: verdict.ok,
        line: verdict.ok ? verdict.line : null,
        problem: verdict.ok ? null : verdict.problem
      }
    })
  )
  return {
    property: propertyCode(property),
    name: property.name,
    domain: property.domain,
    publisher: property.anonymous ? null : inventory.publishers[property.publisher].name,
    class: property.class,
    home: COUNTRIES[property.home].name,
    category: property.anonymous ? null : CATEGORIES[property.category].name,
    placements: inventory.placements
      .filter((placement) => placement.property === property.index)
      .map((placement) => ({
        placement: placementCode(inventory, placement),
        position: placement.position,
        size: SHAPES[placement.shape],
        viewability: measures.viewable[placement.index] / 100,
        bots: measures.bots[placement.index] / 100,
        grade: GRADES[measures.grade[placement.index]]
      })),
    file:
      owner === null
        ? null
        : {
            address: `${owner}/${fileOf(property)}`,
            found: adsTxt !== null,
            records: adsTxt?.records.length ?? 0,
            problems: adsTxt?.problems ?? []
          },
    sellers
  }
}
