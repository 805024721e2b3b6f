import { nextTick, onScopeDispose, shallowRef, watch, type Ref, type ShallowRef } from 'vue'
import type { ReportRowView } from '@tin-harbor/core/contract'
import { dateOfDay, localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { api } from '@/api'
import { ORGANISATION_ZONE } from '@/composables/formats'
import { useMarket } from '@/stores/market'
import type { MarketAddress } from './use-market-address'

/**
 * What our lines had of the rows of the Market, as the sentence says, in the last four weeks, by the keys of the rows.
 * @param follows the sentence as the rows follow it
 * @param rowsAsked ends when the rows stand that are asked for now
 */
export function useOwnResults(
  { by, sentence }: Pick<MarketAddress, 'by' | 'sentence'>,
  follows: Readonly<Ref<string>>,
  rowsAsked: () => Promise<void>
): ShallowRef<ReadonlyMap<number, ReportRowView>> {
  const market = useMarket()
  const own = shallowRef<ReadonlyMap<number, ReportRowView>>(new Map())
  let asking: AbortController | null = null

  async function load() {
    // Given up, not only passed over: a browser has few connections to wait on.
    asking?.abort()
    const mine = (asking = new AbortController())
    own.value = new Map()
    // The rows come first: reading four weeks of ours beside them would make everybody wait for them.
    await nextTick()
    await rowsAsked()
    const rowsBy = by.value
    if (mine !== asking || rowsBy === 'deal' || market.run.hour === 0) return
    const today = localDayOf(zoneIndex(ORGANISATION_ZONE), market.run.hour - 1)
    const report = await api
      .bought({ by: rowsBy, from: dateOfDay(today - 27), to: dateOfDay(today), sentence: sentence.value }, { signal: mine.signal })
      .catch(() => null)
    if (mine === asking) own.value = new Map(report?.rows.map((row) => [row.key, row]) ?? [])
  }
  onScopeDispose(() => asking?.abort())
  watch([by, follows, () => market.run.hour > 0], load, { immediate: true })
  return own
}
