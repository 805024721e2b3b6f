import type { LineDraft } from '@tin-harbor/core/buying'
import type { LiveQuestion, OwnTaker } from '@tin-harbor/core/forecast'
import { Campaign } from '../campaigns/campaign-model.js'
import { PublicationLine } from '../going-live/publication-model.js'
import { Line, LineRevision } from '../lines/line-model.js'
import type { Deps } from '../deps.js'
import { questionOf } from './questions.js'
import { readCampaign, readLine } from './reading.js'
import { UpToDate } from './up-to-date.js'

/** A line in force, its question, and all of the question that its part of the tape depends on. */
interface Asked extends LiveQuestion {
  name: string
}

/** What of a question changes from hour to hour, and hardly what a line takes. */
const VOLATILE = ['nowHour', 'spent', 'campaignSpent', 'exposures', 'history', 'sharers', 'among'] as const

/** All lines in force, as they went live. */
export async function linesOfMarket(publicationId: number): Promise<{ line: Line; draft: LineDraft }[]> {
  const rows = await PublicationLine.findAll({ attributes: ['lineRevisionId'], where: { publicationId } })
  const revisions = await LineRevision.findAll({
    attributes: ['lineId', 'draft'],
    where: { id: rows.map((row) => row.lineRevisionId) },
    order: [['lineId', 'ASC']]
  })
  const lines = new Map((await Line.findAll({ where: { id: revisions.map(({ lineId }) => lineId) } })).map((line) => [line.id, line]))
  return revisions.flatMap(({ lineId, draft }) => {
    const line = lines.get(lineId)
    return line ? [{ line, draft }] : []
  })
}

/** Their questions; what a campaign's have in common is read once. */
async function inForce(deps: Pick<Deps, 'sequelize' | 'exposures'>, publicationId: number): Promise<Asked[]> {
  const lines = await linesOfMarket(publicationId)
  const campaigns = [...new Set(lines.map(({ line }) => line.campaignId))]
  const asked: Asked[] = []
  for (const campaign of await Campaign.findAll({ where: { id: campaigns }, order: [['id', 'ASC']] })) {
    const around = await readCampaign(deps.sequelize, campaign)
    for (const { line, draft } of lines.filter((one) => one.line.campaignId === campaign.id)) {
      const question = await questionOf(deps, draft, await readLine(deps.sequelize, line, around))
      const kept = Object.fromEntries(Object.entries(question).filter(([name]) => !(VOLATILE as readonly string[]).includes(name)))
      asked.push({ line: line.id, question, name: JSON.stringify(kept) })
    }
  }
  return asked
}

/**
 * What the lines in force take of the tape: worked out line by line behind other questions, and only for those that changed since the
 * last publication or tape.
 */
export class LiveLines extends UpToDate<Pick<Deps, 'sequelize' | 'exposures' | 'pool' | 'tapes'>> {
  private takers = new Map<number, { name: string; tape: number; taker: OwnTaker }>()

  protected async refresh(publicationId: number, tape: number): Promise<boolean> {
    const takers: typeof this.takers = new Map()
    for (const { line, question, name } of await inForce(this.deps, publicationId)) {
      const known = this.takers.get(line)
      const taker = known?.name === name && known.tape === tape ? known.taker : await this.deps.pool.taker({ line, question })
      if (this.tape !== tape) return false
      takers.set(line, { name, tape, taker })
    }
    this.takers = takers
    this.deps.pool.setOwn([...takers.values()].map(({ taker }) => taker))
    return true
  }
}
