import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { InputError, lineSchema, parseInput, type FieldChange, type LineDraft, type LineView } from '@tin-harbor/core/buying'
import { changesBetween, withFields } from '@tin-harbor/core/wording'
import { ApiError, api } from '@/api'

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
  const problems = ref<Record<string, string>>({})
  /** Amounts that could not be read at all, by field. */
  const unreadable = ref<Record<string, string>>({})
  const saving = shallowRef<'saved' | 'waiting' | 'saving' | 'refused' | 'away'>('saved')
  const loadError = shallowRef<ApiError | null>(null)
  const stale = shallowRef<StaleEdit | null>(null)
  const undoStack = shallowRef<LineDraft[]>([])
  const redoStack = shallowRef<LineDraft[]>([])
  /** Fields that somebody else changed and that were put together with ours, in words; empty for none. */
  const merged = shallowRef<FieldChange[]>([])
  let last = ''
  let timer: ReturnType<typeof setTimeout> | undefined
  let chain: Promise<void> = Promise.resolve()

  const allProblems = computed<Record<string, string>>(() => ({ ...problems.value, ...unreadable.value }))
  const isValid = computed(() => Object.keys(allProblems.value).length === 0)

  /** The line as the server has it, draft and all. */
  function take(view: LineView): void {
    line.value = view
    draft.value = copy(view.draft)
    last = JSON.stringify(view.draft)
    problems.value = {}
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
    undoStack.value = []
    redoStack.value = []
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

  function check(): boolean {
    try {
      parseInput(lineSchema, draft.value)
      problems.value = {}
    } catch (error) {
      if (!(error instanceof InputError)) throw error
      problems.value = Object.fromEntries(error.issues.map(({ field, message }) => [field, message]))
    }
    return isValid.value
  }

  /** To be called after each edit. Returns whether the draft can be asked about and saved. */
  function edited(remember = true): boolean {
    if (!draft.value) return false
    const text = JSON.stringify(draft.value)
    if (text !== last && remember) {
      undoStack.value = [...undoStack.value.slice(-99), JSON.parse(last) as LineDraft]
      redoStack.value = []
    }
    const differs = text !== last
    last = text
    const valid = check()
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
  function step(from: typeof undoStack, to: typeof undoStack): void {
    const next = from.value.at(-1)
    if (!next || !draft.value) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, JSON.parse(last) as LineDraft]
    unreadable.value = {}
    draft.value = copy(next)
    edited(false)
  }
  const undo = () => step(undoStack, redoStack)
  const redo = () => step(redoStack, undoStack)

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
      else
        problems.value =
          error.issues.length > 0 ? Object.fromEntries(error.issues.map(({ field, message }) => [field, message])) : { '': error.message }
    }
  }

  /** Puts our edits and somebody else's together where they are of different fields, and saves again; else asks. */
  async function meet(theirs: StaleEdit): Promise<void> {
    const base = line.value?.draft
    if (!base || !draft.value || !line.value) return
    const mine = changesBetween(base, draft.value).map(({ field }) => field)
    const other = changesBetween(base, theirs.draft)
    if (other.some(({ field }) => mine.includes(field))) {
      stale.value = theirs
      return
    }
    const together = withFields(theirs.draft, draft.value, mine)
    line.value = { ...line.value, version: theirs.version, draft: theirs.draft }
    draft.value = copy(together)
    last = JSON.stringify(together)
    merged.value = other
    // What was undone before would take their edits back with ours.
    undoStack.value = undoStack.value.map((one) =>
      withFields(
        one,
        theirs.draft,
        other.map(({ field }) => field)
      )
    )
    redoStack.value = []
    if (!check()) return
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
      undoStack.value = draft.value ? [...undoStack.value, copy(draft.value)] : undoStack.value
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
    problems: allProblems,
    unreadable,
    saving,
    loadError,
    stale,
    merged,
    undoStack,
    redoStack,
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
