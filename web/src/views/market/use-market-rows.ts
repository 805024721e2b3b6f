import { computed, ref, watch } from 'vue'
import { refDebounced } from '@vueuse/core'
import type { SurveyRowView } from '@tin-harbor/core/contract'
import type { SurveyBy } from '@tin-harbor/core/forecast'
import { withValues } from '@tin-harbor/core/targeting'
import { useSurvey } from '@/composables/use-survey'
import { orderBy } from '@/parts/table-columns'
import { useMarket } from '@/stores/market'
import { MARKET_COLUMNS, rowKey, type MarketRow } from './columns'
import { useOwnResults } from './use-own-results'
import type { MarketAddress } from './use-market-address'

const flipped = (set: ReadonlySet<number>, key: number) => new Set(set.has(key) ? [...set].filter((one) => one !== key) : [...set, key])

/** A chooser that is open counts first: the rows follow when its values stand. */
const FOLLOWS_MS = 180

/** The rows of the Market: counted on the tape, with what we had of them, unfolded, in order; and which of them are chosen. */
export function useMarketRows({ said, named, sentence, by, bidMicros, offer, sort }: MarketAddress) {
  const market = useMarket()
  const { survey, error, isAsking, ask } = useSurvey('rows')
  const groupOf = (name: SurveyBy) => survey.value?.groups.find((group) => group.by === name)?.rows ?? []
  let rowsAsked = Promise.resolve()
  const load = () =>
    (rowsAsked = ask({
      sentence: sentence.value,
      by: [...new Set<SurveyBy>([by.value, 'country', 'region'])],
      without: null,
      bidMicros: bidMicros.value,
      offer: offer.value?.id ?? null
    }))
  const follows = refDebounced(said, FOLLOWS_MS)
  watch([by, bidMicros, offer, follows, () => market.tapeReady], load, { immediate: true })

  const own = useOwnResults({ by, sentence }, follows, () => rowsAsked)

  const chosen = ref<ReadonlySet<string>>(new Set())
  const unfolded = ref<ReadonlySet<number>>(new Set())
  watch([said, by], () => {
    chosen.value = new Set()
    unfolded.value = new Set()
  })

  const { survey: folded, error: foldError, ask: askFolded } = useSurvey('fold')
  watch([unfolded, bidMicros, offer], () => {
    const properties = groupOf('property').flatMap(({ key, code }) => (code !== undefined && unfolded.value.has(key) ? [code] : []))
    if (properties.length > 0)
      void askFolded({
        sentence: { ...sentence.value, targeting: withValues(sentence.value.targeting, 'property', 'include', properties) },
        by: ['placement'],
        without: null,
        bidMicros: bidMicros.value,
        offer: offer.value?.id ?? null
      })
  })

  const rowOf = (row: SurveyRowView): MarketRow => ({
    ...row,
    own: own.value.get(row.key) ?? null,
    payoutMicros: offer.value?.payoutMicros ?? null
  })
  const placements = computed(() =>
    (folded.value?.groups[0].rows ?? []).map((row): MarketRow => ({ ...rowOf(row), own: null, isPlacement: true }))
  )
  const order = computed(() => {
    const byColumn = orderBy<MarketRow>(
      MARKET_COLUMNS.find((one) => one.id === sort.value.id) ?? { value: (row) => row.label },
      sort.value.down
    )
    return (a: MarketRow, b: MarketRow) => byColumn(a, b) || a.key - b.key
  })
  const all = computed(() => groupOf(by.value).map(rowOf).sort(order.value))
  const rows = computed<MarketRow[]>(() => {
    const wanted = named.value.trim().toLowerCase()
    const isNamed = (row: MarketRow) => `${row.label} ${row.about ?? ''} ${row.publisher ?? ''}`.toLowerCase().includes(wanted)
    const under = (property: string | undefined) => placements.value.filter((one) => one.property === property).sort(order.value)
    return all.value
      .filter(isNamed)
      .flatMap((row) => [row, ...(by.value === 'property' && unfolded.value.has(row.key) ? under(row.code) : [])])
  })

  /** Rows of one kind are chosen: those of the table, or placements under them. */
  const isOfPlacements = computed(() => [...chosen.value].some((key) => key.startsWith('p')))
  function choose(keys: readonly string[], isIn: boolean): void {
    const isOther = keys.some((key) => key.startsWith('p')) !== isOfPlacements.value
    const next = new Set(isOther ? [] : chosen.value)
    for (const key of keys) {
      if (isIn) next.add(key)
      else next.delete(key)
    }
    chosen.value = next
  }
  const choosable = computed(() => rows.value.filter((row) => (row.isPlacement ?? false) === isOfPlacements.value))

  return {
    survey,
    error: computed(() => error.value ?? foldError.value),
    isAsking,
    load,
    groupOf,
    rows,
    chosen,
    unfolded,
    /** Also those that a search has hidden since. */
    chosenRows: computed(() => [...all.value, ...placements.value].filter((row) => chosen.value.has(rowKey(row)))),
    chosenBy: computed<SurveyBy>(() => (isOfPlacements.value ? 'placement' : by.value)),
    choosable,
    choose,
    chooseAll: () => choose(choosable.value.map(rowKey), true),
    chooseNone: () => (chosen.value = new Set()),
    unfold: (key: number) => (unfolded.value = flipped(unfolded.value, key))
  }
}
