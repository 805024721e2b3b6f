<script setup lang="ts">
/** An hour of the clock at which a flight begins or ends, or none: the day then counts whole. */
export interface HourFieldProps {
  modelValue: number | null
  label: string
  /** What is said for none, and before an hour. */
  none: string
  before: string
  disabled?: boolean
}
defineProps<HourFieldProps>()
defineEmits<{ 'update:modelValue': [hour: number | null] }>()

const HOURS = Array.from({ length: 23 }, (_, n) => n + 1)
const read = (event: Event) => Number((event.target as HTMLSelectElement).value) || null
</script>

<template>
  <select
    class="inline HourField"
    :aria-label="label"
    :value="modelValue ?? ''"
    :disabled="disabled"
    @change="$emit('update:modelValue', read($event))">
    <option value="">{{ none }}</option>
    <option v-for="hour in HOURS" :key="hour" :value="hour">{{ before }} {{ hour }}:00</option>
  </select>
</template>

<style>
.HourField {
  margin-left: 8px;
}
</style>
