import type { Sequelize } from 'sequelize'
import { lineSchema, parseInput } from '@tin-harbor/core/buying'
import { linkEdits, withLinks } from '@tin-harbor/core/creative'
import type { LinkChange } from '@tin-harbor/core/contract'
import type { Campaign } from '../campaigns/campaign-model.js'
import { conflict, invalid, unknownObject } from '../http/errors.js'
import type { Actor } from '../security/sessions.js'
import { Line } from '../lines/line-model.js'
import { findLine, writeDraft } from '../lines/lines.js'

interface Wanted {
  find: string
  replace: string
}

/** Links of a campaign's lines and their ads that would change, each before and after. */
export async function linkChanges(campaignId: number, { find, replace }: Wanted): Promise<LinkChange[]> {
  const lines = await Line.findAll({ where: { campaignId }, order: [['id', 'ASC']] })
  return lines
    .filter(({ state }) => state !== 'ended')
    .flatMap(({ id: line, version, draft }) =>
      linkEdits(draft, find, replace).map((edit) => ({ line, name: draft.name, version, ...edit }))
    )
}

/**
 * Changes links of some lines at once, all or none; on lines that are live they wait like any edit.
 * @param lines each with the version that was seen
 */
export async function changeLinks(
  sequelize: Sequelize,
  actor: Actor,
  campaign: Campaign,
  { find, replace }: Wanted,
  lines: readonly { line: number; version: number }[]
): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    // Always in one order, so that two who save at once do not wait for each other.
    for (const { line: id, version } of [...lines].sort((a, b) => a.line - b.line)) {
      const line = await findLine(id, transaction)
      if (line.campaignId !== campaign.id) throw unknownObject('line')
      if (line.version !== version) throw conflict(`“${line.draft.name}” was changed meanwhile; nothing was saved.`)
      const edits = linkEdits(line.draft, find, replace)
      const wrong = edits.find(({ problem }) => problem !== null)
      if (wrong) throw invalid([{ field: 'replace', message: `“${line.draft.name}”, ${wrong.after}: ${wrong.problem}` }])
      if (edits.length > 0)
        await writeDraft(actor, line, parseInput(lineSchema, withLinks(line.draft, edits)), campaign.advertiserId, transaction)
    }
  })
}
