import { onScopeDispose, shallowRef, type ShallowRef } from 'vue'
import type { SurveyView } from '@tin-harbor/core/buying'
import { api, isAbort } from '@/api'

type Question = Parameters<typeof api.survey>[1]

/** Asks for surveys under one name; an older answer never replaces a newer one. */
export function useSurvey(part: string): { survey: ShallowRef<SurveyView | null>; error: ShallowRef<string | null>; isAsking: ShallowRef<boolean>; ask: (question: Question) => Promise<void> } {
  const survey = shallowRef<SurveyView | null>(null)
  const error = shallowRef<string | null>(null)
  const isAsking = shallowRef(false)
  let asking: AbortController | null = null

  async function ask(question: Question): Promise<void> {
    asking?.abort()
    const own = (asking = new AbortController())
    isAsking.value = true
    try {
      const answer = await api.survey(part, question, { signal: own.signal })
      if (own !== asking) return
      survey.value = answer
      error.value = null
    } catch (failure) {
      if (own === asking && !isAbort(failure)) error.value = (failure as Error).message
    } finally {
      if (own === asking) isAsking.value = false
    }
  }
  onScopeDispose(() => asking?.abort())
  return { survey, error, isAsking, ask }
}
