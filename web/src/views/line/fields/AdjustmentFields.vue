<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { valueWords } from '@tin-harbor/core/buying'
import { CITIES, COUNTRIES, METROS, REGIONS, cityCode, metroCode } from '@tin-harbor/core/places'
import { DIMENSIONS, DIMENSION_KINDS, dimensionTitle, type Dimension } from '@tin-harbor/core/dimensions'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'
import MoneyField from '@/parts/MoneyField.vue'

/** Multipliers and prices of their own by any value, whether or not the line is restricted to it. */
const { draft, disabled, change, onProblem } = useLineEdit()
const { problemUnder } = useFieldProblems()
const adjustments = computed(() => draft.value.price.adjustments ?? [])
const dimension = ref<Dimension>('device')
const value = ref('')

/** Values that can be listed; others are typed. */
const options = computed(() => {
  if (dimension.value === 'where')
    return [...COUNTRIES.map(({ code }) => code), ...REGIONS.map(({ code }) => code), ...METROS.map(metroCode), ...CITIES.map(cityCode)]
  return [...(DIMENSION_KINDS[dimension.value].values ?? [])]
})
const isKnown = computed(() => value.value !== '' && DIMENSION_KINDS[dimension.value].isKnown(value.value))
function add() {
  if (!isKnown.value) return
  change(
    (d) =>
      (d.price.adjustments = [
        ...(d.price.adjustments ?? []),
        { dimension: dimension.value, value: value.value, perMille: 1000, ownMicros: null }
      ])
  )
  value.value = ''
}
const edit = (n: number, over: { perMille: number | null; ownMicros: number | null }) =>
  change((d) => (d.price.adjustments = d.price.adjustments?.map((one, place) => (place === n ? { ...one, ...over } : one))))
const remove = (n: number) => change((d) => (d.price.adjustments = d.price.adjustments?.filter((_, place) => place !== n)))
</script>

<template>
  <FieldRow class="AdjustmentFields" label="Adjustments" :problem="problemUnder('price.adjustments')">
    <p v-for="(one, n) in adjustments" :key="n">
      <span
        >{{ valueWords(one.dimension, one.value) }} <small class="quiet">{{ dimensionTitle(one.dimension) }}</small></span
      >
      <template v-if="one.perMille !== null">
        <ElInputNumber
          :model-value="one.perMille / 10 - 100"
          :min="-100"
          :max="900"
          :precision="1"
          :controls="false"
          :disabled="disabled"
          :aria-label="`${valueWords(one.dimension, one.value)}: per cent more or less`"
          @update:model-value="(share) => edit(n, { perMille: Math.round(((share ?? 0) + 100) * 10), ownMicros: null })" />
        %
        <button
          v-if="!disabled"
          class="plain"
          type="button"
          @click="edit(n, { perMille: null, ownMicros: draft.price.bidMicros ?? 1_000_000 })">
          own price instead
        </button>
      </template>
      <template v-else>
        <MoneyField
          :id="`line-own-${n}`"
          :label="`${valueWords(one.dimension, one.value)}: own price`"
          :model-value="one.ownMicros"
          :disabled="disabled"
          @problem="onProblem(`price.adjustments[${n}].ownMicros`, $event)"
          @update:model-value="(micros) => micros !== null && edit(n, { perMille: null, ownMicros: micros })" />
        <button v-if="!disabled" class="plain" type="button" @click="edit(n, { perMille: 1000, ownMicros: null })">
          multiplier instead
        </button>
      </template>
      <button
        v-if="!disabled"
        class="plain"
        type="button"
        :aria-label="`Take the adjustment for ${valueWords(one.dimension, one.value)} away`"
        @click="remove(n)">
        ✕
      </button>
    </p>
    <p v-if="!disabled" class="AdjustmentFields-new">
      <ElSelect v-model="dimension" filterable aria-label="Adjust by" @change="value = ''"
        ><ElOption v-for="name in DIMENSIONS" :key="name" :value="name" :label="name"
      /></ElSelect>
      <ElSelect
        v-model="value"
        filterable
        :allow-create="options.length === 0"
        :aria-label="`Which ${dimensionTitle(dimension)}`"
        :placeholder="options.length === 0 ? `type a ${DIMENSION_KINDS[dimension].noun}` : `which ${dimensionTitle(dimension)}`"
        ><ElOption v-for="one in options" :key="one" :value="one" :label="valueWords(dimension, one)"
      /></ElSelect>
      <button class="plain" type="button" :disabled="!isKnown" data-test="add-adjustment" @click="add">Add</button>
    </p>
  </FieldRow>
</template>

<style>
.AdjustmentFields p {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 3px;
}

.AdjustmentFields p > span:first-child {
  min-width: 130px;
}

.AdjustmentFields .el-input-number {
  width: 72px;
}

.AdjustmentFields-new .el-select {
  width: 170px;
}
</style>
