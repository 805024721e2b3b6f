import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { SOURCES, type Inventory, type Property } from '@tin-harbor/core/market'
import { STREAM, hash } from '@tin-harbor/core/random'
import { fileOf, offersOf, ownerOf, systemOf } from '@tin-harbor/core/supply'

/**
 * A stand-in for the web sites of publishers and supply sources, on loopback: `/site/<domain>/ads.txt` and
 * `/system/<domain>/sellers.json`. Some publishers forget a source, some write lines that cannot be read, some sources do not know
 * a seller: about as often as it happens.
 */

/** One in so many things that go wrong, drawn once for a property and source. */
const goesWrong = (seed: number, what: number, property: number, source: number, oneIn: number) =>
  hash(seed, STREAM.deal, what, property, source) % oneIn === 0

function adsTxt(seed: number, inventory: Inventory, property: Property): string | null {
  if (goesWrong(seed, 1, property.index, 0, 40)) return null
  const owner = ownerOf(property) as string
  const lines = [`# ${property.name}`, `OWNERDOMAIN=${owner}`, `CONTACT=ads@${owner}`]
  for (const { source, offer } of offersOf(inventory, property)) {
    if (goesWrong(seed, 2, property.index, source, 16)) continue
    const relation = goesWrong(seed, 3, property.index, source, 30) ? (offer.relation === 'DIRECT' ? 'RESELLER' : 'DIRECT') : offer.relation
    lines.push(
      `${offer.system}, ${offer.seller}, ${relation}${source % 2 ? `, ${systemOf(source).length}f7a${source}` : ''}${goesWrong(seed, 4, property.index, source, 12) ? ' # moved in spring' : ''}`
    )
  }
  if (goesWrong(seed, 5, property.index, 0, 10)) lines.splice(3, 0, 'tidewater.example pub-9 DIRECT', `${systemOf(0)}, , DIRECT`)
  return `${lines.join(property.index % 3 === 0 ? '\r\n' : '\n')}\n`
}

function sellersJson(seed: number, inventory: Inventory, source: number): string {
  const sellers = new Map<string, object>()
  for (const property of inventory.properties) {
    const owner = ownerOf(property)
    if (!owner) continue
    for (const { source: other, offer } of offersOf(inventory, property)) {
      if (other !== source || goesWrong(seed, 6, property.index, source, 50)) continue
      sellers.set(
        offer.seller,
        offer.relation === 'DIRECT'
          ? { seller_id: offer.seller, name: inventory.publishers[property.publisher].name, domain: owner, seller_type: 'PUBLISHER' }
          : {
              seller_id: offer.seller,
              name: `Reseller ${offer.seller.slice(4)}`,
              domain: `reseller-${offer.seller.slice(4)}.example`,
              seller_type: 'INTERMEDIARY'
            }
      )
    }
  }
  return JSON.stringify({ contact_email: `sellers@${systemOf(source)}`, version: '1.0', identifiers: [], sellers: [...sellers.values()] })
}

export interface SellersWeb {
  /** Where it listens. */
  address: string
  close: () => Promise<void>
}

export async function startSellersWeb(seed: number, inventory: Inventory): Promise<SellersWeb> {
  const byOwner = new Map<string, Property>(
    inventory.properties.flatMap((property) => (ownerOf(property) ? [[`${ownerOf(property)}/${fileOf(property)}`, property] as const] : []))
  )
  const server: Server = createServer((request, response) => {
    const [, kind, host, file] = (request.url ?? '').split('/')
    const property = kind === 'site' ? byOwner.get(`${host}/${file}`) : undefined
    const source = kind === 'system' && file === 'sellers.json' ? SOURCES.findIndex((_, n) => systemOf(n) === host) : -1
    const text = property ? adsTxt(seed, inventory, property) : source >= 0 ? sellersJson(seed, inventory, source) : null
    response.writeHead(text === null ? 404 : 200, { 'content-type': source >= 0 ? 'application/json' : 'text/plain; charset=utf-8' })
    response.end(text ?? 'Not here.')
  })
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(0, '127.0.0.1', resolve))
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    close: () => new Promise((resolve) => server.close(() => resolve()))
  }
}
