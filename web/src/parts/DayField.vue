<script setup lang="ts">
import { onBeforeUnmount, onMounted } from 'vue'
import dayjs from 'dayjs'
import 'dayjs/locale/en-gb'
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
defineProps<DayFieldProps>()
const emit = defineEmits<{ 'update:modelValue': [date: string | null] }>()

// Weeks begin on Monday, as in the team's country.
dayjs.locale('en-gb')

const market = useMarket()
/** The calendar opens at the market clock, not at the wall clock. */
const opensAt = () => new Date(`${dateOfDay(dayOfHour(market.run.hour))}T00:00:00`)

/** Calendars are dialogs that the component leaves without a name, and makes anew each time they open. */
const calendars = new MutationObserver(() => {
  for (const calendar of document.querySelectorAll('.DayField-calendar:not([aria-label])'))
    calendar.setAttribute('aria-label', 'Choose a day')
})
onMounted(() =>
  calendars.observe(document.querySelector('[id^=el-popper-container]') ?? document.body, {
    childList: true,
    subtree: true,
    attributes: true,
    attributeFilter: ['aria-hidden']
  })
)
onBeforeUnmount(() => calendars.disconnect())
</script>

<template>
  <ElDatePicker
    :id="id"
    :model-value="modelValue ?? undefined"
    type="date"
    value-format="YYYY-MM-DD"
    format="D MMM YYYY"
    :placeholder="placeholder ?? 'choose a day'"
    :default-value="opensAt()"
    :disabled="disabled"
    popper-class="DayField-calendar"
    :title="`Market time ${marketTime(market.run.hour)}`"
    @update:model-value="(date: string | null) => emit('update:modelValue', date ?? null)" />
</template>

<style>
.el-date-editor.el-input {
  --el-date-editor-width: 150px;
}
</style>
