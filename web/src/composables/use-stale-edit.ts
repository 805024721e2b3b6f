import { shallowRef } from 'vue'
import type { FieldChange, LineDraft } from '@tin-harbor/core/buying'
import { mergedEdits } from '@/composables/merged-edits'

/** Somebody else saved first: what they have that we do not. */
export interface StaleEdit {
  version: number
  draft: LineDraft
  changes: FieldChange[]
}

/** What somebody else changed meanwhile: put together with ours where it is of other fields, asked about where it is not. */
export function useStaleEdit() {
  const stale = shallowRef<StaleEdit | null>(null)
  /** Fields that somebody else changed and that were put together with ours, in words; empty for none. */
  const merged = shallowRef<FieldChange[]>([])

  /** @returns both edits in one draft; null where the trader has to choose */
  function meet(base: LineDraft, ours: LineDraft, theirs: StaleEdit): ReturnType<typeof mergedEdits> {
    const together = mergedEdits(base, ours, theirs.draft)
    if (together) merged.value = together.others
    else stale.value = theirs
    return together
  }
  function clear(): void {
    stale.value = null
    merged.value = []
  }
  return { stale, merged, meet, clear }
}
