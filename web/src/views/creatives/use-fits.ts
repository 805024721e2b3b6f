import { onScopeDispose, ref } from 'vue'
import type { FitView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'

const LOOK_MS = 400

/** What is made of a file: how far it is, or why it was not. */
export interface FitRun {
  job: FitView | null
  error: string | null
}
export const isUnderWay = (run: FitRun | undefined) => run?.job?.state === 'waits' || run?.job?.state === 'works'

/**
 * Follows what is made to fit, by the file that it is made of, also while other files are looked at.
 * @param onMade is given the file, and what was made of it: nothing where it was only made playable
 */
export function useFits(onMade: (file: number, made: readonly number[]) => void) {
  const runs = ref(new Map<number, FitRun>())
  const timers = new Map<number, ReturnType<typeof setTimeout>>()

  async function follow(file: number, asked: Promise<FitView>): Promise<void> {
    try {
      const job = await asked
      runs.value.set(file, { job, error: job.state === 'failed' || job.state === 'stopped' ? job.said : null })
      if (isUnderWay(runs.value.get(file)))
        timers.set(
          file,
          setTimeout(() => void follow(file, api.fit(job.id)), LOOK_MS)
        )
      else if (job.state === 'done') onMade(file, job.made)
    } catch (failure) {
      const message = failure instanceof ApiError ? (failure.issues[0]?.message ?? failure.message) : (failure as Error).message
      runs.value.set(file, { job: null, error: message })
    }
  }
  async function stop(file: number): Promise<void> {
    const job = runs.value.get(file)?.job
    clearTimeout(timers.get(file))
    if (job) await follow(file, api.stopFit(job.id))
  }
  onScopeDispose(() => timers.forEach((timer) => clearTimeout(timer)))
  return { runs, follow, stop }
}
