import { LRUCache } from 'lru-cache'
import type { LinkLooked } from '@tin-harbor/core/contract'
import { lookAt } from '../fetching/page.js'

/** How long it is believed what a link answered, and how many are remembered. */
const [LASTS_MS, MOST] = [10 * 60_000, 2000]
/** How long preflight waits for a link that was not looked at lately. */
const WAITS_MS = 400

const seen = new LRUCache<string, LinkLooked>({ max: MOST, ttl: LASTS_MS })
const under = new Map<string, Promise<LinkLooked>>()

/** What links answer, by what they did in the last minutes. */
function lookedAt(link: string): Promise<LinkLooked> {
  const known = seen.get(link)
  if (known) return Promise.resolve(known)
  let look = under.get(link)
  if (!look) {
    look = lookAt(link)
      .then((found) => {
        seen.set(link, found)
        return found
      })
      .finally(() => under.delete(link))
    under.set(link, look)
  }
  return look
}

/** The same, without those that take longer than a page waits: they are known when it asks again. */
export async function lookedAtSoon(links: readonly string[]): Promise<LinkLooked[]> {
  const late = new Promise<null>((resolve) => setTimeout(() => resolve(null), WAITS_MS).unref())
  const found = await Promise.all(links.map((link) => Promise.race([lookedAt(link).catch(() => null), late])))
  return found.filter((one) => one !== null)
}
