import { onScopeDispose, shallowRef, type ShallowRef } from 'vue'
import type { LineDraft } from '@tin-harbor/core/buying'
import type { Forecast } from '@tin-harbor/core/forecast'
import { api, isAbort } from '@/api'

/** Time that typing is given before a question goes out. */
const SETTLE_MS = 25

export interface ForecastState {
  forecast: ShallowRef<Forecast | null>
  /** The answer before the last change, for saying what a figure was. */
  was: ShallowRef<Forecast | null>
  isAsking: ShallowRef<boolean>
  error: ShallowRef<string | null>
  ask: (campaignId: number, lineId: number | null, draft: LineDraft) => void
}

/** Follows a draft with forecasts. An older answer never replaces a newer one: each carries its question's number. */
export function useForecast(): ForecastState {
  const forecast = shallowRef<Forecast | null>(null)
  const was = shallowRef<Forecast | null>(null)
  const isAsking = shallowRef(false)
  const error = shallowRef<string | null>(null)
  let number = 0
  let shown = 0
  let timer: ReturnType<typeof setTimeout> | undefined
  let asking: AbortController | null = null

  async function send(campaignId: number, lineId: number | null, draft: LineDraft, mine: number): Promise<void> {
    asking?.abort()
    asking = new AbortController()
    try {
      const answer = await api.forecast(campaignId, lineId, draft, mine, { signal: asking.signal })
      if (answer.number < shown) return
      shown = answer.number
      was.value = forecast.value
      forecast.value = answer.forecast
      error.value = null
      performance.mark(`forecast-${mine}`)
    } catch (failure) {
      if (mine === number && !isAbort(failure)) error.value = (failure as Error).message
    } finally {
      if (mine === number) isAsking.value = false
    }
  }

  function ask(campaignId: number, lineId: number | null, draft: LineDraft): void {
    const mine = ++number
    const frozen = JSON.parse(JSON.stringify(draft)) as LineDraft
    isAsking.value = true
    clearTimeout(timer)
    timer = setTimeout(() => void send(campaignId, lineId, frozen, mine), SETTLE_MS)
  }

  onScopeDispose(() => {
    clearTimeout(timer)
    asking?.abort()
  })
  return { forecast, was, isAsking, error, ask }
}
