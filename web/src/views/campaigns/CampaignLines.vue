<script setup lang="ts">
import type { ManifestLine } from '@tin-harbor/core/contract'
import { money, perCent, shortDate } from '@/composables/formats'
import { useManifest } from '@/stores/manifest'
import DataTable from '@/parts/DataTable.vue'
import type { TableColumn } from '@/parts/table-columns'

/** A campaign's lines: how each stands, and what it has spent of what was due. */
export interface CampaignLinesProps {
  lines: readonly ManifestLine[]
}
defineProps<CampaignLinesProps>()

const stateOf = (line: ManifestLine) => (line.template ? 'template' : line.waits ? 'cleared, waits for release' : line.state)
const shareOf = (line: ManifestLine) => (line.dueMicros ? line.spentMicros / line.dueMicros : null)
const manifest = useManifest()
const COLUMNS: readonly TableColumn<ManifestLine>[] = [
  { id: 'line', label: 'line', least: 240, side: 'left', value: (line) => manifest.lineName(line.id), isHead: true },
  { id: 'state', label: 'state', width: 168, side: 'left', value: stateOf },
  {
    id: 'flight',
    label: 'flight',
    width: 150,
    side: 'left',
    value: (line) => line.startDate,
    words: (line) => `${shortDate(line.startDate)} ${line.endDate ? `to ${shortDate(line.endDate)}` : 'on'}`
  },
  { id: 'spent', label: 'spent', width: 90, value: (line) => line.spentMicros, words: (line) => money(line.spentMicros) },
  {
    id: 'share',
    label: 'of what was due',
    width: 108,
    value: shareOf,
    words: (line) => {
      const share = shareOf(line)
      return share === null ? '–' : perCent(share)
    }
  },
  { id: 'results', label: 'results', width: 110, isBare: true }
]
</script>

<template>
  <DataTable
    class="CampaignLines"
    :rows="lines"
    :columns="COLUMNS"
    :row-key="(line) => line.id"
    :sort="{ id: 'line', down: false }"
    label="Lines of the campaign">
    <template #cell-line="{ row }"
      ><RouterLink :to="{ name: 'line', params: { lineId: row.id } }">{{ row.name }}</RouterLink
      >{{ ' ' }}<span class="quiet small">{{ row.code }}</span></template
    >
    <template #cell-results="{ row }">
      <template v-if="row.spentMicros > 0">
        <RouterLink :to="{ name: 'results', params: { lineId: row.id } }">results</RouterLink>{{ ' '
        }}<RouterLink :to="{ name: 'trace', params: { lineId: row.id } }">trace</RouterLink>
      </template>
    </template>
  </DataTable>
</template>

<style>
.CampaignLines {
  max-height: 60vh;
  margin-bottom: 8px;
}
</style>
