import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'

// The collector is within reach only of contexts that are made after this.
setFlagsFromString('--expose-gc')
const collect = runInNewContext('gc') as () => void

/** Dropped shared memory that is worth a collection: it stops the thread for some hundredths of a second. */
const WORTH_BYTES = 100e6
let dropped = 0

/**
 * To be called when this thread has let go of shared memory. The engine counts such memory to no thread, so that the objects
 * which hold it look small and would be collected late or never, in each thread that had them.
 */
export function droppedShared(bytes: number): void {
  dropped += bytes
  if (dropped < WORTH_BYTES) return
  dropped = 0
  setImmediate(collect)
}
