import { withTerms, type LineDraft } from '../buying/index.js'
import { linkFindings } from './macros.js'

/** A link of a line, or of one of its ads, before and after. */
export interface LinkEdit {
  /** Null for the line's own. */
  ad: number | null
  before: string
  after: string
  /** What keeps it from being written; null where nothing does. */
  problem: string | null
}

/** Links of a line that have a text, with another in its place wherever it stands. */
export function linkEdits(draft: Pick<LineDraft, 'landing' | 'ads'>, find: string, replace: string): LinkEdit[] {
  if (find === '') return []
  const links = [
    { ad: null, before: draft.landing },
    ...(draft.ads ?? []).flatMap(({ ad, landing }) => (landing ? [{ ad, before: landing }] : []))
  ]
  return links
    .filter(({ before }) => before.includes(find))
    .map(({ ad, before }) => {
      const after = before.replaceAll(find, replace)
      const stop = linkFindings(after, { wantsClicks: false }).find(({ severity }) => severity === 'stops')
      return { ad, before, after, problem: after === '' ? 'Nothing would be left of it.' : (stop?.says ?? null) }
    })
}

/** A line with its links changed. */
export function withLinks<Draft extends Pick<LineDraft, 'landing' | 'ads'>>(draft: Draft, edits: readonly LinkEdit[]): Draft {
  return edits.reduce(
    (changed, { ad, after }) =>
      ad === null ? { ...changed, landing: after } : { ...changed, ads: withTerms(changed.ads, ad, { landing: after }) },
    draft
  )
}
