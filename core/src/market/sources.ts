import type { AuctionKind, Format } from '../taxonomy/index.js'

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

const rows: Omit<Source, 'index'>[] = [
  {
    name: 'Tidewater',
    feePerMille: 120,
    auction: 'first price',
    floorPerMille: 1000,
    leastBid: 20,
    leastSpend: 0,
    botPerMille: 700,
    carries: { display: 30, native: 14, video: 18, audio: 8, pop: 4 }
  },
  {
    name: 'Northgate',
    feePerMille: 150,
    auction: 'first price',
    floorPerMille: 1150,
    leastBid: 40,
    leastSpend: 5_000_000,
    botPerMille: 500,
    carries: { display: 20, native: 10, video: 26, audio: 14, pop: 0 }
  },
  {
    name: 'Pennant',
    feePerMille: 90,
    auction: 'second price',
    floorPerMille: 900,
    leastBid: 15,
    leastSpend: 0,
    botPerMille: 1100,
    carries: { display: 18, native: 20, video: 8, audio: 4, pop: 14 }
  },
  {
    name: 'Hatchway',
    feePerMille: 140,
    auction: 'second price',
    floorPerMille: 950,
    leastBid: 10,
    leastSpend: 0,
    botPerMille: 900,
    carries: { display: 16, native: 18, video: 14, audio: 24, pop: 6 }
  },
  {
    name: 'Sluice',
    feePerMille: 70,
    auction: 'first price',
    floorPerMille: 700,
    leastBid: 5,
    leastSpend: 0,
    botPerMille: 2200,
    carries: { display: 14, native: 12, video: 4, audio: 2, pop: 34 }
  },
  {
    name: 'Graven',
    feePerMille: 180,
    auction: 'first price',
    floorPerMille: 1300,
    leastBid: 60,
    leastSpend: 10_000_000,
    botPerMille: 350,
    carries: { display: 7, native: 6, video: 18, audio: 10, pop: 0 }
  }
]

export const SOURCES: readonly Source[] = rows.map((row, index) => ({ index, ...row }))
/** 1 for a first-price source, by source. */
export const FIRST_PRICE = Uint8Array.from(SOURCES, (source) => (source.auction === 'first price' ? 1 : 0))
