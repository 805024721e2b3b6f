<script setup lang="ts">
import { computed } from 'vue'
import { LIST_KINDS, type ListKind } from '@tin-harbor/core/buying'
import type { SurveyBy } from '@tin-harbor/core/forecast'
import { count } from '@/composables/formats'
import PutOnList from '@/parts/PutOnList.vue'
import { useSession } from '@/stores/session'
import { phraseFor, valuesOfRows } from './restrict'
import type { MarketRow } from './columns'

/** What can be done with the rows that are chosen. */
export interface ChosenRowsProps {
  rows: readonly MarketRow[]
  /** What they are rows of. */
  by: SurveyBy
  /** How many there are to choose from. */
  all: number
}
const props = defineProps<ChosenRowsProps>()
defineEmits<{ start: []; 'to-line': []; only: [mode: 'include' | 'exclude']; compare: []; all: []; none: [] }>()
const session = useSession()
const mayDraft = computed(() => session.may('draft'))

/** The kind of list that takes rows like these; null where none does. */
const kind = computed(() => {
  const phrase = phraseFor(props.by)
  const found = (Object.keys(LIST_KINDS) as ListKind[]).find((one) => LIST_KINDS[one] === phrase)
  return found ?? null
})
const publishers = computed(() => [
  ...new Set(props.rows.flatMap((row) => (props.by === 'publisher' ? [row.label] : (row.publisher ?? []))))
])
const isRestricting = computed(() => phraseFor(props.by) !== null)
/** Deals that stand can be bought by; what is only offered is taken first. */
const standing = computed(() => props.by === 'deal' && props.rows.every((row) => row.key > 0))
</script>

<template>
  <b>{{ count(rows.length) }}</b> chosen:
  <button v-if="rows.length < all" class="plain" type="button" data-test="choose-all" @click="$emit('all')">all {{ count(all) }}</button>
  <button v-if="mayDraft && (isRestricting || standing)" class="plain" type="button" data-test="start-line" @click="$emit('start')">
    start a line on {{ rows.length === 1 ? 'it' : 'them' }}
  </button>
  <button v-if="mayDraft && isRestricting && by !== 'format'" class="plain" type="button" data-test="into-line" @click="$emit('to-line')">
    into a line, or bid apart
  </button>
  <template v-if="isRestricting">
    <button class="plain" type="button" @click="$emit('only', 'include')">only these</button>
    <button v-if="by !== 'format'" class="plain" type="button" @click="$emit('only', 'exclude')">leave them out</button>
  </template>
  <button v-if="rows.length > 1 && by !== 'deal'" class="plain" type="button" data-test="compare" @click="$emit('compare')">compare</button>
  <PutOnList v-if="kind && mayDraft" :kind="kind" :values="valuesOfRows(by, rows)" />
  <RouterLink v-if="mayDraft && publishers.length === 1" :to="{ name: 'deals', query: { ask: publishers[0] } }" data-test="ask-deal"
    >ask {{ publishers[0] }} for a deal</RouterLink
  >
  <RouterLink v-if="by === 'deal' && !standing" :to="{ name: 'deals', query: { offered: rows[0].label } }">see what is offered</RouterLink>
  <button class="plain" type="button" @click="$emit('none')">none</button>
</template>
