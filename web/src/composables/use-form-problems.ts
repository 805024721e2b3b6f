import { ref } from 'vue'
import { InputError } from '@tin-harbor/core/buying'
import { ApiError } from '@/api'

/** A form that is sent as a whole: what is wrong with its fields, by their names, and whether it is under way. */
export function useFormProblems() {
  const isBusy = ref(false)
  const problems = ref<Record<string, string>>({})
  /** What could not be read at all in a field. */
  const unreadable = ref<Record<string, string>>({})
  const problem = (field: string): string | undefined => unreadable.value[field] ?? problems.value[field]

  function onProblem(field: string, message: string | null): void {
    const { [field]: _, ...others } = unreadable.value
    unreadable.value = message === null ? others : { ...others, [field]: message }
  }
  /**
   * @param prefix that the server puts before the fields of what was sent
   * @param onStale called where what was sent was changed meanwhile: it is to be read anew
   */
  async function submit(send: () => Promise<void>, prefix = '', onStale: () => void = () => undefined): Promise<void> {
    problems.value = {}
    if (Object.keys(unreadable.value).length > 0) return
    isBusy.value = true
    try {
      await send()
    } catch (error) {
      if (!(error instanceof InputError) && !(error instanceof ApiError)) throw error
      if (error instanceof ApiError && error.code === 'stale') onStale()
      const bare = (field: string) => (prefix !== '' && field.startsWith(`${prefix}.`) ? field.slice(prefix.length + 1) : field)
      problems.value =
        error.issues.length > 0
          ? Object.fromEntries(error.issues.map(({ field, message }) => [bare(field), message]))
          : { '': error.message }
    } finally {
      isBusy.value = false
    }
  }
  return { isBusy, problem, onProblem, submit }
}
