import type { WorldSize } from '@tin-harbor/core/market'
import type { TapeHead } from '@tin-harbor/core/tape'

/** A world whose people lie in shared memory. */
export interface SharedWorld {
  size: WorldSize
  people: SharedArrayBuffer
}

/** A tape in shared memory. */
export interface SharedTape {
  head: TapeHead
  buffer: SharedArrayBuffer
}
