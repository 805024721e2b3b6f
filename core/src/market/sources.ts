import { FORMATS, FORMAT_TABLE, type AuctionKind, type Format } from '../taxonomy/index.js'

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
  /** Least spend it asks for, micros a day; told beside the choice. */
  leastSpend: number
  /** Multiplies a placement's share of bots, in thousandths. */
  botPerMille: number
  /** How much of each format it carries, relative. */
  carries: Readonly<Record<Format, number>>
}

const rows: Omit<Source, 'index' | 'carries'>[] = [
  {
    name: 'Tidewater',
    feePerMille: 120,
    auction: 'first price',
    floorPerMille: 1000,
    leastBid: 20,
    leastSpend: 0,
    botPerMille: 700
  },
  {
    name: 'Northgate',
    feePerMille: 150,
    auction: 'first price',
    floorPerMille: 1150,
    leastBid: 40,
    leastSpend: 5_000_000,
    botPerMille: 500
  },
  {
    name: 'Pennant',
    feePerMille: 90,
    auction: 'second price',
    floorPerMille: 900,
    leastBid: 15,
    leastSpend: 0,
    botPerMille: 1100
  },
  {
    name: 'Hatchway',
    feePerMille: 140,
    auction: 'second price',
    floorPerMille: 950,
    leastBid: 10,
    leastSpend: 0,
    botPerMille: 900
  },
  {
    name: 'Sluice',
    feePerMille: 70,
    auction: 'first price',
    floorPerMille: 700,
    leastBid: 5,
    leastSpend: 0,
    botPerMille: 2200
  },
  {
    name: 'Graven',
    feePerMille: 180,
    auction: 'first price',
    floorPerMille: 1300,
    leastBid: 60,
    leastSpend: 10_000_000,
    botPerMille: 350
  }
]

export const SOURCES: readonly Source[] = rows.map((row, index) => ({
  index,
  ...row,
  carries: Object.fromEntries(FORMATS.map((format) => [format, FORMAT_TABLE[format].carriedBy[row.name] ?? 0])) as Source['carries']
}))
/** 1 for a first-price source, by source. */
export const FIRST_PRICE = Uint8Array.from(SOURCES, (source) => (source.auction === 'first price' ? 1 : 0))
