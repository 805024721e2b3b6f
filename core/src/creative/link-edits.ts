import { withTerms, type LineDraft } from '../buying/index.js'
import { linkFindings } from './macros.js'

/** A link of a line, or of one of its ads, before and after. */
export interface LinkEdit {
  /** Null for the line's own. */
  ad: number | null
  /** Its place among the line's links by country and device; null for any other. */
  nth: number | null
  before: string
  after: string
  /** What keeps it from being written; null where nothing does. */
  problem: string | null
}

type Linked = Pick<LineDraft, 'landing' | 'landings' | 'ads'>

/** Links of a line that have a text, with another in its place wherever it stands. */
export function linkEdits(draft: Linked, find: string, replace: string): LinkEdit[] {
  if (find === '') return []
  const links = [
    { ad: null, nth: null, before: draft.landing },
    ...(draft.landings ?? []).map(({ link }, nth) => ({ ad: null, nth, before: link })),
    ...(draft.ads ?? []).flatMap(({ ad, landing }) => (landing ? [{ ad, nth: null, before: landing }] : []))
  ]
  return links
    .filter(({ before }) => before.includes(find))
    .map(({ ad, nth, before }) => {
      const after = before.replaceAll(find, replace)
      const stop = linkFindings(after, { wantsClicks: false }).find(({ severity }) => severity === 'stops')
      return { ad, nth, before, after, problem: after === '' ? 'Nothing would be left of it.' : (stop?.says ?? null) }
    })
}

/** A line with its links changed. */
export function withLinks<Draft extends Linked>(draft: Draft, edits: readonly LinkEdit[]): Draft {
  return edits.reduce((changed, { ad, nth, after }) => {
    if (ad !== null) return { ...changed, ads: withTerms(changed.ads, ad, { landing: after }) }
    if (nth === null) return { ...changed, landing: after }
    return { ...changed, landings: changed.landings?.map((one, n) => (n === nth ? { ...one, link: after } : one)) }
  }, draft)
}
