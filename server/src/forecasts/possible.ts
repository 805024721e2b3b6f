import type { LineDraft } from '@tin-harbor/core/buying'
import { Campaign } from '../campaigns/campaign-model.js'
import type { Deps, PossibleShares } from '../deps.js'
import type { Line } from '../lines/line-model.js'
import { linesOfMarket } from './live-lines.js'
import { measureOf, questionAmongMates } from './questions.js'
import { readCampaign, readLine } from './reading.js'
import { UpToDate } from './up-to-date.js'

type Needs = Pick<Deps, 'sequelize' | 'exposures' | 'pool' | 'tapes' | 'runner' | 'liveLines' | 'log'>

/**
 * Works them out one after the other, once for each publication and tape, while the market stands still: a run moves the clock on before
 * anybody could read them.
 */
export class SharesOfLines extends UpToDate<Needs> implements PossibleShares {
  private shares = new Map<number, number | null>()
  since = 0

  /** @param onNews when a share became known that was another before */
  constructor(
    deps: Needs,
    private readonly onNews: (since: number) => void
  ) {
    super(deps)
  }

  of(line: number): number | null {
    return this.shares.get(line) ?? null
  }

  protected async refresh(publicationId: number, tape: number): Promise<boolean> {
    const { liveLines, runner } = this.deps
    if (runner.status.running) return false
    await liveLines.current()
    const shares: typeof this.shares = new Map()
    for (const { line, draft } of await linesOfMarket(publicationId)) {
      const share = await this.shareOf(line, draft)
      if (this.tape !== tape || runner.status.running) return false
      shares.set(line.id, share)
    }
    const hasNews = [...shares].some(([line, share]) => share !== this.of(line))
    this.shares = shares
    if (hasNews) this.onNews((this.since = Date.now()))
    return true
  }

  /** Null for one that cannot be told: the others are told all the same, and it is not asked again before something changed. */
  private async shareOf(line: Line, draft: LineDraft): Promise<number | null> {
    const { sequelize, pool, log } = this.deps
    try {
      const campaign = await Campaign.findByPk(line.campaignId, { rejectOnEmpty: true })
      const reading = await readLine(sequelize, line, await readCampaign(sequelize, campaign))
      return (await pool.adviceAtLeisure(await questionAmongMates(this.deps, draft, reading), measureOf(campaign))).possible
    } catch (err) {
      log.warn({ err, line: line.id }, 'what a line gets of the possible is not known')
      return null
    }
  }
}
