import { onScopeDispose, ref, shallowRef } from 'vue'
import type { FitView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'

const LOOK_MS = 400

/** Follows something that is made to fit until it ended. @param onMade is given what was made */
export function useFit(onMade: (files: readonly number[]) => void) {
  const job = shallowRef<FitView | null>(null)
  const error = ref<string | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined

  async function look(id: number): Promise<void> {
    job.value = await api.fit(id)
    if (job.value.state === 'waits' || job.value.state === 'works') timer = setTimeout(() => void follow(id), LOOK_MS)
    else if (job.value.state === 'done') onMade(job.value.made)
    else error.value = job.value.said
  }
  const follow = (id: number) =>
    look(id).catch((failure: unknown) => {
      job.value = null
      error.value = (failure as Error).message
    })

  async function start(asked: Promise<FitView>): Promise<void> {
    error.value = null
    try {
      job.value = await asked
      await look(job.value.id)
    } catch (failure) {
      job.value = null
      error.value = failure instanceof ApiError ? (failure.issues[0]?.message ?? failure.message) : (failure as Error).message
    }
  }
  const stop = async () => {
    if (job.value) await api.stopFit(job.value.id)
  }
  onScopeDispose(() => clearTimeout(timer))
  return { job, error, start, stop }
}
