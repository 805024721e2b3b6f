<script setup lang="ts">
import { ref, watch } from 'vue'
import { ElInput } from 'element-plus'
import { MoneyFormatError, parseMoney } from '@tin-harbor/core/money'
import { marks, typedMoney } from '@/composables/formats'

export interface MoneyFieldProps {
  id: string
  /** Micros; null when nothing was typed. */
  modelValue: number | null
  /** What the amount is for, said after it: `a day`, `CPM`. */
  unit?: string
  /** Says what it is where no label does. */
  label?: string
  disabled?: boolean
}
const props = defineProps<MoneyFieldProps>()
const emit = defineEmits<{ 'update:modelValue': [micros: number | null]; problem: [message: string | null] }>()

const text = ref('')
watch(
  () => props.modelValue,
  (micros) => {
    const typed = read(text.value)
    if (typed !== micros) text.value = micros === null ? '' : typedMoney(micros)
  },
  { immediate: true }
)

/** Micros of what was typed; undefined when it cannot be read. */
function read(typed: string): number | null | undefined {
  const trimmed = typed.trim()
  if (trimmed === '') return null
  const negative = /^[-−]/.test(trimmed)
  try {
    const micros = parseMoney(negative ? trimmed.slice(1) : trimmed, marks())
    return negative ? -micros : micros
  } catch (error) {
    if (error instanceof MoneyFormatError) return undefined
    throw error
  }
}

function onInput(typed: string) {
  text.value = typed
  const micros = read(typed)
  if (micros === undefined) {
    emit('problem', `"${typed}" cannot be read as an amount; write it as ${typedMoney(2_400_000)}.`)
    return
  }
  emit('problem', null)
  emit('update:modelValue', micros)
}

function onBlur() {
  const micros = read(text.value)
  if (typeof micros === 'number') text.value = micros < 0 ? `-${typedMoney(-micros)}` : typedMoney(micros)
}
</script>

<template>
  <span class="MoneyField">
    <ElInput
      :id="id"
      :aria-label="label"
      :model-value="text"
      inputmode="decimal"
      :disabled="disabled"
      autocomplete="off"
      @update:model-value="onInput"
      @blur="onBlur">
      <template #prefix>€</template>
    </ElInput>
    <span v-if="unit" class="quiet small">{{ unit }}</span>
  </span>
</template>

<style>
.MoneyField {
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
}

.MoneyField .el-input {
  width: 112px;
}
</style>
