import { termsOfAd, withTerms, type Landing, type LineDraft } from '../buying/index.js'
import { linkFindings } from './macros.js'

/** A link of a line, or of one of its ads, before and after. */
export interface LinkEdit {
  /** Null for the line's own. */
  ad: number | null
  /** Its place among links by country and device; null for one that is for all. */
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
    ...(draft.ads ?? []).flatMap(({ ad, landing, landings = [] }) => [
      ...(landing ? [{ ad, nth: null, before: landing }] : []),
      ...landings.map(({ link }, nth) => ({ ad, nth, before: link }))
    ])
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
    const edited = (all: readonly Landing[] | undefined) => all?.map((one, n) => (n === nth ? { ...one, link: after } : one))
    if (ad !== null) {
      const own = nth === null ? { landing: after } : { landings: edited(termsOfAd(changed, ad).landings) }
      return { ...changed, ads: withTerms(changed.ads, ad, own) }
    }
    return nth === null ? { ...changed, landing: after } : { ...changed, landings: edited(changed.landings) }
  }, draft)
}
