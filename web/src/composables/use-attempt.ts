import { ref } from 'vue'

/** Something that is asked of the server by a click: whether it is under way, and what stood in its way last. */
export function useAttempt() {
  const isBusy = ref(false)
  const error = ref<string | null>(null)
  /** @returns whether it was done */
  async function attempt(what: () => Promise<unknown>): Promise<boolean> {
    isBusy.value = true
    error.value = null
    try {
      await what()
    } catch (failure) {
      error.value = (failure as Error).message
    } finally {
      isBusy.value = false
    }
    return error.value === null
  }
  return { isBusy, error, attempt }
}
