import type { Ref } from 'vue'
import { onBeforeRouteLeave } from 'vue-router'
import { useEventListener } from '@vueuse/core'
import type { Saving } from '@/composables/use-saving'

const LOSES = 'The last edit is not saved. Leave and lose it?'

/** Leaving saves first; what cannot be saved is not lost without being asked. */
export function useLeaveGuard({ saving, save }: { saving: Ref<Saving>; save: () => Promise<void> }): void {
  onBeforeRouteLeave(async () => {
    await save()
    return (saving.value !== 'refused' && saving.value !== 'away') || window.confirm(LOSES)
  })
  // Closing the window asks too.
  useEventListener(window, 'beforeunload', (event) => {
    if (saving.value !== 'saved') event.preventDefault()
  })
}
