import { onScopeDispose, shallowRef } from 'vue'
import { useTimeoutFn } from '@vueuse/core'

const SAVE_AFTER_MS = 500
/** A server or a database that is away is tried again so often: nobody has to type once more to have it saved. */
const RETRY_MS = 3000
/** How often what is typed meanwhile is saved before it is given up. */
const MOST_SAVES = 5

/** `away`: the server is, and is tried again. */
export type Saving = 'saved' | 'waiting' | 'saving' | 'refused' | 'away'

/** How it stands, in words. */
export const savingWords = (saving: Saving): string => (saving === 'away' ? 'the server is away' : saving)

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

  /** Saves until all that is typed is, as often as it is typed meanwhile. @throws what was not saved, in words */
  async function saveAll(what: string): Promise<void> {
    for (let tries = 0; tries < MOST_SAVES && saving.value !== 'saved'; tries++) await save()
    if (saving.value !== 'saved') throw new Error(`${what} is not saved yet, so nothing was made of it.`)
  }

  // An edit that is still waiting must not be lost by leaving the page.
  onScopeDispose(() => saving.value === 'waiting' && void save())
  return { saving, soon, refuse, save, saveAll }
}
