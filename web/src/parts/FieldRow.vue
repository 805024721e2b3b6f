<script setup lang="ts">
export interface FieldRowProps {
  label: string
  /** Id of the control the label is for. */
  for?: string
  /** What is wrong with the field; shown under it. */
  problem?: string
  hint?: string
}
defineProps<FieldRowProps>()
</script>

<template>
  <div class="FieldRow" :class="{ 'has-problem': problem }">
    <label v-if="$props.for" :for="$props.for">{{ label }}</label>
    <span v-else class="FieldRow-label">{{ label }}</span>
    <div class="FieldRow-control">
      <slot />
      <p v-if="problem" class="FieldRow-problem" role="alert">{{ problem }}</p>
      <p v-else-if="hint" class="FieldRow-hint">{{ hint }}</p>
    </div>
  </div>
</template>

<style>
.FieldRow {
  display: grid;
  grid-template-columns: 128px 1fr;
  gap: 4px 12px;
  align-items: start;
  padding: 5px 0;
}

.FieldRow > label,
.FieldRow-label {
  padding-top: 4px;
  color: var(--ink-2);
  font-size: 12.5px;
}

.FieldRow-problem {
  margin-top: 2px;
  color: var(--hull);
  font-size: 12px;
}

.FieldRow-hint {
  margin-top: 2px;
  color: var(--ink-2);
  font-size: 12px;
}

.FieldRow-beside {
  margin-left: 10px;
}

.FieldRow .el-select {
  max-width: 420px;
}

.FieldRow .el-checkbox,
.FieldRow .el-radio {
  height: 24px;
  margin-right: 18px;
}

.FieldRow.has-problem .el-input__wrapper,
.FieldRow.has-problem .el-select__wrapper {
  box-shadow: 0 0 0 1px var(--hull) inset;
}
</style>
