import { computed, onScopeDispose, shallowRef, type Ref } from 'vue'
import { useTimeoutFn } from '@vueuse/core'
import type { LineDraft, FixableFinding } from '@tin-harbor/core/buying'
import type { Advised, MainFigures } from '@tin-harbor/core/forecast'
import { forecastFindings } from '@tin-harbor/core/preflight'
import { ApiError, api, isAbort } from '@/api'

const AFTER_MS = 250

/** Findings of a draft as it is edited: what the server says of it, and what its forecast says. */
export function usePreflight(lineId: number, draft: Ref<LineDraft | null>, figures: Ref<MainFigures | null>, advised: Ref<Advised | null>) {
  const said = shallowRef<FixableFinding[]>([])
  let asking: AbortController | null = null

  const { start: check } = useTimeoutFn(() => void ask(), AFTER_MS, { immediate: false })
  async function ask(): Promise<void> {
    if (!draft.value) return
    asking?.abort()
    const own = (asking = new AbortController())
    try {
      const { findings } = await api.preflight(lineId, draft.value, { signal: own.signal })
      if (own === asking) said.value = findings
    } catch (error) {
      // Fields that are wrong are told by the form; findings stay those of the last draft that could be read.
      if (!isAbort(error) && !(error instanceof ApiError)) throw error
    }
  }
  onScopeDispose(() => asking?.abort())
  const findings = computed(() =>
    [...said.value, ...(draft.value ? forecastFindings(draft.value, figures.value, advised.value?.advice ?? null) : [])].sort(
      (a, b) => Number(a.severity === 'warns') - Number(b.severity === 'warns')
    )
  )
  return { findings, check }
}
