<script setup lang="ts">
import { ElInputNumber } from 'element-plus'
import 'element-plus/theme-chalk/el-input-number.css'
import FieldRow from '@/parts/FieldRow.vue'

/** A number with what it is of after it. */
export interface NumberFieldProps {
  id: string
  label: string
  value: number | undefined
  least: number
  most: number
  precision?: number
  after: string
  disabled: boolean
  problem?: string
}
defineProps<NumberFieldProps>()
defineEmits<{ change: [value: number | null] }>()
</script>

<template>
  <FieldRow :label="label" :for="id" :problem="problem">
    <ElInputNumber
      :id="id"
      class="NumberField"
      :model-value="value"
      :min="least"
      :max="most"
      :precision="precision"
      :controls="false"
      :disabled="disabled"
      @update:model-value="(next) => $emit('change', next ?? null)" />
    <span class="quiet small FieldRow-beside">{{ after }}</span>
  </FieldRow>
</template>

<style>
.NumberField.el-input-number {
  width: 76px;
}
</style>
