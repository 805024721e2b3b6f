import { priceAtHome, type Inventory, type Placement } from '@tin-harbor/core/market'
import { STREAM, hash } from '@tin-harbor/core/random'
import { FORMATS, SHAPES, SHAPE_FORMAT, isFilm, type Format } from '@tin-harbor/core/taxonomy'

/** A deal that a publisher offers to everybody: whoever takes it buys at its terms from then on. */
export interface OfferedDeal {
  /** What the office calls it; it stays the same. */
  code: string
  name: string
  /** Position in the inventory. */
  publisher: number
  format: Format
  kind: 'fixed' | 'floor'
  /** CPM in micros. */
  priceMicros: number
  placements: number[]
  /** Most a day; null for any number. */
  volume: number | null
  leastSpendMicros: number | null
  /** Days that it stands once it is taken. */
  days: number
}

/** Least placements of which a publisher makes an offer of its own. */
const LEAST_PLACEMENTS = 2
/** Shares of the middle price at home: slots at a fixed price are the dearer, a floor leaves room for bids. */
const FIXED = [0.95, 1.3] as const
const FLOOR = [0.5, 0.75] as const
const VOLUMES = [50_000, 100_000, 200_000, 400_000]
const DAYS = [30, 60, 90]

const TELEVISION = 'connected TV'
/** What a slot can be offered as: films by where they run and by their kind, pictures by size, all else by its place. */
function partsWith({ rewarded, skippable, position, shape }: Placement, format: Format, isTelevision: boolean): string[] {
  if (isFilm(format))
    return [isTelevision ? TELEVISION : 'sites and apps', rewarded ? 'rewarded' : skippable ? 'skippable' : 'not skippable']
  return [format === 'display' ? SHAPES[shape] : position]
}

/** Slots of a publisher and format by what it offers: all of them, and what is apart from others. */
function partsOf(format: Format, placements: readonly Placement[], { properties }: Inventory): Map<string, Placement[]> {
  const parts = new Map<string, Placement[]>()
  for (const placement of placements)
    for (const part of partsWith(placement, format, properties[placement.property].class === 'channel'))
      parts.set(part, [...(parts.get(part) ?? []), placement])
  for (const [part, own] of parts)
    if (own.length < LEAST_PLACEMENTS || (own.length === placements.length && part !== TELEVISION)) parts.delete(part)
  if (parts.get(TELEVISION)?.length !== placements.length) parts.set('all slots', [...placements])
  return parts
}

/** What the publishers' offices offer, of slots that are sold under their names; the same for a world each time. */
export function offeredDeals(inventory: Inventory, seed: number): OfferedDeal[] {
  const { properties, placements, publishers } = inventory
  const sold = new Map<string, Placement[]>()
  for (const placement of placements) {
    const { anonymous, publisher } = properties[placement.property]
    if (anonymous) continue
    const whose = `${publisher} ${SHAPE_FORMAT[placement.shape]}`
    sold.set(whose, [...(sold.get(whose) ?? []), placement])
  }
  const drawn = (n: number, what: number) => hash(seed, STREAM.deal, what, n) / 0x1_0000_0000
  const offers: OfferedDeal[] = []
  for (const [whose, all] of [...sold].sort(([a], [b]) => (a < b ? -1 : 1))) {
    const [publisher, formatIndex] = whose.split(' ').map(Number)
    const format = FORMATS[formatIndex]
    for (const [part, own] of partsOf(format, all, inventory)) {
      const n = offers.length
      const kind = drawn(n, 20) < 0.5 ? 'fixed' : 'floor'
      const [low, high] = kind === 'fixed' ? FIXED : FLOOR
      const prices = own.map((placement) => priceAtHome(inventory, placement)).sort((a, b) => a - b)
      const steps = Math.max(1, Math.round(prices[prices.length >> 1] * (low + (high - low) * drawn(n, 21))))
      offers.push({
        code: `OF-${1001 + n}`,
        name: `${publishers[publisher].name}, ${format}, ${part}`,
        publisher,
        format,
        kind,
        priceMicros: steps * 1000,
        placements: own.map(({ index }) => index),
        volume: kind === 'fixed' ? VOLUMES[Math.floor(drawn(n, 22) * VOLUMES.length)] : null,
        leastSpendMicros: kind === 'fixed' ? [20, 40, 80][Math.floor(drawn(n, 23) * 3)] * 1_000_000 : null,
        days: DAYS[Math.floor(drawn(n, 24) * DAYS.length)]
      })
    }
  }
  return offers
}
