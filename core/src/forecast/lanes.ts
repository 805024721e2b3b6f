import { SHAPES } from '../taxonomy/index.js'
import {
  BLOCKS,
  PERSON_WORDS,
  SOURCES,
  blockOf,
  carrierOf,
  demographicOf,
  employerOf,
  jobOf,
  postalOf,
  profileOf,
  providerOf,
  tongueOf,
  type Inventory
} from '../market/index.js'
import { dealsByPlacement, type DealChoice } from '../pricing/index.js'
import { LANES, laneSize, type Lane } from '../dimensions/index.js'
import { type CompiledTargeting } from '../targeting/index.js'

/** Bit of what is not the trader's restriction: a slot that no ad fits, or no way to buy it. */
export const SLOT_BIT = 1 << 31
/** The tables of a compiled specification, with zeros for lanes that nothing reads, so that one loop does for all. */
export type FullLanes = Readonly<Record<Lane, Int32Array>>

const zeros = new Map<number, Int32Array>()
function zero(size: number): Int32Array {
  let table = zeros.get(size)
  if (!table) zeros.set(size, (table = new Int32Array(size)))
  return table
}

/** Lanes of a line with the slot bit: path tables say where its ads fit and it may buy. */
export function fullLanes(compiled: CompiledTargeting, inventory: Inventory, shapes: readonly number[], buys: DealChoice): FullLanes {
  const lanes = Object.fromEntries(LANES.map((lane) => [lane, compiled.lanes[lane] ?? zero(laneSize(lane, inventory))])) as Record<
    Lane,
    Int32Array
  >
  const fits = new Uint8Array(SHAPES.length)
  for (const shape of shapes) fits[shape] = 1
  const deals = dealsByPlacement(buys, inventory.placements.length)
  const path = lanes.path.slice()
  const { placements } = inventory
  for (let lane = 0, placement = 0; placement < placements.length; placement++) {
    const buyable = fits[placements[placement].shape] === 1 && (buys.open || deals[placement] >= 0)
    for (let source = 0; source < SOURCES.length; source++, lane++) if (!buyable) path[lane] |= SLOT_BIT
  }
  lanes.path = path
  return lanes
}

/** Bits that fail for everything that one person sees; and those of the two networks. */
export function personFailures(lanes: FullLanes, words: Int32Array, person: number): number {
  const word = person * PERSON_WORDS
  const word1 = words[word + 1]
  return (
    lanes.postal[postalOf(words[word])] |
    lanes.demographic[demographicOf(word1)] |
    lanes.tongue[tongueOf(word1)] |
    lanes.job[jobOf(word1)] |
    lanes.profile[profileOf(word1)] |
    lanes.employer[employerOf(words[word + 2])]
  )
}
export const cellFailures = (lanes: FullLanes, word2: number) => lanes.cell[carrierOf(word2) * BLOCKS + blockOf(word2)]
export const fixedFailures = (lanes: FullLanes, word2: number) => lanes.fixed[providerOf(word2) * BLOCKS + blockOf(word2)]
