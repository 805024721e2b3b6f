<script setup lang="ts" generic="Value extends string">
import { ElRadio, ElRadioGroup } from 'element-plus'
import 'element-plus/theme-chalk/el-radio.css'
import 'element-plus/theme-chalk/el-radio-group.css'
import FieldRow from '@/parts/FieldRow.vue'

/** One of a few, all of them in sight. */
export interface ChoiceFieldProps<Choice> {
  label: string
  /** Where the label alone says too little. */
  named?: string
  value: Choice
  choices: readonly { value: Choice; label: string }[]
  disabled: boolean
  problem?: string
}
defineProps<ChoiceFieldProps<Value>>()
defineEmits<{ choose: [value: Value] }>()
</script>

<template>
  <FieldRow :label="label" :problem="problem">
    <ElRadioGroup
      :model-value="value"
      :disabled="disabled"
      :aria-label="named ?? label"
      @update:model-value="(chosen) => $emit('choose', chosen as Value)"
      ><ElRadio v-for="choice in choices" :key="choice.value" :value="choice.value" :label="choice.label"
    /></ElRadioGroup>
    <slot />
  </FieldRow>
</template>
