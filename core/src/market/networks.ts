import { COUNTRIES, findCountry } from '../places/index.js'
import { NETWORK_STEMS } from './names.js'

/** A carrier (cellular) or provider (Wi-Fi and wired) of one country. Each has 64 blocks of addresses. */
export interface Network {
  index: number
  name: string
  country: number
  weight: number
}

/** Blocks of a network; a person always has the same one. */
export const BLOCKS = 64

function networks(counts: (weight: number) => number, words: readonly string[], from: number): Network[] {
  return COUNTRIES.flatMap((country) => Array.from({ length: counts(country.weight) }, (_, n) => ({ country: country.index, n }))).map(
    ({ country, n }, index) => ({
      index,
      country,
      name: `${NETWORK_STEMS[(index * 7 + from) % NETWORK_STEMS.length]} ${words[Math.floor(index / NETWORK_STEMS.length) % words.length]} ${COUNTRIES[country].code}`,
      weight: [46, 28, 18, 10, 6][n]
    })
  )
}

export const CARRIERS: readonly Network[] = networks(
  (weight) => (weight > 100 ? 4 : weight > 25 ? 3 : 2),
  ['Mobile', 'Cellular', 'Wave'],
  3
)
export const PROVIDERS: readonly Network[] = networks((weight) => (weight > 60 ? 5 : 4), ['Broadband', 'Fibre', 'Cable', 'Net', 'Line'], 11)

/** First of the blocks of a network, counted over all networks; carriers come first. */
export const carrierBlock = (carrier: number) => carrier * BLOCKS
export const providerBlock = (provider: number) => (CARRIERS.length + provider) * BLOCKS

/** Bits of a block's prefix: addresses are known to the market no finer than that. */
export const BLOCK_PREFIX = 22
const FIRST_ADDRESS = 10 * 2 ** 24

/** Address of the first host of a block: all lie in 10.0.0.0/8, which belongs to nobody. */
export function blockAddress(block: number): string {
  const address = FIRST_ADDRESS + block * 2 ** (32 - BLOCK_PREFIX)
  return [24, 16, 8, 0].map((shift) => Math.floor(address / 2 ** shift) % 256).join('.')
}

/** Blocks [from, to) that an address range takes in; null for text that is no range of at most `BLOCK_PREFIX` bits. */
export function rangeBlocks(cidr: string): { from: number; to: number } | null {
  const match = /^(\d{1,3})\.(\d{1,3})\.(\d{1,3})\.(\d{1,3})\/(\d{1,2})$/.exec(cidr)
  if (!match) return null
  const [a, b, c, d, bits] = match.slice(1).map(Number)
  if ([a, b, c, d].some((part) => part > 255) || bits < 1 || bits > BLOCK_PREFIX) return null
  const size = 2 ** (32 - bits)
  const start = Math.floor((a * 2 ** 24 + b * 65536 + c * 256 + d) / size) * size
  const block = (address: number) => Math.max(0, (address - FIRST_ADDRESS) / 2 ** (32 - BLOCK_PREFIX))
  return { from: block(start), to: block(start + size) }
}

/** Networks of a country. */
export function networksOf(list: readonly Network[], country: string): readonly Network[] {
  const index = findCountry(country)?.index
  return list.filter((network) => network.country === index)
}
