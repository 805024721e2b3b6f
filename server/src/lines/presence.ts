import { LRUCache } from 'lru-cache'

/** Lines that are remembered, of those looked at last. */
const MOST_LINES = 2000

/** Who has which line open, by what their pages say now and then; nothing of it is kept. */
export class Presence {
  private readonly seen = new LRUCache<number, Map<number, { name: string; at: number }>>({ max: MOST_LINES })

  /** @param staysMs how long a page counts after it last spoke */
  constructor(private readonly staysMs = 40_000) {}

  /** Notes that somebody looks at a line, and names the others who do. */
  look(line: number, user: { id: number; name: string }, now: number): string[] {
    const here = this.seen.get(line) ?? new Map<number, { name: string; at: number }>()
    here.set(user.id, { name: user.name, at: now })
    for (const [id, { at: seenAt }] of here) if (now - seenAt > this.staysMs) here.delete(id)
    this.seen.set(line, here)
    return [...here].filter(([id]) => id !== user.id).map(([, { name }]) => name)
  }
}
