import { Campaign } from '../campaigns/campaign-model.js'
import type { Current, Deps } from '../deps.js'
import { readMarket } from '../going-live/publications.js'
import { linesOfMarket } from './live-lines.js'
import { measureOf, questionAmongMates } from './questions.js'
import { readCampaign, readLine } from './reading.js'

/** Lines work for nobody's page: no forecast that somebody waits for comes after them. */
const NOBODY = 'shares of the possible'

/** What each line in force gets of the best that its money could buy: of the last tape, until that is known of the next. */
export interface PossibleShares extends Current {
  /** Share from 0 to 1; null where nothing can be said yet. */
  of(line: number): number | null
}

type Needs = Pick<Deps, 'sequelize' | 'exposures' | 'pool' | 'tapes' | 'runner' | 'liveLines'>

/**
 * Works them out one after the other, once for each publication and tape, while the market stands still: a run moves the clock on before
 * anybody could read them.
 * @param onNews when a share became known that was another before
 */
export class SharesOfLines implements PossibleShares {
  private state = ''
  private shares = new Map<number, number | null>()
  private refreshing: Promise<void> | null = null

  constructor(
    private readonly deps: Needs,
    private readonly onNews: () => void
  ) {}

  of(line: number): number | null {
    return this.shares.get(line) ?? null
  }

  async current(): Promise<void> {
    this.refreshing ??= this.refresh().finally(() => (this.refreshing = null))
    await this.refreshing
  }

  private async refresh(): Promise<void> {
    const { deps } = this
    const tape = deps.tapes.current?.head.firstDay
    if (tape === undefined || !deps.pool.isReady) return
    const { publicationId } = await readMarket()
    const state = `${publicationId} ${tape}`
    if (state === this.state || publicationId === null || deps.runner.status.running) return
    await deps.liveLines.current()
    const shares: typeof this.shares = new Map()
    let hasNews = false
    for (const { line, draft } of await linesOfMarket(publicationId)) {
      const campaign = await Campaign.findByPk(line.campaignId, { rejectOnEmpty: true })
      const reading = await readLine(deps.sequelize, line, await readCampaign(deps.sequelize, campaign))
      const question = await questionAmongMates(deps, draft, reading)
      const { possible } = await deps.pool.advice(NOBODY, question, measureOf(campaign))
      // A tape or a run that came meanwhile asks anew.
      if (deps.tapes.current?.head.firstDay !== tape || deps.runner.status.running) return
      shares.set(line.id, possible)
      hasNews ||= possible !== this.of(line.id)
    }
    this.shares = shares
    this.state = state
    if (hasNews) this.onNews()
  }
}
