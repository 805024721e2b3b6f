import { onScopeDispose, shallowRef, type ShallowRef } from 'vue'
import type { SurveyView } from '@tin-harbor/core/contract'
import { ApiError, api, isAbort } from '@/api'

type Question = Parameters<typeof api.survey>[1]

/** Names each asker: one part of a page never gives up what another asked. */
let askers = 0
/** How often an answer is asked for again that the server gave up for an older question, which reached it later. */
const TRIES = 3

/** Asks for surveys; an older answer never replaces a newer one. */
export function useSurvey(part: string): {
  survey: ShallowRef<SurveyView | null>
  error: ShallowRef<string | null>
  isAsking: ShallowRef<boolean>
  ask: (question: Question) => Promise<void>
  /** Takes an answer that is there already in place of what is asked. */
  take: (answer: SurveyView) => void
} {
  const survey = shallowRef<SurveyView | null>(null)
  const error = shallowRef<string | null>(null)
  const isAsking = shallowRef(false)
  let asking: AbortController | null = null
  const name = `${++askers}-${part}`

  async function ask(question: Question, tries = TRIES): Promise<void> {
    asking?.abort()
    const own = (asking = new AbortController())
    isAsking.value = true
    try {
      const answer = await api.survey(name, question, { signal: own.signal })
      if (own !== asking) return
      survey.value = answer
      error.value = null
    } catch (failure) {
      if (own !== asking) return
      // We asked nothing newer: an older question of ours came late, and must not be what is left unanswered.
      const isGivenUp = failure instanceof ApiError && failure.code === 'superseded'
      if (isGivenUp && tries > 1) return await ask(question, tries - 1)
      if (isAbort(failure) && !isGivenUp) return
      error.value = (failure as Error).message
    } finally {
      if (own === asking) isAsking.value = false
    }
  }
  function take(answer: SurveyView): void {
    asking?.abort()
    asking = null
    isAsking.value = false
    error.value = null
    survey.value = answer
  }
  onScopeDispose(() => asking?.abort())
  return { survey, error, isAsking, ask, take }
}
