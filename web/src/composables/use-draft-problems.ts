import { computed, ref } from 'vue'
import { InputError, lineSchema, parseInput, type FieldIssue, type LineDraft } from '@tin-harbor/core/buying'
import type { ApiError } from '@/api'

const byField = (issues: readonly FieldIssue[]) => Object.fromEntries(issues.map(({ field, message }) => [field, message]))

/** What is wrong with a draft, by field; '' for what belongs to none. */
export function useDraftProblems() {
  const found = ref<Record<string, string>>({})
  /** Amounts that could not be read at all, by field. */
  const unreadable = ref<Record<string, string>>({})
  const problems = computed<Record<string, string>>(() => ({ ...found.value, ...unreadable.value }))
  const isValid = computed(() => Object.keys(problems.value).length === 0)

  /** Looks at a draft by its schema; returns whether nothing is wrong. */
  function check(draft: LineDraft | null): boolean {
    try {
      parseInput(lineSchema, draft)
      found.value = {}
    } catch (error) {
      if (!(error instanceof InputError)) throw error
      found.value = byField(error.issues)
    }
    return isValid.value
  }

  /** Takes over why the server refused a draft. */
  function refused({ issues, message }: ApiError): void {
    found.value = issues.length > 0 ? byField(issues) : { '': message }
  }

  function clear(): void {
    found.value = {}
  }

  return { problems, unreadable, isValid, check, refused, clear }
}
