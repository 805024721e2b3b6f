<script setup lang="ts">
import { computed } from 'vue'
import { ElInput } from 'element-plus'
import type { LineEditing } from './use-line-editing'

/** The line's name, whether it is saved, and the way back. */
export interface LineTitleProps {
  editing: LineEditing
}
const props = defineProps<LineTitleProps>()
const { line, draft, problems, saving, undoStack, redoStack, mayDraft, change, undo, redo } = props.editing

const savingWords = computed(
  () =>
    ({
      saved: line.value?.inForce ? 'draft saved' : 'saved',
      waiting: 'saving …',
      saving: 'saving …',
      refused: 'not saved',
      away: 'not saved yet: the server is away, and is tried again'
    })[saving.value]
)
</script>

<template>
  <div class="LineTitle">
    <ElInput
      id="line-name"
      :model-value="draft?.name"
      :disabled="!mayDraft"
      maxlength="120"
      aria-label="Name of the line"
      @update:model-value="(name: string) => change((d) => (d.name = name))" />
    <span class="quiet small" :class="{ trouble: saving === 'refused' || saving === 'away' }" role="status" data-test="saving">{{
      savingWords
    }}</span>
    <button v-if="undoStack.length > 0" class="plain" type="button" @click="undo">Undo</button>
    <button v-if="redoStack.length > 0" class="plain" type="button" @click="redo">Redo</button>
  </div>
  <p v-if="problems.name" class="trouble small" role="alert">{{ problems.name }}</p>
</template>

<style>
.LineTitle {
  display: flex;
  gap: 12px;
  align-items: baseline;
}

.LineTitle .el-input {
  width: 340px;
}

.LineTitle .el-input__wrapper {
  padding: 0;
  background: none;
  box-shadow: 0 1px 0 0 var(--rule);
}

.LineTitle .el-input__inner {
  color: var(--ink);
  font: 600 15px var(--sans);
}
</style>
