import { DEVICE_TYPE, PERSON_WORDS, postalOf } from '../market/index.js'
import { POSTAL_COUNTRY } from '../places/index.js'
import type { PriceProgramme } from '../pricing/index.js'
import { groupAt, visitChance } from '../response/index.js'
import type { Tape } from '../tape/index.js'
import type { CompiledTargeting } from '../targeting/index.js'
import type { KernelRows } from './kernel-rows.js'
import type { Matched } from './matched.js'
import type { ForecastMarket } from './question.js'

/** A match in a kernel's memory: what is asked of it is copied out, or made, when it is first asked for. */
export class KernelMatched implements Matched {
  readonly chain = null
  readonly hour = null
  readonly chance = null
  readonly isEvent = false
  readonly ownPriced = 0
  readonly ads = null
  private expected: { visits: Uint32Array; group: Uint8Array } | null = null

  constructor(
    readonly kept: KernelRows,
    readonly programme: PriceProgramme,
    readonly deals: Int16Array,
    readonly compiled: CompiledTargeting,
    private readonly tape: Tape,
    private readonly market: ForecastMarket
  ) {}

  get people(): Uint32Array {
    return this.kept.arrays().people
  }

  get starts(): Uint32Array {
    return this.kept.arrays().starts
  }

  get rows(): Uint32Array {
    return this.kept.arrays().rows
  }

  get minute(): Uint16Array {
    return this.kept.arrays().minute
  }

  get need(): Uint32Array {
    return this.kept.need()
  }

  get base(): Uint32Array {
    return this.kept.need()
  }

  get pay(): Uint32Array {
    return this.kept.pay()
  }

  get byGroup(): Float64Array {
    return this.kept.byGroup
  }

  get visits(): Uint32Array {
    return this.expectations().visits
  }

  get group(): Uint8Array {
    return this.expectations().group
  }

  /** The same rows under another price. */
  withProgramme(programme: PriceProgramme): KernelMatched {
    return new KernelMatched(this.kept, programme, this.deals, this.compiled, this.tape, this.market)
  }

  private expectations(): { visits: Uint32Array; group: Uint8Array } {
    if (this.expected) return this.expected
    const {
      tape,
      people,
      starts,
      rows,
      market: { groupByPath, benchmarks }
    } = this
    const made = { visits: new Uint32Array(rows.length), group: new Uint8Array(rows.length) }
    for (let p = 0; p < people.length; p++) {
      const country = POSTAL_COUNTRY[postalOf(tape.words[people[p] * PERSON_WORDS])]
      for (let m = starts[p]; m < starts[p + 1]; m++) {
        const group = groupAt(groupByPath[tape.rows.path[rows[m]]], tape.rows.state[rows[m]])
        made.group[m] = group
        made.visits[m] = visitChance(benchmarks, group, DEVICE_TYPE[tape.rows.device[rows[m]]], country)
      }
    }
    return (this.expected = made)
  }
}

/** The same rows under another price. */
export function underPrice(matched: Matched, programme: PriceProgramme): Matched {
  return matched instanceof KernelMatched ? matched.withProgramme(programme) : { ...matched, programme }
}
