<script setup lang="ts">
import { computed } from 'vue'
import type { PropertyView, SurveyRowView } from '@tin-harbor/core/contract'
import { about, cpm, perCent } from '@/composables/formats'
import DataTable from '@/parts/DataTable.vue'
import type { TableColumn } from '@/parts/table-columns'

/** A property's placements, the largest first, with their traffic for the sentence. */
export interface PlacementsOfProps {
  placements: PropertyView['placements']
  trafficOf: (placement: string) => SurveyRowView | undefined
}
const props = defineProps<PlacementsOfProps>()
type Placement = PropertyView['placements'][number]

const columns = computed((): TableColumn<Placement>[] => {
  const ofTraffic = (pick: (row: SurveyRowView) => number, words: (value: number) => string, none: string) => {
    const value = ({ placement }: Placement) => {
      const row = props.trafficOf(placement)
      return row ? pick(row) : null
    }
    return { value, words: (one: Placement) => (value(one) === null ? none : words(value(one) ?? 0)) }
  }
  return [
    { id: 'place', label: 'place', least: 150, side: 'left', value: (one) => one.position, isHead: true },
    { id: 'size', label: 'size', width: 110, side: 'left', value: (one) => one.size },
    { id: 'day', label: 'a day', width: 60, ...ofTraffic((row) => row.opportunitiesADay, about, 'none') },
    { id: 'floor', label: 'floor', width: 60, isLeastFirst: true, ...ofTraffic((row) => row.floorMicros, cpm, '') },
    { id: 'half', label: 'wins half', width: 68, isLeastFirst: true, ...ofTraffic((row) => row.halfMicros, cpm, '') },
    { id: 'viewable', label: 'viewable', width: 66, value: (one) => one.viewability, words: (one) => perCent(one.viewability) },
    { id: 'bots', label: 'robots', width: 60, isLeastFirst: true, value: (one) => one.bots, words: (one) => perCent(one.bots) },
    { id: 'grade', label: 'grade', width: 54, isLeastFirst: true, value: (one) => one.grade }
  ]
})
</script>

<template>
  <DataTable
    class="PlacementsOf"
    :rows="placements"
    :columns="columns"
    :row-key="(one) => one.placement"
    :sort="{ id: 'day', down: true }"
    label="Placements of the property" />
</template>

<style>
.PlacementsOf {
  max-height: 60vh;
}

.PlacementsOf tbody th {
  font-weight: 600;
}
</style>
