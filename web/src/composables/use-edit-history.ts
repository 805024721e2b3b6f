import { shallowRef, type ShallowRef } from 'vue'

/** Edits that can be taken back. */
const MOST_KEPT = 100

/** Versions of something that is edited, before and after the one at hand; each a copy of its own. */
export function useEditHistory<T>() {
  const undoStack = shallowRef<T[]>([])
  const redoStack = shallowRef<T[]>([])

  /** Notes an edit. @param before what was there */
  function note(before: T): void {
    undoStack.value = [...undoStack.value.slice(1 - MOST_KEPT), before]
    redoStack.value = []
  }

  function step(from: ShallowRef<T[]>, to: ShallowRef<T[]>, now: T): T | null {
    const next = from.value.at(-1)
    if (next === undefined) return null
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, now]
    return next
  }

  /** Changes what was before: somebody else's edits are not taken back with ours. */
  function rebase(change: (before: T) => T): void {
    undoStack.value = undoStack.value.map(change)
    redoStack.value = []
  }

  function clear(): void {
    undoStack.value = []
    redoStack.value = []
  }

  return {
    undoStack,
    redoStack,
    note,
    /** What was there before `now`; null when nothing was. */
    back: (now: T) => step(undoStack, redoStack, now),
    /** What was taken back last; null when nothing was. */
    forth: (now: T) => step(redoStack, undoStack, now),
    rebase,
    clear
  }
}
