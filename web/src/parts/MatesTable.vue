<script setup lang="ts">
import { computed } from 'vue'
import type { Together } from '@tin-harbor/core/forecast'
import { about, money, perCent } from '@/composables/formats'
import { useManifest } from '@/stores/manifest'

export interface MatesTableProps {
  together: Together
}
const props = defineProps<MatesTableProps>()
const manifest = useManifest()

/** Each line alone, and when every opportunity goes to one of them. */
const rows = computed(() =>
  props.together.lines.map(({ line, alone, together }) => ({
    name: line === null ? 'this line' : (manifest.lines.find(({ id }) => id === line)?.name ?? `line ${line}`),
    isOwn: line === null,
    alone: about(alone.wins),
    together: about(together.wins),
    kept: alone.wins > 0 ? perCent(together.wins / alone.wins) : '–',
    spend: money(together.spendMicros)
  }))
)
</script>

<template>
  <section class="MatesTable" aria-label="Beside the campaign's live lines" data-test="mates">
    <h3>Beside the campaign’s live lines, a day</h3>
    <table class="panel-table">
      <thead>
        <tr>
          <th scope="col">line, the dearest bid first in turn</th>
          <th scope="col">alone</th>
          <th scope="col">wins</th>
          <th scope="col">kept</th>
          <th scope="col">spend</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.name" :class="{ 'is-own': row.isOwn }">
          <th scope="row">{{ row.name }}</th>
          <td>{{ row.alone }}</td>
          <td>{{ row.together }}</td>
          <td>{{ row.kept }}</td>
          <td>{{ row.spend }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style>
.MatesTable .is-own th {
  font-weight: 600;
}

.MatesTable .panel-table td,
.MatesTable .panel-table thead th:not(:first-child) {
  width: 46px;
}
</style>
