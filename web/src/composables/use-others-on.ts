import { onScopeDispose, shallowRef, type ShallowRef } from 'vue'
import { useIntervalFn } from '@vueuse/core'
import { api } from '@/api'

const EVERY_MS = 12_000

/**
 * Others who have a line open; asked now and then while the page is.
 * @param onVersion is told the line's version each time
 */
export function useOthersOn(lineId: number, onVersion: (version: number) => void): ShallowRef<string[]> {
  const others = shallowRef<string[]>([])
  let isGone = false
  async function look(): Promise<void> {
    // Being told late who else is here is no trouble: the next look asks again.
    const answer = await api.here(lineId).catch(() => null)
    if (isGone || !answer) return
    others.value = answer.others
    onVersion(answer.version)
  }
  useIntervalFn(() => void look(), EVERY_MS, { immediateCallback: true })
  onScopeDispose(() => (isGone = true))
  return others
}
