import { QueryTypes, type Sequelize } from 'sequelize'
import type { LineDraft } from '@tin-harbor/core/buying'

/**
 * Lines that may have edits which are not in force, with what is: to the letter most drafts are what is in force, and only the others
 * are read. An ad that was added is a draft before it goes live; one that was taken off still stands in the revision's rules.
 */
export async function maybeStaged(sequelize: Sequelize): Promise<Map<number, { draft: LineDraft; byAds: boolean }>> {
  const rows = await sequelize.query<{ id: number; draft: string; by_ads: number }>(
    `SELECT l.id, r.draft, a.line_id IS NOT NULL AS by_ads FROM line l JOIN line_revision r ON r.id = l.revision_id
     LEFT JOIN (SELECT DISTINCT a.line_id FROM ad a JOIN line al ON al.id = a.line_id JOIN line_revision ar ON ar.id = al.revision_id
       WHERE IF(a.removed, JSON_CONTAINS(JSON_EXTRACT(ar.rules, '$.ads[*].ad'), a.id), a.review = 'draft')) a ON a.line_id = l.id
     WHERE l.state <> 'ended' AND l.template = FALSE AND (l.draft <> r.draft OR a.line_id IS NOT NULL)`,
    { type: QueryTypes.SELECT }
  )
  return new Map(rows.map(({ id, draft, by_ads }) => [id, { draft: JSON.parse(draft) as LineDraft, byAds: Boolean(by_ads) }]))
}
