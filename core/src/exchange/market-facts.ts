import { publishMeasures, type World } from '../market/index.js'
import { makeBenchmarks, type Benchmarks } from '../response/index.js'
import type { Catalogue } from '../dimensions/index.js'

const catalogues = new WeakMap<World['inventory'], Catalogue>()
/** What targeting is compiled against; made once a world. */
export function catalogueOf({ seed, inventory, profiles }: World): Catalogue {
  let known = catalogues.get(inventory)
  if (!known) catalogues.set(inventory, (known = { inventory, profiles, measures: publishMeasures(seed, inventory) }))
  return known
}
const benchmarks = new WeakMap<World['inventory'], Benchmarks>()
export function benchmarksOf({ inventory }: World): Benchmarks {
  let known = benchmarks.get(inventory)
  if (!known) benchmarks.set(inventory, (known = makeBenchmarks(inventory)))
  return known
}
