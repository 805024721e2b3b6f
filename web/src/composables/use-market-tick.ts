import { watch } from 'vue'
import { useTimeoutFn } from '@vueuse/core'
import { useMarket } from '@/stores/market'

/** Least time between two looks while a run is under way: a year of hours must not become a year of requests. */
const EVERY_MS = 1500

/** Calls `look` when the market has moved: now and then during a run, once when it stands again, and when the database is back. */
export function useMarketTick(look: () => unknown): void {
  const market = useMarket()
  const later = useTimeoutFn(() => void look(), EVERY_MS, { immediate: false })

  watch(
    () => [market.run.hour, market.run.running] as const,
    ([, running]) => {
      if (running) {
        if (!later.isPending.value) later.start()
        return
      }
      later.stop()
      void look()
    }
  )
  watch(
    () => market.databaseAway,
    (away) => {
      if (!away) void look()
    }
  )
}
