<script setup lang="ts">
import { ElInputNumber } from 'element-plus'
import 'element-plus/theme-chalk/el-input-number.css'
import { LIMITS } from '@tin-harbor/core/buying'

/** Caps of a line or a campaign: at most so often in so many hours, to one person. */
export interface CapFieldsProps {
  caps: { times: number; hours: number }[]
  disabled?: boolean
}
const props = defineProps<CapFieldsProps>()
const emit = defineEmits<{ change: [caps: { times: number; hours: number }[]] }>()

const edit = (change: (caps: { times: number; hours: number }[]) => void) => {
  const caps = props.caps.map((cap) => ({ ...cap }))
  change(caps)
  emit('change', caps)
}
</script>

<template>
  <div class="CapFields">
    <div v-for="(cap, n) in caps" :key="n" class="CapFields-cap">
      <ElInputNumber
        :model-value="cap.times"
        :min="1"
        :max="LIMITS.mostCapTimes"
        :controls="false"
        :disabled="disabled"
        :aria-label="`Cap ${n + 1}: times`"
        @update:model-value="(times) => edit((all) => (all[n].times = times ?? 1))" />
      times in
      <ElInputNumber
        :model-value="cap.hours"
        :min="1"
        :max="LIMITS.mostCapHours"
        :controls="false"
        :disabled="disabled"
        :aria-label="`Cap ${n + 1}: hours`"
        @update:model-value="(hours) => edit((all) => (all[n].hours = hours ?? 24))" />
      hours a person
      <button v-if="!disabled" class="plain" type="button" :aria-label="`Take cap ${n + 1} away`" @click="edit((all) => all.splice(n, 1))">
        ✕
      </button>
    </div>
    <button
      v-if="caps.length < LIMITS.mostCaps && !disabled"
      class="plain"
      type="button"
      data-test="add-cap"
      @click="edit((all) => all.push({ times: 3, hours: 24 }))">
      Add a cap
    </button>
  </div>
</template>

<style>
.CapFields-cap {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 4px;
}

.CapFields-cap .el-input-number {
  width: 62px;
}
</style>
