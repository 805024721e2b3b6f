<script setup lang="ts">
import { computed } from 'vue'
import { ElOption, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-option.css'
import { WHOLE_HOUR_ZONES } from '@tin-harbor/core/time'
import { shortDate } from '@/composables/formats'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import DayField from '@/parts/DayField.vue'
import FieldRow from '@/parts/FieldRow.vue'
import HourField from './HourField.vue'

const { draft, campaign, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
/** A zone in which the line's own hours lie elsewhere on the clock of the day. */
const zoneWords = computed(() =>
  draft.value.hours?.clock === 'line' ? 'Its hours are read in this zone: another moves them with it.' : undefined
)
</script>

<template>
  <FieldRow label="First day" for="line-start" :problem="problem('flight.startDate') ?? problem('flight.startHour')">
    <DayField
      id="line-start"
      :model-value="draft.flight.startDate"
      :disabled="disabled"
      @update:model-value="(date) => change((d) => (d.flight.startDate = date ?? ''))" />
    <HourField
      :model-value="draft.flight.startHour ?? null"
      label="Hour at which it starts"
      none="from the start of the day"
      before="at"
      :disabled="disabled"
      @update:model-value="(hour) => change((d) => (d.flight.startHour = hour))" />
    <span v-if="campaign" class="quiet small FieldRow-beside"
      >the campaign runs {{ shortDate(campaign.flight.startDate) }}
      {{ campaign.flight.endDate ? `to ${shortDate(campaign.flight.endDate)}` : 'on' }}</span
    >
  </FieldRow>
  <FieldRow label="Last day" for="line-end" :problem="problem('flight.endDate') ?? problem('flight.endHour')">
    <DayField
      id="line-end"
      :model-value="draft.flight.endDate"
      placeholder="open"
      :disabled="disabled"
      @update:model-value="(date) => change((d) => Object.assign(d.flight, { endDate: date }, date === null ? { endHour: null } : {}))" />
    <HourField
      v-if="draft.flight.endDate !== null"
      :model-value="draft.flight.endHour ?? null"
      label="Hour at which it ends"
      none="to the end of the day"
      before="until"
      :disabled="disabled"
      @update:model-value="(hour) => change((d) => (d.flight.endHour = hour))" />
  </FieldRow>
  <FieldRow label="Days are of" :problem="problem('zone')" :hint="zoneWords">
    <ElSelect
      :model-value="draft.zone"
      filterable
      :disabled="disabled"
      aria-label="Time zone"
      @update:model-value="(zone: string) => change((d) => (d.zone = zone))"
      ><ElOption v-for="zone in WHOLE_HOUR_ZONES" :key="zone" :value="zone" :label="zone"
    /></ElSelect>
  </FieldRow>
</template>
