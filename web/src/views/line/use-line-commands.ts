import { useEventListener } from '@vueuse/core'
import { CLAUSES, CLAUSE_NAMES, type Clause } from '@tin-harbor/core/wording'
import { offerCommands } from '@/composables/commands'
import type { LineEditing } from './use-line-editing'

/** Whether a key is the field's own: it holds what was typed into it. */
const isTypedInto = (focused: Element | null) =>
  focused instanceof HTMLTextAreaElement ||
  (focused instanceof HTMLInputElement && ['text', 'search', 'number'].includes(focused.type) && focused.value !== focused.defaultValue)

/** What the line's page can be told to do by its keys and from the search for commands. */
export function useLineCommands(
  { line, mayDraft, mayLive, undo, redo }: LineEditing,
  does: { go: (clause: Clause) => void; list: () => void; confirm: () => void }
): void {
  // Inside a text field they are the field's own.
  useEventListener(window, 'keydown', (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
    if (isTypedInto(document.activeElement) && !(event.altKey && document.activeElement instanceof HTMLInputElement)) return
    event.preventDefault()
    if (event.shiftKey) redo()
    else undo()
  })
  offerCommands(() =>
    !line.value || !mayDraft.value
      ? []
      : [
          { name: 'Undo the last edit', keys: 'Ctrl Z', does: undo },
          { name: 'Redo it', keys: 'Ctrl Shift Z', does: redo },
          ...CLAUSES.map((clause) => ({ name: `Open clause ${clause}, ${CLAUSE_NAMES[clause]}`, does: () => does.go(clause) })),
          { name: 'List what preflight says', does: does.list },
          ...(mayLive.value && !line.value.template ? [{ name: 'Put this line live …', does: does.confirm }] : [])
        ]
  )
}
