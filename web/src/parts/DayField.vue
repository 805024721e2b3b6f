<script setup lang="ts">
import { onBeforeUnmount, onMounted } from 'vue'
import dayjs from 'dayjs'
import { ElDatePicker } from 'element-plus'
import 'element-plus/theme-chalk/el-date-picker.css'
import 'element-plus/theme-chalk/el-date-picker-panel.css'
import 'element-plus/theme-chalk/el-popper.css'
import { dayNamed } from '@tin-harbor/core/wording'
import { marketTime, weekStarts } from '@/composables/formats'
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

// The calendar asks for the language of its own texts: there weeks begin as the team's do.
dayjs.locale({ ...dayjs.Ls.en, weekStart: weekStarts() }, undefined, true)

const FORM = 'D MMM YYYY'

const market = useMarket()
/** The calendar opens at the market clock, not at the wall clock. */
const opensAt = () => new Date(`${dateOfDay(dayOfHour(market.run.hour))}T00:00:00`)

/** A day as people type it, `2 Mar` or `2026-03-02`; one without a year is of the market's. */
function onTyped(event: Event) {
  const field = event.target as HTMLInputElement
  const date = dayNamed(field.value.trim(), opensAt().getFullYear())
  const words = date === null ? field.value : dayjs(date).format(FORM)
  if (words === field.value) return
  // The calendar would read a day without a year as one of another century: it is given the whole of it, as if that had been typed.
  field.value = words
  field.dispatchEvent(new Event('input', { bubbles: true }))
}

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
  <span class="DayField" @change.capture="onTyped" @keydown.enter.capture="onTyped"
    ><ElDatePicker
      :id="id"
      :model-value="modelValue ?? undefined"
      type="date"
      value-format="YYYY-MM-DD"
      :format="FORM"
      :placeholder="placeholder ?? 'choose a day'"
      :default-value="opensAt()"
      :disabled="disabled"
      popper-class="DayField-calendar"
      :title="`Market time ${marketTime(market.run.hour)}`"
      @update:model-value="(date: string | null) => emit('update:modelValue', date ?? null)"
  /></span>
</template>

<style>
.el-date-editor.el-input {
  --el-date-editor-width: 150px;
}
</style>
