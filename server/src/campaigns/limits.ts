import { NO_LIMITS, type Limits } from '@tin-harbor/core/exchange'
import type { Campaign } from './campaign-model.js'

/** What a campaign allows, as the exchange and the forecast read it. */
export function limitsOf({ totalMicros, dailyMicros, longerLimits }: Campaign): Limits {
  return {
    ...NO_LIMITS,
    ...Object.fromEntries(Object.entries(longerLimits ?? {}).map(([name, value]) => [name, value ?? null])),
    totalMicros,
    dailyMicros
  }
}
