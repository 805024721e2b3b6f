import { onScopeDispose, ref, shallowRef } from 'vue'
import type { FieldChange, LineDraft } from '@tin-harbor/core/buying'
import type { LineView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { mergedEdits } from '@/composables/merged-edits'
import { useDraftProblems } from '@/composables/use-draft-problems'
import { useEditHistory } from '@/composables/use-edit-history'

const SAVE_AFTER_MS = 500
/** A server or a database that is away is tried again so often: nobody has to type once more to have it saved. */
const RETRY_MS = 3000
const copy = (draft: LineDraft) => JSON.parse(JSON.stringify(draft)) as LineDraft

/** Somebody else saved first: what they have that we do not. */
export interface StaleEdit {
  version: number
  draft: LineDraft
  changes: FieldChange[]
}

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
  const saving = shallowRef<'saved' | 'waiting' | 'saving' | 'refused' | 'away'>('saved')
  const loadError = shallowRef<ApiError | null>(null)
  const stale = shallowRef<StaleEdit | null>(null)
  /** Fields that somebody else changed and that were put together with ours, in words; empty for none. */
  const merged = shallowRef<FieldChange[]>([])
  let last = ''
  let timer: ReturnType<typeof setTimeout> | undefined
  let chain: Promise<void> = Promise.resolve()

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
    merged.value = []
    unreadable.value = {}
    stale.value = null
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
    if (!valid) {
      clearTimeout(timer)
      saving.value = 'refused'
    } else if (differs || saving.value === 'refused' || saving.value === 'away') {
      // A field that says the same once more must not put off for ever what waits to be saved.
      clearTimeout(timer)
      saving.value = 'waiting'
      timer = setTimeout(() => void save(), SAVE_AFTER_MS)
    }
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
  const undo = () => step(history.back)
  const redo = () => step(history.forth)

  function save(): Promise<void> {
    clearTimeout(timer)
    chain = chain.then(saveNow)
    return chain
  }

  async function saveNow(): Promise<void> {
    if (!line.value || !draft.value || stale.value || !isValid.value || saving.value === 'saved') return
    const sent = JSON.stringify(draft.value)
    saving.value = 'saving'
    try {
      const view = await api.saveLine(line.value.id, line.value.version, JSON.parse(sent) as LineDraft)
      line.value = view
      if (JSON.stringify(draft.value) === sent) saving.value = 'saved'
      onSaved()
    } catch (error) {
      saving.value = 'refused'
      if (!(error instanceof ApiError)) throw error
      if (error.status === 0 || error.status === 503) {
        saving.value = 'away'
        clearTimeout(timer)
        timer = setTimeout(() => void save(), RETRY_MS)
        return
      }
      if (error.code === 'stale') await meet(error.details.current as StaleEdit)
      else refused(error)
    }
  }

  /** Puts our edits and somebody else's together where they are of different fields, and saves again; else asks. */
  async function meet(theirs: StaleEdit): Promise<void> {
    if (!draft.value || !line.value) return
    const together = mergedEdits(line.value.draft, draft.value, theirs.draft)
    if (!together) {
      stale.value = theirs
      return
    }
    line.value = { ...line.value, version: theirs.version, draft: theirs.draft }
    draft.value = copy(together.draft)
    last = JSON.stringify(together.draft)
    merged.value = together.others
    // What was undone before would take their edits back with ours.
    history.rebase(together.intoOlder)
    if (!check(draft.value)) return
    saving.value = 'waiting'
    await saveNow()
  }

  /** Ends a stale edit: with their draft, or with ours on top of their version. */
  async function settle(mine: boolean): Promise<void> {
    const theirs = stale.value
    if (!theirs || !line.value) return
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

  onScopeDispose(() => {
    // An edit that is still waiting must not be lost by leaving the page.
    if (saving.value === 'waiting') void save()
    else clearTimeout(timer)
  })

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
    undo,
    redo,
    save,
    settle
  }
}
