/** Pieces of work of one request that are under way together: enough for both forecast workers, and connections left for others. */
const AT_ONCE = 4

/** Does the same for each of many, some at once; answers in their order. The first failure ends it: nothing further is begun. */
export async function severalAtOnce<T, R>(all: readonly T[], work: (one: T) => Promise<R>): Promise<R[]> {
  const done = new Array<R>(all.length)
  let next = 0
  let hasFailed = false
  const take = async () => {
    while (next < all.length && !hasFailed) {
      const n = next++
      try {
        done[n] = await work(all[n])
      } catch (error) {
        hasFailed = true
        throw error
      }
    }
  }
  await Promise.all(Array.from({ length: AT_ONCE }, take))
  return done
}
