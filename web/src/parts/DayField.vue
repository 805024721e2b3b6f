<script setup lang="ts">
import { ElDatePicker } from 'element-plus'
import 'element-plus/theme-chalk/el-date-picker.css'
import 'element-plus/theme-chalk/el-date-picker-panel.css'
import 'element-plus/theme-chalk/el-popper.css'
import { marketTime } from '@/composables/formats'
import { dateOfDay, dayOfHour } from '@tin-harbor/core/time'
import { useMarket } from '@/stores/market'

export interface DayFieldProps {
  id: string
  modelValue: string | null
  placeholder?: string
  disabled?: boolean
}
const props = defineProps<DayFieldProps>()
const emit = defineEmits<{ 'update:modelValue': [date: string | null] }>()

const market = useMarket()
/** The calendar opens at the market clock, not at the wall clock. */
const opensAt = () => new Date(`${dateOfDay(dayOfHour(market.run.hour))}T00:00:00`)

/** Frames within which a calendar that was asked for is drawn, on a slow machine too. */
const FRAMES = 60

/** The calendar is a dialog that the component leaves without a name. */
async function nameCalendar(isOpen: boolean) {
  for (let frame = 0; isOpen && frame < FRAMES; frame++) {
    await new Promise(requestAnimationFrame)
    const calendars = document.querySelectorAll(`.DayField-calendar.of-${props.id}`)
    for (const calendar of calendars) calendar.setAttribute('aria-label', 'Choose a day')
    if (calendars.length > 0) return
  }
}
</script>

<template>
  <ElDatePicker
    :id="id" :model-value="modelValue ?? undefined" type="date" value-format="YYYY-MM-DD" format="D MMM YYYY" :placeholder="placeholder ?? 'choose a day'" :default-value="opensAt()"
    :disabled="disabled" :popper-class="`DayField-calendar of-${id}`" :title="`Market time ${marketTime(market.run.hour)}`" @visible-change="nameCalendar" @update:model-value="(date: string | null) => emit('update:modelValue', date ?? null)"
  />
</template>

<style>
.el-date-editor.el-input {
  --el-date-editor-width: 150px;
}
</style>
