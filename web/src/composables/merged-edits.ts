import type { FieldChange, LineDraft } from '@tin-harbor/core/buying'
import { changesBetween, withFields } from '@tin-harbor/core/wording'

export interface MergedEdits {
  /** Theirs with the fields that were edited here over it. */
  draft: LineDraft
  /** What they changed. */
  others: FieldChange[]
  /** Puts their fields into an older version of ours. */
  intoOlder: (older: LineDraft) => LineDraft
}

/**
 * Two people's edits of one draft put together where they are of different fields; null where both changed one field.
 * @param base what both began with
 */
export function mergedEdits(base: LineDraft, mine: LineDraft, theirs: LineDraft): MergedEdits | null {
  const own = changesBetween(base, mine).map(({ field }) => field)
  const others = changesBetween(base, theirs)
  const fields = others.map(({ field }) => field)
  if (fields.some((field) => own.includes(field))) return null
  return { draft: withFields(theirs, mine, own), others, intoOlder: (older) => withFields(older, theirs, fields) }
}
