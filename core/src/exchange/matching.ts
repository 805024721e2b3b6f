import { REGIONS } from '../places/index.js'
import { DEVICE_TYPES } from '../taxonomy/index.js'
import { SOURCES, type Inventory } from '../market/index.js'
import { compileTargeting, type CompiledTargeting, type Targeting } from '../targeting/index.js'

/**
 * Inverted bit sets: for each value of a dimension the set of lines that it does not stop. The lines that match an
 * opportunity are the intersection of four sets. Made from the same compiled tables that the forecast reads.
 */
export class Matcher {
  /** 32-bit words a set takes. */
  readonly words: number
  readonly region: Int32Array
  readonly device: Int32Array
  readonly placement: Int32Array
  readonly source: Int32Array

  constructor(targetings: readonly Targeting[], inventory: Inventory) {
    const compiled = targetings.map((targeting) => compileTargeting(targeting, inventory))
    this.words = Math.max(1, Math.ceil(targetings.length / 32))
    const invert = (name: 'region' | 'device' | 'placement' | 'source', size: number) => {
      const sets = new Int32Array(size * this.words)
      compiled.forEach((line: CompiledTargeting, l) => {
        for (let value = 0; value < size; value++) {
          if (line[name][value] === 0) sets[value * this.words + (l >> 5)] |= 1 << (l & 31)
        }
      })
      return sets
    }
    this.region = invert('region', REGIONS.length)
    this.device = invert('device', DEVICE_TYPES.length)
    this.placement = invert('placement', inventory.placements.length)
    this.source = invert('source', SOURCES.length)
  }

  /** One word of the set of matching lines. */
  word(w: number, region: number, device: number, placement: number, source: number): number {
    const { words } = this
    return this.region[region * words + w] & this.device[device * words + w] & this.placement[placement * words + w] & this.source[source * words + w]
  }
}
