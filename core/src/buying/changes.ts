import { restrictionWords } from './words.js'
import type { LineDraft } from './line.js'

/** One field that differs between two drafts, in words. */
export interface FieldChange {
  field: string
  before: string
  after: string
}

type Leaf = [field: string, value: string]

/** A draft as a list of fields, each with its value in words. */
function leaves(draft: LineDraft): Leaf[] {
  const amount = (micros: number | null) => (micros === null ? 'none' : (micros / 1e6).toFixed(micros % 10_000 === 0 ? 2 : 3))
  return [
    ['name', draft.name], ['zone', draft.zone],
    ['flight.startDate', draft.flight.startDate], ['flight.endDate', draft.flight.endDate ?? 'open'],
    ['price.bidMicros', amount(draft.price.bidMicros)], ['price.maxMicros', amount(draft.price.maxMicros)],
    ['budget.dailyMicros', amount(draft.budget.dailyMicros)], ['budget.totalMicros', amount(draft.budget.totalMicros)],
    ['pacing', draft.pacing], ['caps', draft.caps.map(({ times, hours }) => `${times} in ${hours} h`).join(', ') || 'none'],
    ['landing', draft.landing || 'none'], ['onceCleared', draft.onceCleared],
    ...draft.targeting.restrictions.map((r): Leaf => [`targeting.${r.dimension}.${r.mode}`, restrictionWords(r)])
  ]
}

/** The fields in which two drafts differ, in the order of the form. */
export function changesBetween(before: LineDraft, after: LineDraft): FieldChange[] {
  const was = new Map(leaves(before))
  const is = new Map(leaves(after))
  return [...new Set([...was.keys(), ...is.keys()])]
    .map((field) => ({ field, before: was.get(field) ?? 'none', after: is.get(field) ?? 'none' }))
    .filter((change) => change.before !== change.after)
}
