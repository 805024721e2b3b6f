<script setup lang="ts">
import { onMounted, shallowRef } from 'vue'
import type { ToldView } from '@tin-harbor/core/contract'
import { money } from '@/composables/formats'
import { useAttempt } from '@/composables/use-attempt'
import DataTable from '@/parts/DataTable.vue'
import type { TableColumn } from '@/parts/table-columns'

/** Conversions that were told, the newest first, and what became of each. */
export interface ToldTableProps {
  read: () => Promise<ToldView[]>
  label: string
}
const props = defineProps<ToldTableProps>()

const rows = shallowRef<ToldView[]>([])
const { error, isBusy, attempt } = useAttempt()
const load = () => attempt(async () => (rows.value = await props.read()))
onMounted(load)

const clock = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', second: '2-digit' })
function becameWords({ outcome, says, by, term }: ToldView): string {
  const said = outcome === 'counted' ? `counted, by a ${by ?? 'click'}` : says
  return term === null ? said : `${said}; unpaid, by its ${term}`
}
const columns: readonly TableColumn<ToldView>[] = [
  {
    id: 'told',
    label: 'told',
    width: 120,
    side: 'left',
    value: ({ toldAt }) => toldAt,
    words: ({ toldAt }) => clock.format(toldAt * 1000),
    isHead: true
  },
  { id: 'became', label: 'what became of it', least: 220, side: 'left', value: becameWords, words: becameWords },
  { id: 'value', label: 'value', width: 80, value: ({ valueMicros }) => valueMicros, words: ({ valueMicros }) => money(valueMicros) },
  { id: 'transaction', label: 'transaction', width: 120, side: 'left', value: ({ transaction }) => transaction },
  {
    id: 'line',
    label: 'line',
    width: 70,
    side: 'left',
    value: ({ line }) => line,
    words: ({ line }) => (line === null ? '' : `L-${line}`)
  },
  { id: 'click', label: 'click id', width: 150, side: 'left', value: ({ click }) => click }
]
</script>

<template>
  <div class="ToldTable">
    <p class="small">
      <button class="plain" type="button" :disabled="isBusy" data-test="look-again" @click="load">look again</button>
      <span v-if="error" class="trouble" role="alert">{{ error }}</span>
    </p>
    <DataTable
      class="ToldTable-table"
      :style="{ height: `${Math.min(220, 34 + 27 * Math.max(1, rows.length))}px` }"
      :rows="rows"
      :columns="columns"
      :row-key="({ id }) => id"
      :label="label"
      :sort="{ id: '', down: false }"
      :is-waiting="isBusy"
      none="Nothing was told yet."
      :row-class="({ outcome }) => (outcome === 'counted' || outcome === 'waits' ? '' : 'is-off')" />
  </div>
</template>

<style>
.ToldTable-table {
  min-height: 61px;
}
</style>
