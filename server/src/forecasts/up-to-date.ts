import type { Current, Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'

/** What of the tape and the market it goes by. */
type Needs = Pick<Deps, 'pool' | 'tapes'>

/** Something that is worked out once for each publication and tape. One refresh serves all who wait for it. */
export abstract class UpToDate<D extends Needs> implements Current {
  private state = ''
  private refreshing: Promise<void> | null = null

  constructor(protected readonly deps: D) {}

  /** Brings it up to what is in force; resolves when that is so, or cannot be now. */
  async current(): Promise<void> {
    this.refreshing ??= this.check().finally(() => (this.refreshing = null))
    await this.refreshing
  }

  private async check(): Promise<void> {
    const tape = this.tape
    if (tape === null || !this.deps.pool.isReady) return
    const { publicationId } = await readMarket()
    const state = `${publicationId} ${tape}`
    if (state === this.state || publicationId === null) return
    if (await this.refresh(publicationId, tape)) this.state = state
  }

  /** First day of the present tape: one that came meanwhile has its rows in other places. */
  protected get tape(): number | null {
    return this.deps.tapes.current?.head.firstDay ?? null
  }

  /** Works it out anew. @returns false where that was overtaken: it is tried again when somebody asks */
  protected abstract refresh(publicationId: number, tape: number): Promise<boolean>
}
