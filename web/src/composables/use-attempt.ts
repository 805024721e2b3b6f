import { ref } from 'vue'
import { ApiError } from '@/api'

/** Something that is asked of the server by a click: whether it is under way, and what stood in its way last. */
export function useAttempt() {
  const isBusy = ref(false)
  const error = ref<string | null>(null)
  /** All that is wrong, where fields were refused. */
  const messages = ref<string[]>([])
  /** @returns whether it was done */
  async function attempt(what: () => Promise<unknown>): Promise<boolean> {
    isBusy.value = true
    error.value = null
    messages.value = []
    try {
      await what()
    } catch (failure) {
      error.value = (failure as Error).message
      messages.value = failure instanceof ApiError ? failure.messages : [error.value]
    } finally {
      isBusy.value = false
    }
    return error.value === null
  }
  return { isBusy, error, messages, attempt }
}
