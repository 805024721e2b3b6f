import { ref, shallowRef } from 'vue'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { LineView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { useDraftProblems } from '@/composables/use-draft-problems'
import { useEditHistory } from '@/composables/use-edit-history'
import { useSaving, type Saving } from '@/composables/use-saving'
import { useStaleEdit, type StaleEdit } from '@/composables/use-stale-edit'

const copy = (draft: LineDraft) => JSON.parse(JSON.stringify(draft)) as LineDraft

/**
 * A line's draft, saved as it is typed when it is valid. What is not valid stays in the form with the reason at its
 * field. What somebody else changed meanwhile of other fields is put together with ours; of the same field it is asked about,
 * and nothing typed is lost.
 */
export function useLineDraft(onSaved: () => void) {
  const line = shallowRef<LineView | null>(null)
  const draft = ref<LineDraft | null>(null)
  const { problems, unreadable, isValid, check, refused, clear: clearProblems } = useDraftProblems()
  const history = useEditHistory<LineDraft>()
  const { saving, soon, refuse, save } = useSaving(attempt)
  const { stale, merged, meet, clear: clearStale } = useStaleEdit()
  const loadError = shallowRef<ApiError | null>(null)
  let last = ''

  /** The line as the server has it, draft and all. */
  function take(view: LineView): void {
    line.value = view
    draft.value = copy(view.draft)
    last = JSON.stringify(view.draft)
    clearProblems()
  }

  /**
   * News of the line that did not come from saving this draft. Edits that are still on their way stay; what somebody
   * else changed of the draft meanwhile is then left to be told by the next save, so our version must not move past it.
   */
  function refresh(view: LineView): void {
    const base = line.value
    if (!base || JSON.stringify(view.draft) === JSON.stringify(base.draft)) line.value = view
    else if (saving.value === 'saved') take(view)
    else line.value = { ...view, version: base.version, draft: base.draft }
  }

  async function load(id: number): Promise<void> {
    loadError.value = null
    history.clear()
    clearStale()
    unreadable.value = {}
    saving.value = 'saved'
    try {
      take(await api.line(id))
    } catch (error) {
      loadError.value = error as ApiError
    }
  }

  /** To be called after each edit. Returns whether the draft can be asked about and saved. */
  function edited(remember = true): boolean {
    if (!draft.value) return false
    const text = JSON.stringify(draft.value)
    if (text !== last && remember) history.note(JSON.parse(last) as LineDraft)
    const differs = text !== last
    last = text
    const valid = check(draft.value)
    if (!valid) refuse()
    // A field that says the same once more must not put off for ever what waits to be saved.
    else if (differs || saving.value === 'refused' || saving.value === 'away') soon()
    return valid
  }

  /** Goes one edit back or forth. */
  function step(to: (now: LineDraft) => LineDraft | null): void {
    const next = draft.value && to(JSON.parse(last) as LineDraft)
    if (!next) return
    unreadable.value = {}
    draft.value = copy(next)
    edited(false)
  }

  async function attempt(): Promise<Saving> {
    if (!line.value || !draft.value || stale.value || !isValid.value) return saving.value
    const sent = JSON.stringify(draft.value)
    saving.value = 'saving'
    try {
      line.value = await api.saveLine(line.value.id, line.value.version, JSON.parse(sent) as LineDraft)
      onSaved()
      return JSON.stringify(draft.value) === sent ? 'saved' : saving.value
    } catch (error) {
      if (!(error instanceof ApiError)) {
        saving.value = 'refused'
        throw error
      }
      if (error.status === 0 || error.status === 503) return 'away'
      if (error.code === 'stale') return together(error.details.current as StaleEdit)
      refused(error)
      return 'refused'
    }
  }

  /** Our edits and somebody else's in one draft, saved again; where the trader has to choose nothing is saved. */
  async function together(theirs: StaleEdit): Promise<Saving> {
    if (!draft.value || !line.value) return 'refused'
    const both = meet(line.value.draft, draft.value, theirs)
    if (!both) return 'refused'
    line.value = { ...line.value, version: theirs.version, draft: theirs.draft }
    draft.value = copy(both.draft)
    last = JSON.stringify(both.draft)
    // What was undone before would take their edits back with ours.
    history.rebase(both.intoOlder)
    return check(draft.value) ? attempt() : 'refused'
  }

  /** Ends a stale edit: with their draft, or with ours on top of their version. */
  async function settle(mine: boolean): Promise<void> {
    if (!stale.value || !line.value) return
    stale.value = null
    const view = await api.line(line.value.id)
    if (!mine) {
      if (draft.value) history.note(copy(draft.value))
      take(view)
      saving.value = 'saved'
      return
    }
    line.value = view
    saving.value = 'waiting'
    await save()
  }

  return {
    line,
    draft,
    problems,
    unreadable,
    saving,
    loadError,
    stale,
    merged,
    undoStack: history.undoStack,
    redoStack: history.redoStack,
    isValid,
    load,
    take,
    refresh,
    edited,
    undo: () => step(history.back),
    redo: () => step(history.forth),
    save,
    settle
  }
}
