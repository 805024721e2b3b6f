import type { LineDraft } from '@tin-harbor/core/buying'
import type { LiveQuestion, OwnTaker } from '@tin-harbor/core/forecast'
import { Campaign, LineRevision, PublicationLine } from '../models/index.js'
import type { Deps } from './deps.js'
import { readMarket } from './publications.js'
import { questionOf } from './questions.js'

/** A line in force, its question, and all of the question that its part of the tape depends on. */
interface Asked extends LiveQuestion {
  name: string
}

/** What of a question changes from hour to hour, and hardly what a line takes. */
const VOLATILE = ['nowHour', 'spent', 'campaignSpent', 'exposures', 'history', 'sharers', 'among'] as const

/** All lines in force, as they went live. */
async function inForce(deps: Pick<Deps, 'sequelize' | 'exposures'>, publicationId: number, hour: number): Promise<Asked[]> {
  const rows = await PublicationLine.findAll({ where: { publicationId } })
  const revisions = await LineRevision.findAll({ where: { id: rows.map((row) => row.lineRevisionId) }, order: [['lineId', 'ASC']] })
  const asked: Asked[] = []
  for (const { lineId, draft, rules } of revisions) {
    const campaign = await Campaign.findByPk(rules.campaign)
    if (!campaign) continue
    const question = await questionOf(deps, draft as LineDraft, campaign, lineId, hour)
    const kept = Object.fromEntries(Object.entries(question).filter(([name]) => !(VOLATILE as readonly string[]).includes(name)))
    asked.push({ line: lineId, question, name: JSON.stringify(kept) })
  }
  return asked
}

/**
 * What the lines in force take of the tape: worked out line by line behind other questions, and only for those that changed since the
 * last publication or tape.
 */
export class LiveLines {
  private state = ''
  private takers = new Map<number, { name: string; tape: number; taker: OwnTaker }>()
  private refreshing: Promise<void> | null = null

  constructor(private readonly deps: Pick<Deps, 'sequelize' | 'exposures' | 'pool' | 'tapes'>) {}

  /** Brings it up to what is in force; resolves when that is so. One refresh serves all who wait. */
  async current(): Promise<void> {
    this.refreshing ??= this.refresh().finally(() => (this.refreshing = null))
    await this.refreshing
  }

  private async refresh(): Promise<void> {
    const { deps } = this
    const tape = deps.tapes.current?.head.firstDay
    if (tape === undefined || !deps.pool.isReady) return
    const { publicationId, hour } = await readMarket()
    const state = `${publicationId} ${tape}`
    if (state === this.state || publicationId === null) return
    const asked = await inForce(deps, publicationId, hour)
    const before = this.takers
    this.takers = new Map()
    for (const { line, question, name } of asked) {
      const known = before.get(line)
      const taker = known?.name === name && known.tape === tape ? known.taker : await deps.pool.taker({ line, question })
      this.takers.set(line, { name, tape, taker })
    }
    this.state = state
    deps.pool.setOwn([...this.takers.values()].map(({ taker }) => taker))
  }
}
