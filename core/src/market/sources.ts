import type { AuctionKind, PropertyClass } from '../taxonomy/index.js'

/** One of the six supply sources that placements are sold through. Names are made up. */
export interface Source {
  index: number
  name: string
  /** Share of the clearing price, in thousandths; shown in cost, it changes neither bid nor charge. */
  feePerMille: number
  auction: AuctionKind
  /** Multiplies a placement's floor, in thousandths. */
  floorPerMille: number
  /** Least bid the source takes, micros an impression. */
  leastBid: number
  /** Multiplies a placement's share of bots, in thousandths. */
  botPerMille: number
  /** How much of each class of property it carries, relative. */
  carries: Readonly<Record<PropertyClass, number>>
}

const rows: Omit<Source, 'index'>[] = [
  { name: 'Tidewater', feePerMille: 120, auction: 'first price', floorPerMille: 1000, leastBid: 50, botPerMille: 700, carries: { site: 30, app: 10, newsletter: 8 } },
  { name: 'Northgate', feePerMille: 150, auction: 'first price', floorPerMille: 1150, leastBid: 100, botPerMille: 500, carries: { site: 24, app: 4, newsletter: 14 } },
  { name: 'Pennant', feePerMille: 90, auction: 'second price', floorPerMille: 900, leastBid: 40, botPerMille: 1100, carries: { site: 16, app: 12, newsletter: 2 } },
  { name: 'Hatchway', feePerMille: 140, auction: 'second price', floorPerMille: 950, leastBid: 30, botPerMille: 900, carries: { site: 6, app: 30, newsletter: 0 } },
  { name: 'Sluice', feePerMille: 70, auction: 'first price', floorPerMille: 700, leastBid: 10, botPerMille: 2200, carries: { site: 12, app: 16, newsletter: 0 } },
  { name: 'Graven', feePerMille: 180, auction: 'first price', floorPerMille: 1300, leastBid: 150, botPerMille: 350, carries: { site: 8, app: 3, newsletter: 6 } }
]

export const SOURCES: readonly Source[] = rows.map((row, index) => ({ index, ...row }))
