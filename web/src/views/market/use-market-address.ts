import { computed, onMounted, shallowRef } from 'vue'
import { EVERYTHING } from '@tin-harbor/core/buying'
import type { OfferView } from '@tin-harbor/core/contract'
import type { Sentence, SurveyBy } from '@tin-harbor/core/forecast'
import { api } from '@/api'
import { useAddress } from '@/composables/use-address'
import type { TableSort } from '@/parts/table-columns'
import { MARKET_COLUMNS, isOfOffer } from './columns'
import { readBid, readSentence } from './read-sentence'

/** Rows that a trader can choose, and how they are called. */
export const ROWS: readonly { by: SurveyBy; words: string }[] = [
  { by: 'property', words: 'properties' },
  { by: 'placement', words: 'placements' },
  { by: 'country', words: 'countries' },
  { by: 'region', words: 'regions' },
  { by: 'format', words: 'formats' },
  { by: 'device', words: 'devices' },
  { by: 'system', words: 'systems' },
  { by: 'carrier', words: 'carriers' },
  { by: 'language', words: 'languages' },
  { by: 'branch of content', words: 'branches of content' },
  { by: 'category', words: 'categories' },
  { by: 'source', words: 'sources' },
  { by: 'deal', words: 'deals' },
  { by: 'size', words: 'sizes' },
  { by: 'publisher', words: 'publishers' }
]

/** Compared rows that are drawn side by side. */
export const MOST_DRAWN = 4
const keysOf = (text: string) => (text ? text.split(',').map(Number) : [])

/** Columns that stand back for what an offer says, unless they are asked for. */
const GIVES_WAY = new Set(['people', 'mean'])

/** What the Market shows is in its address, so that a link shows the same: read from there, and written there. */
export function useMarketAddress() {
  const address = useAddress()
  const part = {
    said: address.part('said'),
    rows: address.part('rows'),
    sort: address.part('sort'),
    bid: address.part('bid'),
    named: address.part('named'),
    columns: address.part('columns'),
    offer: address.part('offer'),
    compare: address.part('compare'),
    drawn: address.part('drawn')
  }

  const read = computed(() => readSentence(part.said.value))
  const setSentence = (next: Sentence) => {
    const said = JSON.stringify(next)
    part.said.value = said === JSON.stringify(EVERYTHING) ? '' : said
  }

  const offers = shallowRef<OfferView[]>([])
  onMounted(async () => (offers.value = (await api.offers().catch(() => null))?.offers ?? []))
  const offer = computed(() => offers.value.find((one) => one.id === Number(part.offer.value)) ?? null)

  const columns = computed(() => {
    const ids = part.columns.value
      ? part.columns.value.split(',')
      : MARKET_COLUMNS.filter((column) => !column.hidden && (offer.value === null || !GIVES_WAY.has(column.id))).map((column) => column.id)
    return MARKET_COLUMNS.filter((column) => (isOfOffer(column) ? offer.value !== null : ids.includes(column.id)))
  })
  function flipColumn(id: string) {
    const ids = columns.value.map((column) => column.id)
    part.columns.value = (ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id]).join(',')
  }

  const sort = computed<TableSort>(() => {
    const [id, way] = (part.sort.value || 'day.down').split('.')
    return { id, down: way !== 'up' }
  })
  const setSort = ({ id, down }: TableSort) => (part.sort.value = `${id}.${down ? 'down' : 'up'}`)

  return {
    said: part.said,
    named: part.named,
    sentence: computed(() => read.value.sentence),
    spoilt: computed(() => read.value.spoilt),
    setSentence,
    by: computed<SurveyBy>(() => ROWS.find((row) => row.by === part.rows.value)?.by ?? 'property'),
    setBy: (by: string) => (part.rows.value = by),
    bid: part.bid,
    bidMicros: computed(() => readBid(part.bid.value)),
    setBid: (micros: number | null) => (part.bid.value = micros && micros > 0 ? String(micros) : ''),
    offers,
    offer,
    offerId: part.offer,
    columns,
    flipColumn,
    sort,
    setSort,
    comparing: computed(() => keysOf(part.compare.value)),
    compare(keys: readonly number[]): void {
      part.compare.value = keys.join(',')
      part.drawn.value = ''
    },
    /** Of those compared, which are drawn. */
    drawn: computed(() => (part.drawn.value ? keysOf(part.drawn.value) : keysOf(part.compare.value)).slice(0, MOST_DRAWN)),
    draw: (keys: readonly number[]) => (part.drawn.value = keys.join(','))
  }
}
export type MarketAddress = ReturnType<typeof useMarketAddress>
