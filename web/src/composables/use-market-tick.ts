import { watch } from 'vue'
import { useTimeoutFn } from '@vueuse/core'
import { useMarket } from '@/stores/market'

/** Least time between two looks while a run is under way: a year of hours must not become a year of requests. */
const EVERY_MS = 1500

/**
 * Calls `look` when the market has moved: now and then during a run, once when it stands again, and when the database is back.
 * @param look is told whether the clock was known before, or has only now been read
 */
export function useMarketTick(look: (wasKnown: boolean) => unknown): void {
  const market = useMarket()
  const later = useTimeoutFn(() => void look(true), EVERY_MS, { immediate: false })

  watch(
    () => [market.run.hour, market.run.running, market.isKnown] as const,
    ([, running], [, , wasKnown]) => {
      if (running) {
        if (!later.isPending.value) later.start()
        return
      }
      later.stop()
      void look(wasKnown)
    }
  )
  watch(
    () => market.databaseAway,
    (away) => {
      if (!away) void look(true)
    }
  )
}
