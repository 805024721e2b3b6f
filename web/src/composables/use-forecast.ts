import { onScopeDispose, shallowRef, type ShallowRef } from 'vue'
import { useTimeoutFn } from '@vueuse/core'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { ForecastLine } from '@tin-harbor/core/contract'
import type { Advised, Breakdowns, GoalMeasure, Ladder, MainFigures, Sieve, Together } from '@tin-harbor/core/forecast'
import { ApiError, api, isAbort } from '@/api'

/** Time that typing is given before a question goes out. */
const SETTLE_MS = 25

export interface ForecastState {
  figures: ShallowRef<MainFigures | null>
  /** The answer before the last change, for saying what a figure was. */
  was: ShallowRef<MainFigures | null>
  ladder: ShallowRef<Ladder | null>
  sieve: ShallowRef<Sieve | null>
  breakdowns: ShallowRef<Breakdowns | null>
  /** Null until the newest question's is known: an older one's changes must not be offered. */
  advised: ShallowRef<Advised | null>
  /** What the campaign's goal is measured in, in which advice is ordered. */
  measure: ShallowRef<GoalMeasure>
  /** What the campaign's live lines win together; null where there are none. */
  together: ShallowRef<Together | null>
  isAsking: ShallowRef<boolean>
  error: ShallowRef<string | null>
  ask: (campaignId: number, lineId: number | null, draft: LineDraft) => void
}

/** Follows a draft with forecasts. An older answer never replaces a newer one: each part carries its question's number. */
export function useForecast(): ForecastState {
  const figures = shallowRef<MainFigures | null>(null)
  const was = shallowRef<MainFigures | null>(null)
  const ladder = shallowRef<Ladder | null>(null)
  const sieve = shallowRef<Sieve | null>(null)
  const breakdowns = shallowRef<Breakdowns | null>(null)
  const advised = shallowRef<Advised | null>(null)
  const together = shallowRef<Together | null>(null)
  const measure = shallowRef<GoalMeasure>('wins')
  const isAsking = shallowRef(false)
  const error = shallowRef<string | null>(null)
  let number = 0
  let shown = 0
  let asking: AbortController | null = null

  function take(line: ForecastLine): void {
    // A part of an older question may still be on its way when a newer one has been answered.
    if (line.number < shown) return
    if (line.part === 'error') throw new ApiError(500, line.code, line.message)
    if (line.part === 'figures') {
      if (line.number > shown) was.value = figures.value
      shown = line.number
      figures.value = line.figures
      error.value = null
      performance.mark(`forecast-${line.number}`)
    }
    if (line.number !== number) return
    if (line.part === 'ladder') ladder.value = line.ladder
    if (line.part === 'sieve') {
      sieve.value = line.sieve
      performance.mark(`forecast-sieve-${line.number}`)
    }
    if (line.part === 'breakdowns') breakdowns.value = line.breakdowns
    if (line.part === 'advice') {
      const { advice, possible } = line
      advised.value = { advice, possible }
      measure.value = line.measure
    }
    if (line.part === 'together') together.value = line.together
  }

  async function send(campaignId: number, lineId: number | null, draft: LineDraft, mine: number): Promise<void> {
    asking?.abort()
    asking = new AbortController()
    try {
      await api.forecast(campaignId, lineId, draft, mine, take, { signal: asking.signal })
    } catch (failure) {
      if (mine === number && !isAbort(failure)) error.value = (failure as Error).message
    } finally {
      if (mine === number) isAsking.value = false
    }
  }

  const settled = useTimeoutFn(send, SETTLE_MS, { immediate: false })
  function ask(campaignId: number, lineId: number | null, draft: LineDraft): void {
    const mine = ++number
    const frozen = JSON.parse(JSON.stringify(draft)) as LineDraft
    isAsking.value = true
    advised.value = null
    together.value = null
    settled.start(campaignId, lineId, frozen, mine)
  }

  onScopeDispose(() => asking?.abort())
  return { figures, was, ladder, sieve, breakdowns, advised, measure, together, isAsking, error, ask }
}
