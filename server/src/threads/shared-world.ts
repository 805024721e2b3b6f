import type { Given, WorldSize } from '@tin-harbor/core/market'
import type { TapeHead } from '@tin-harbor/core/tape'

/** A world whose people lie in shared memory. */
export interface SharedPeople {
  size: WorldSize
  people: SharedArrayBuffer
}

/** With what follows from its seed: a thread that starts gets a copy in a tenth of the time in which it would make it. */
export interface SharedWorld extends SharedPeople {
  given: Given
}

/** A tape in shared memory. */
export interface SharedTape {
  head: TapeHead
  buffer: SharedArrayBuffer
}
