<script setup lang="ts">
import { computed, ref } from 'vue'
import { restrictionWords } from '@tin-harbor/core/buying'
import type { Sieve, SieveStep } from '@tin-harbor/core/forecast'
import { STEP_WORDS } from '@tin-harbor/core/wording'
import { DIMENSIONS, dimensionTitle, type Dimension } from '@tin-harbor/core/dimensions'
import TermNote from './TermNote.vue'
import { about, cpm } from '@/composables/formats'

export interface SieveTableProps {
  sieve: Sieve
  disabled: boolean
}
const props = defineProps<SieveTableProps>()
const emit = defineEmits<{ lift: [step: SieveStep]; reorder: [from: number, to: number]; restrict: [dimension: Dimension] }>()

/** The row that is dragged, by its place; hours stay last. */
const dragged = ref<number | null>(null)
const isMovable = (place: number) => !props.disabled && typeof props.sieve.steps[place]?.restriction === 'object'
function onDrop(place: number) {
  const from = dragged.value
  dragged.value = null
  if (from !== null && from !== place && isMovable(place)) emit('reorder', from, place)
}
/** Dimensions that nothing is sifted by yet. */
const more = computed(() =>
  DIMENSIONS.filter(
    (dimension) => !props.sieve.steps.some(({ restriction }) => typeof restriction !== 'string' && restriction.dimension === dimension)
  )
)
function onRestrict(event: Event) {
  const select = event.target as HTMLSelectElement
  if (select.value !== '') emit('restrict', select.value as Dimension)
  select.value = ''
}

const rows = computed(() =>
  props.sieve.steps.map((step, n) => {
    const before = n === 0 ? props.sieve.all : props.sieve.steps[n - 1].left
    const { restriction } = step
    const name = typeof restriction === 'string' ? restriction : dimensionTitle(restriction.dimension)
    const words = typeof restriction === 'string' ? STEP_WORDS[restriction] : restrictionWords(restriction)
    return {
      step,
      name,
      words,
      share: before > 0 ? step.left / before : 0,
      width: props.sieve.all > 0 ? `${Math.max(0.5, (100 * step.left) / props.sieve.all)}%` : '0',
      empties: props.sieve.emptiedBy === n
    }
  })
)
</script>

<template>
  <section class="SieveTable" aria-label="Sieve" data-test="sieve">
    <h3><TermNote of="sieve" words="What each restriction leaves, a day" /></h3>
    <table class="panel-table">
      <thead>
        <tr>
          <th scope="col">restriction</th>
          <th scope="col">left</th>
          <th scope="col">price</th>
          <th scope="col">if lifted</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">all slots that fit<i style="width: 100%" /></th>
          <td>{{ about(sieve.all) }}</td>
          <td>{{ cpm(sieve.allPrice) }}</td>
          <td />
        </tr>
        <tr
          v-for="(row, n) in rows"
          :key="row.name + row.words"
          :class="{ 'is-empty': row.step.left === 0, 'is-dragged': dragged === n }"
          :draggable="isMovable(n)"
          @dragstart="dragged = n"
          @dragend="dragged = null"
          @dragover.prevent
          @drop.prevent="onDrop(n)">
          <th scope="row">
            <b>{{ row.name }}</b> {{ row.words }}<em v-if="row.empties"> leaves nothing</em><i :style="{ width: row.width }" />
          </th>
          <td>{{ about(row.step.left) }}</td>
          <td>{{ row.step.left > 0 ? cpm(row.step.price) : '–' }}</td>
          <td>
            <button
              v-if="!disabled && row.step.lifted > 0 && row.step.restriction !== 'ads'"
              class="plain"
              type="button"
              :title="`${about(row.step.lifted)} more a day, at a median of ${cpm(row.step.liftedPrice)}. Undo brings it back.`"
              :aria-label="`Lift ${row.name}: ${about(row.step.lifted)} more a day`"
              @click="$emit('lift', row.step)">
              +{{ about(row.step.lifted) }}
            </button>
            <span v-else>{{ row.step.lifted > 0 ? `+${about(row.step.lifted)}` : 'none' }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!disabled" class="SieveTable-more">
      <select aria-label="Restrict by" data-test="sieve-set" @change="onRestrict">
        <option value="" selected>restrict by …</option>
        <option v-for="dimension in more" :key="dimension" :value="dimension">{{ dimensionTitle(dimension) }}</option>
      </select>
      <span class="quiet">rows are dragged into another order</span>
    </p>
  </section>
</template>

<style>
.SieveTable tbody tr {
  border-top: 1px solid var(--rule-2);
}

.SieveTable tbody th {
  max-width: 168px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.SieveTable tr[draggable='true'] {
  cursor: grab;
}

.SieveTable .is-dragged {
  opacity: 0.4;
}

.SieveTable-more {
  display: flex;
  gap: 12px;
  margin-top: 5px;
  font-size: 11.5px;
}

.SieveTable .is-empty td,
.SieveTable em {
  color: var(--hull);
  font-style: normal;
  font-weight: 600;
}
</style>
