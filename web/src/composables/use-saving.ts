import { onScopeDispose, shallowRef } from 'vue'
import { useTimeoutFn } from '@vueuse/core'

const SAVE_AFTER_MS = 500
/** A server or a database that is away is tried again so often: nobody has to type once more to have it saved. */
const RETRY_MS = 3000

/** `away`: the server is, and is tried again. */
export type Saving = 'saved' | 'waiting' | 'saving' | 'refused' | 'away'

/**
 * When something that is edited is saved: a moment after the last edit, one after the other, again while the server is away.
 * @param attempt saves what there is, and says how it stands
 */
export function useSaving(attempt: () => Promise<Saving>) {
  const saving = shallowRef<Saving>('saved')
  let chain: Promise<void> = Promise.resolve()
  const later = useTimeoutFn(() => void save(), SAVE_AFTER_MS, { immediate: false })
  const again = useTimeoutFn(() => void save(), RETRY_MS, { immediate: false })

  function stop(): void {
    later.stop()
    again.stop()
  }
  function soon(): void {
    stop()
    saving.value = 'waiting'
    later.start()
  }
  function refuse(): void {
    stop()
    saving.value = 'refused'
  }
  async function saveNow(): Promise<void> {
    if (saving.value === 'saved') return
    saving.value = await attempt()
    if (saving.value === 'away') again.start()
  }
  function save(): Promise<void> {
    stop()
    chain = chain.then(saveNow, saveNow)
    return chain
  }

  // An edit that is still waiting must not be lost by leaving the page.
  onScopeDispose(() => saving.value === 'waiting' && void save())
  return { saving, soon, refuse, save }
}
