/**
 * Answers by the name of what was asked, those under way included: pages that ask the same at once, or again while nothing has
 * changed, share one. An answer that failed is forgotten.
 */
export class KeptAnswers<T> {
  private readonly kept = new Map<string, Promise<T>>()

  /** @param most answers that are kept, the newest */
  constructor(private readonly most: number) {}

  of(name: string, ask: () => Promise<T>): Promise<T> {
    const known = this.kept.get(name)
    if (known) return known
    const asked = ask()
    this.kept.set(name, asked)
    asked.catch(() => this.kept.delete(name))
    const [oldest] = this.kept.keys()
    if (this.kept.size > this.most) this.kept.delete(oldest)
    return asked
  }
}
