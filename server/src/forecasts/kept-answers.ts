import { LRUCache } from 'lru-cache'

/**
 * Answers by the name of what was asked, those under way included: pages that ask the same at once, or again while nothing has
 * changed, share one. An answer that failed is forgotten.
 */
export class KeptAnswers<T> {
  private readonly kept: LRUCache<string, Promise<T>>

  /** @param max answers that are kept, those asked last */
  constructor(max: number) {
    this.kept = new LRUCache({ max })
  }

  of(name: string, ask: () => Promise<T>): Promise<T> {
    const known = this.kept.get(name)
    if (known) return known
    const asked = ask()
    this.kept.set(name, asked)
    asked.catch(() => this.kept.delete(name))
    return asked
  }
}
